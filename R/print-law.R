#' @export
format.ensayo_law <- function(x, ...) law_text(x, exact = FALSE)

#' @export
print.ensayo_law <- function(x, ...) {
  cat("Law: ", format(x), "\n", sep = "")
  cat(law_lines(x), sep = "\n")
  invisible(x)
}

law_lines <- function(law) {
  if (is_categorical(law)) {
    par <- family_discrete$canonical(parameters_of(law))
    return(paste0("  ", paste(par$values, format_share(par$shares), collapse = ", ")))
  }
  ends <- support(law)
  m <- moments(law)
  p <- quantile(law, c(0.1, 0.5, 0.9))
  c(
    if (!is.null(told_of(law))) paste0("  that is ", law_text(law, exact = FALSE, told = FALSE)),
    sprintf("  from %s to %s, mean %s, sd %s", format_number(ends[[1]]), format_number(ends[[2]]),
      format_number(m$mean), format_number(m$sd)),
    sprintf("  P10 %s, P50 %s, P90 %s (not exceeded)", format_number(p[1]), format_number(p[2]), format_number(p[3])),
    if (family_name(law) == "truncated") {
      sprintf("  %s of %s was cut", format_share(1 - kept_share(parameters_of(law)), 2), format(parameters_of(law)$of))
    }
  )
}

#' @export
str.ensayo_law <- function(object, ...) cat("law ", format(object), "\n", sep = "")
