# Rounding of results and their uncertainties, on the decimal text of 15 digits: what a reader sees is what is rounded, so that
# 0.15 is a tie and not 0.1499999.

# `x` to so many decimals (below 0: tens, hundreds). Ties go to the even digit, as ISO 80000-1, annex B, rule A; `up` rounds away
# from 0 whatever follows.
rounded_decimal <- function(x, decimals, up = FALSE) {
  unlist(Map(function(value, decimals) {
    if (!is.finite(value) || value == 0) return(value)
    parts <- decimal_digits(value)
    # digits in front of the place that is rounded to
    kept <- parts$exponent + 1 + decimals
    if (kept >= length(parts$digits)) return(value)
    if (kept < 0) return(if (up) sign(value) * 10^-decimals else 0)
    rest <- parts$digits[(kept + 1):length(parts$digits)]
    whole <- sum(parts$digits[seq_len(kept)] * 10^rev(seq_len(kept) - 1))
    half <- rest[1] == 5 && all(rest[-1] == 0)
    more <- if (up) any(rest != 0) else if (half) whole %% 2 == 1 else rest[1] >= 5
    text <- sprintf("%.0fe%d", whole + more, -decimals)
    sign(value) * as.double(text)
  }, as.double(x), decimals), use.names = FALSE)
}

# "95 %", "95.45 %", "99.73 %": whole per cents as such, others with a decimal, or two where they are that or close to all.
coverage_text <- function(share) {
  percent <- signif(100 * share, 6)
  format_share(share, if (percent == round(percent)) 0 else if (percent > 99 || percent == round(percent, 2)) 2 else 1)
}

# The significant digits of a number's 15-digit decimal text, and the exponent of the first.
decimal_digits <- function(value) {
  text <- formatC(abs(value), format = "e", digits = 14)
  parts <- strsplit(text, "e", fixed = TRUE)[[1]]
  list(digits = as.integer(strsplit(sub(".", "", parts[1], fixed = TRUE), "")[[1]]), exponent = as.integer(parts[2]))
}

# How many decimals a number has with so many significant digits, after rounding: 9.96 has with two none, for it is 10.
decimals_for <- function(x, digits, up = FALSE) {
  vapply(as.double(x), function(value) {
    if (!is.finite(value) || value == 0) return(NA_real_)
    decimals <- digits - 1 - decimal_digits(value)$exponent
    decimals - (decimal_digits(rounded_decimal(value, decimals, up))$exponent > decimal_digits(value)$exponent)
  }, 0)
}

# A number with so many decimals as text, trailing zeros kept; large and small ones with the power of ten.
decimal_text <- function(x, decimals) {
  vapply(seq_along(x), function(i) {
    value <- x[i]
    places <- rep_len(decimals, length(x))[i]
    if (!is.finite(value)) return(format_not_finite(value))
    if (is.na(places)) return(format_given(value))
    if (places > 12 || places < -9) {
      power <- -places
      digits <- max(0, decimal_digits(value)$exponent + places) * (value != 0)
      return(formatC(value, format = "e", digits = digits))
    }
    formatC(rounded_decimal(value, places) + 0, format = "f", digits = max(places, 0), big.mark = if (abs(value) >= 1e4) " " else "")
  }, "")
}
