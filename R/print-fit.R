#' @export
format.ensayo_fit <- function(x, ...) {
  table <- as.list(unclass_table(x$table))
  shown <- list(
    law = table$law, parameters = vapply(x$fits[table$law], function(fit) {
      paste(names(fit$estimate), format_number(unlist(fit$estimate)), collapse = ", ")
    }, ""),
    AIC = formatC(table$aic, format = "f", digits = 1), BIC = formatC(table$bic, format = "f", digits = 1),
    AD = formatC(table$anderson_darling, format = "f", digits = 2),
    KS = formatC(table$kolmogorov_smirnov, format = "f", digits = 3)
  )
  if (length(x$below)) shown[c("AD", "KS")] <- NULL
  if (!all(is.na(table$p_ad))) {
    shown <- c(shown, list(`p(AD)` = formatC(table$p_ad, format = "f", digits = 2),
      `p(KS)` = formatC(table$p_ks, format = "f", digits = 2)))
  }
  if (any(nzchar(table$remark))) shown$remark <- table$remark
  numeric <- names(shown) %in% c("AIC", "BIC", "AD", "KS", "p(AD)", "p(KS)")
  c(
    title_line("Fit", sprintf("%s, by %s", count_of(length(x$data) + length(x$below), "observation"), x$method)),
    text_table(shown, numeric = numeric),
    if (length(unique(table$kind)) > 1) "AIC and BIC compare discrete laws with each other, and continuous ones, not one with the other.",
    if (length(x$warnings)) c("", paste("Note:", x$warnings))
  )
}

#' @export
print.ensayo_fit <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}
