# Numbers as readers see them. Tables keep them unrounded; only prints and figures round.

# About four significant digits, without exponents where a reader would not write one.
format_number <- function(x, digits = 4) {
  vapply(as.double(x), function(value) {
    if (is.nan(value)) return("NaN")
    if (is.na(value)) return("-")
    if (is.infinite(value)) return(if (value > 0) "Inf" else "-Inf")
    value <- signif(value, digits)
    size <- abs(value)
    if (size != 0 && (size < 1e-4 || size >= 1e9)) return(format(value, digits = digits, scientific = TRUE))
    if (size >= 1e5) return(format(value, big.mark = " ", scientific = FALSE))
    format(value, digits = digits, scientific = FALSE)
  }, "", USE.NAMES = FALSE)
}

# A number, a day, yes or no, or a category as it is.
format_value <- function(x, kind = "number") {
  if (is.character(x)) return(x)
  if (identical(kind, "yes/no") && all(x %in% c(0, 1))) return(ifelse(x == 1, "yes", "no"))
  if (!identical(kind, "date")) return(format_number(x))
  ifelse(is.finite(x), format(as_day(ifelse(is.finite(x), x, 0))), "-")
}

# Exactly as given, up to 10 digits: for what a user typed.
format_given <- function(x) {
  if (is.character(x)) return(quoted(x))
  format(x, digits = 10, scientific = if (x != 0 && abs(x) < 1e-4) TRUE else 9, trim = TRUE)
}

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

format_percentile <- function(at) ifelse(is.na(at), "-", paste0("P", formatC(at, format = "f", digits = 0)))

with_unit <- function(text, unit) if (is.null(unit) || !nzchar(unit)) text else paste(text, unit)
