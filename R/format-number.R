# Numbers as readers see them. Tables keep them unrounded; only prints and figures round.

# About four significant digits, without exponents where a reader would not write one.
format_number <- function(x, digits = 4) {
  vapply(as.double(x), function(value) {
    if (!is.finite(value)) return(format_not_finite(value))
    value <- signif(value, digits)
    size <- abs(value)
    if (size != 0 && (size < 1e-4 || size >= 1e9)) return(format(value, digits = digits, scientific = TRUE))
    if (size >= 1e4) return(format(value, big.mark = " ", scientific = FALSE))
    format(value, digits = digits, scientific = FALSE)
  }, "", USE.NAMES = FALSE)
}

format_not_finite <- function(value) {
  if (is.nan(value)) "NaN" else if (is.na(value)) "-" else if (value > 0) "Inf" else "-Inf"
}

# How many decimals the values of a quantity have: enough to tell P10 from P90 by a hundred steps, and no finer than the
# simulation error. NA where nothing varies.
decimals_of <- function(p10_to_p90, error = 0) {
  step <- pmax(p10_to_p90 / 100, error, na.rm = TRUE)
  ifelse(is.finite(step) & step > 0, -floor(log10(step) + 1e-9), NA_real_)
}

# With so many decimals, or rounded to tens and hundreds where they are below 0; as format_number() where they are NA.
format_decimals <- function(x, decimals) {
  unlist(Map(function(value, decimals) {
    if (is.na(decimals)) return(format_number(value))
    if (!is.finite(value)) return(format_not_finite(value))
    value <- round(value, decimals) + 0  # no minus before a 0
    size <- abs(value)
    if (size >= 1e9 || decimals > 9) {
      digits <- if (size == 0) 1 else min(max(decimals + floor(log10(size)) + 1, 1), 15)
      if (size >= 1e9 || size < 1e-4) return(format(value, digits = digits, scientific = TRUE))
      return(formatC(value, format = "f", digits = decimals))
    }
    formatC(value, format = "f", digits = max(decimals, 0), big.mark = if (size >= 1e4) " " else "")
  }, as.double(x), decimals), use.names = FALSE) %||% character()
}

# The numbers on an axis: as many decimals as tell one from the next.
axis_numbers <- function(breaks) {
  steps <- diff(sort(unique(breaks[is.finite(breaks)])))
  steps <- steps[steps > 0]
  size <- max(abs(breaks[is.finite(breaks)]), 0)
  if (length(steps) == 0 || size >= 1e9 || size < 1e-4) return(format_number(breaks))
  # the least number of decimals that shows the step itself
  decimals <- 0
  while (decimals < 15 && any(abs(round(steps, decimals) / steps - 1) > 0.02)) decimals <- decimals + 1
  ifelse(is.na(breaks), NA, format_decimals(breaks, decimals))
}

# A number, a day, yes or no, or a category as it is. A whole number has no decimals.
format_value <- function(x, kind = "number", decimals = NA) {
  if (is.character(x)) return(x)
  if (identical(kind, "yes/no") && all(x %in% c(0, 1))) return(ifelse(x == 1, "yes", "no"))
  if (identical(kind, "date")) return(ifelse(is.finite(x), format(as_day(ifelse(is.finite(x), x, 0))), "-"))
  if (kind %in% c("whole", "yes/no")) decimals <- ifelse(is.finite(x) & x == round(x), pmin(decimals, 0), decimals)
  format_decimals(x, decimals)
}

# Exactly as given, up to 10 digits: for what a user typed.
format_given <- function(x) {
  if (is.character(x)) return(quoted(x))
  format(x, digits = 10, scientific = if (x != 0 && abs(x) < 1e-4) TRUE else 9, trim = TRUE)
}

# The value of a constant, which may be a text.
constant_text <- function(x) if (is.character(x)) x else format_given(x)

# A share of the runs as a percentage. What is not quite none or all never shows as 0 or 100.
format_share <- function(x, digits = 1) {
  percent <- 100 * x
  shown <- formatC(percent, format = "f", digits = digits)
  least <- 10^-digits
  shown <- ifelse(percent > 0 & percent < least / 2, paste0("<", formatC(least, format = "f", digits = digits)), shown)
  shown <- ifelse(percent < 100 & percent > 100 - least / 2,
    paste0(">", formatC(100 - least, format = "f", digits = digits)), shown)
  ifelse(is.na(x), "-", paste0(shown, " %"))
}

# A share near all as far as it differs from it: "99.98 %".
known_share <- function(x) {
  vapply(x, function(share) {
    if (!is.finite(share)) return("-")
    left <- 100 * (1 - share)
    decimals <- if (left <= 0) 0 else if (left >= 5) 0 else min(max(1, ceiling(-log10(left))), 7)
    format_share(share, decimals)
  }, "")
}

format_percentile <- function(at) ifelse(is.na(at), "-", paste0("P", formatC(at, format = "f", digits = 0)))

with_unit <- function(text, unit) if (is.null(unit) || !nzchar(unit)) text else paste(text, unit)

as_day <- function(x) structure(floor(as.double(x)), class = "Date")

# A numeric column, or texts where a category is among the values.
values_column <- function(values) {
  if (any(vapply(values, is.character, TRUE))) vapply(values, format_value, "", USE.NAMES = FALSE)
  else vapply(values, as.double, 0, USE.NAMES = FALSE)
}

# A text, or another where it is missing.
`%|%` <- function(x, other) if (is.na(x)) other else unname(x)

# "within -0.5 to 0.5 %", "at least 38 m": limits as they were given.
limits_words <- function(lower, upper, unit) {
  given <- function(x) with_unit(format_given(x), unit)
  if (is.infinite(upper)) sprintf("at least %s", given(lower)) else if (is.infinite(lower)) sprintf("at most %s", given(upper))
  else sprintf("within %s to %s", format_given(lower), given(upper))
}
