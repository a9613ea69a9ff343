#' @export
format.ensayo_law <- function(x, ...) {
  parameters <- parameters_of(x)
  family <- .subset2(x, "family")
  if (family == "scaled") {
    of <- format(parameters$of)
    scaled <- if (parameters$times == -1) paste0("-", of)
      else if (parameters$times == 1) of else paste(format_given(parameters$times), "*", of)
    if (parameters$plus == 0) return(scaled)
    return(paste(scaled, if (parameters$plus > 0) "+" else "-", format_given(abs(parameters$plus))))
  }
  # a shift of 0 is not worth a word
  shown <- parameters[!(names(parameters) == "min" & family == "lognormal" & vapply(parameters, identical, TRUE, 0))]
  paste0(family, "(", paste(names(shown), "=", vapply(shown, format_given, ""), collapse = ", "), ")")
}

#' @export
print.ensayo_law <- function(x, ...) {
  cat("Law: ", format(x), "\n", sep = "")
  ends <- support(x)
  m <- moments(x)
  p <- quantile(x, c(0.1, 0.5, 0.9))
  cat(sprintf("  from %s to %s, mean %s, sd %s\n", format_number(ends[[1]]), format_number(ends[[2]]),
    format_number(m$mean), format_number(m$sd)))
  cat(sprintf("  P10 %s, P50 %s, P90 %s (not exceeded)\n", format_number(p[1]), format_number(p[2]),
    format_number(p[3])))
  invisible(x)
}

#' @export
str.ensayo_law <- function(object, ...) cat("law ", format(object), "\n", sep = "")
