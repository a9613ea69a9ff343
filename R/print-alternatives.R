#' @export
print.ensayo_alternatives <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}

#' @export
format.ensayo_alternatives <- function(x, ...) {
  first <- x$studies[[1]]
  told <- vapply(x$studies, function(study) {
    changed <- changed_names(first, study)
    if (length(changed)) paste("changes", and_list(changed)) else "as the study is"
  }, "")
  c(title_line("Alternatives", first$title), sprintf("%s: %s", names(x$studies), told))
}

#' @export
print.ensayo_results <- function(x, ...) {
  cat(sprintf("%s of %s: %s. Ask `compare_results()`.\n", count_of(length(x), "result"), x[[1]]$study$title,
    and_list(names(x))))
  invisible(x)
}
