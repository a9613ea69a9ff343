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
  # as many digits as tell the percentiles apart
  digits <- max(4, min(15, 2 + ceiling(log10(max(abs(p)) / max(p[3] - p[1], 1e-300)))))
  c(
    if (!is.null(told_of(law))) paste0("  that is ", law_text(law, exact = FALSE, told = FALSE)),
    sprintf("  from %s to %s, mean %s, sd %s", format_number(ends[[1]], digits),
      format_number(ends[[2]], digits), format_number(m$mean, digits), format_number(m$sd)),
    sprintf("  P10 %s, P50 %s, P90 %s (not exceeded)", format_number(p[1], digits),
      format_number(p[2], digits), format_number(p[3], digits)),
    expert_lines(law),
    if (family_name(law) == "truncated") {
      sprintf("  %s of %s was cut", format_share(1 - kept_share(parameters_of(law)), 2), format(parameters_of(law)$of))
    }
  )
}

# What each part of a mixture with names would have given.
expert_lines <- function(law) {
  parts <- if (family_name(law) == "mixture") parameters_of(law)$of
  if (is.null(names(parts))) return(NULL)
  shares <- as_shares(parameters_of(law)$weights)
  p <- vapply(parts, quantile, numeric(3), probs = c(0.1, 0.5, 0.9))
  sprintf("  %s (%s): P10 %s, P50 %s, P90 %s", names(parts), format_share(shares, 0), format_number(p[1, ]),
    format_number(p[2, ]), format_number(p[3, ]))
}

#' @export
str.ensayo_law <- function(object, ...) cat("law ", format(object), "\n", sep = "")
