#' @export
print.ensayo_trial <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}

# What was given, what each model did, what came out.
#' @export
format.ensayo_trial <- function(x, ...) {
  study <- x$study
  c(title_line(if (is.null(x$of)) "Trial" else sprintf("Run %s", format_given(x$run)), study$title),
    if (is.null(x$of)) sprintf("one run, %s", if (length(x$given)) sprintf("%s as given, all else at its base value",
      and_list(x$given)) else "every input at its base value"),
    "", heading("Inputs"), trial_lines(x$inputs, study, rep("", length(x$inputs))),
    unlist(lapply(x$models, trial_model_lines)), "", heading("Outputs"), trial_output_lines(x))
}

trial_lines <- function(values, study, remark) {
  cells <- drop_empty(list(name = names(values), value = vapply(names(values), function(name) {
    shown_trial_value(values[[name]], study, name)
  }, ""), unit = text_of(names(values), function(name) quantity_unit(study, name)), ` ` = remark))
  text_table(cells, numeric = names(cells) == "value", indent = "  ")
}

# A series as its first value and its last.
series_ends <- function(values) {
  ends <- values[c(1, length(values))]
  shown <- ifelse(is.na(ends), "-", format(as.double(ends), digits = 6, trim = TRUE))
  sprintf("%s, ..., %s (%s)", shown[1], shown[2], count_of(length(values), "step"))
}

shown_trial_value <- function(value, study, name) {
  if (length(value) > 1) return(series_ends(value))
  if (is.na(value)) return("-")
  if (name %in% date_outputs(study)) return(format(as_day(value)))
  if (is.logical(value)) return(if (value) "yes" else "no")
  if (is.character(value)) value else format(value, digits = 6)
}

trial_output_lines <- function(x) {
  reason <- x$failures$reason[match(names(x$outputs), x$failures$output)]
  step <- x$failures$step[match(names(x$outputs), x$failures$output)]
  remark <- ifelse(is.na(reason), if (is.null(x$recorded)) "" else x$recorded,
    paste0("failed: ", reason, ifelse(nzchar(step), paste0(", at step ", step), "")))
  trial_lines(x$outputs, x$study, remark)
}

model_words <- c(`function` = "a function of R", steps = "step by step", elsewhere = "made elsewhere")

trial_model_lines <- function(model) {
  took <- sprintf("%s s", format_number(model$seconds, 2))
  if (is.null(model$command)) return(c("", heading(sprintf("%s, %s", model$name, model_words[[model$kind]] %||% "a model")), paste0("  took ", took)))
  ended <- if (!is.null(model$fault)) model$fault else if (!is.null(model$status)) sprintf("ended with status %d", model$status)
    else "answered"
  c("", heading(sprintf("%s, a program", model$name)),
    sprintf("  ran    %s", paste(model$command, collapse = " ")),
    if (!is.null(model$folder)) sprintf("  in     %s", model$folder),
    sprintf("  %s, %s", ended, took),
    trial_table("  What it was given", model$written, function(rows) {
      list(where = place_words(rows$file, rows$line), quantity = rows$quantity, text = trimws(rows$text, "right"))
    }),
    if (!is.null(model$fault)) trial_table("  What it said", model$said, function(rows) {
      list(where = place_words(rows$file, rows$line), text = rows$text)
    }),
    trial_table("  What was read", model$read, function(rows) {
      list(where = place_words(rows$file, rows$line), output = rows$output, value = ifelse(is.na(rows$value), "-",
        ifelse(rows$count > 1, sprintf("%s ... (%s)", vapply(rows$value, format_given, ""), rows$count),
          vapply(rows$value, format_given, ""))), text = rows$said)
    }))
}

trial_table <- function(title, rows, cells) {
  if (NROW(rows) == 0) return(NULL)
  shown <- cells(rows)
  shown$text <- substr(gsub("[[:cntrl:]]", " ", shown$text), 1, 70)
  c(title, text_table(shown, numeric = names(shown) == "value", indent = "    "))
}

place_words <- function(file, line) ifelse(is.na(line), file, sprintf("%s, line %s", file, format(line, trim = TRUE)))
