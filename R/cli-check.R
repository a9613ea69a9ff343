# `ensayo check FILE`

cli_check <- function(args) {
  call <- cli_parse(args, "check FILE [options]",
    "Read a study file, say what is in it and review it, without running it. Of a workbook: its results, and what they hang on.",
    options = list(cli_option_json(), cli_option_set(), cli_option_programs(),
      optparse::make_option("--strict", action = "store_true", default = FALSE,
        help = "fail where the review has a warning")), positional = "file",
    footer = c("", "Functions a formula may call:",
      strwrap(paste(file_functions(), collapse = " "), 76, prefix = "  ")))
  if (is.null(call)) return(exit_codes[["done"]])
  if (is_workbook_name(call$arguments$file)) {
    book <- read_workbook_file(call$arguments$file)
    if (is.null(study_sheet(book))) return(cli_check_workbook(call, book))
  }
  read <- cli_read_study(call)
  validate_study(read$study)
  base <- if (length(refused_programs(read$study)) == 0) base_case_of(read$study)
  findings <- review(read$study, nsim = read$run$runs, percentiles = shown_percentiles(read$study$readings))
  if (call$options$json) {
    writeLines(to_json(list(study = read$study$title, hash = study_hash(read$study),
      inputs = unclass_table(input_table(read$study)),
      correlations = read$study$correlations, outputs = unclass_table(output_table(read$study)),
      specs = lapply(read$study$specs,
        function(spec) spec$text), base_case = base$outputs, review = unclass_table(findings))))
  } else {
    writeLines(c(format(read$study), "", heading("Base case"),
      if (is.null(base)) "  It needs the programs above: see --run-programs." else base_lines(read$study, base),
      review_lines(findings)))
  }
  if (call$options$strict && any(findings$severity != "hint")) {
    say("%s has warnings.", call$arguments$file)
    return(exit_codes[["failed"]])
  }
  say("%s is a study that can be run.", call$arguments$file)
  exit_codes[["done"]]
}

file_functions <- function() sort(grep("^[a-z]", c(names(formula_verbs), elementwise_functions), value = TRUE))

base_lines <- function(study, base) {
  failed <- base$failures$reason[match(names(base$outputs), base$failures$output)]
  columns <- drop_empty(list(
    output = names(base$outputs), value = text_of(names(base$outputs), function(name) {
      value <- base$outputs[[name]]
      if (length(value) > 1) series_ends(value) else format_value(as.double(value), column_kind(study, name, value))
    }),
    unit = vapply(names(base$outputs), function(name) quantity_unit(study, name) %||% "", ""),
    ` ` = ifelse(is.na(failed), "", paste("failed:", failed))
  ))
  text_table(columns, numeric = names(columns) == "value", indent = "  ")
}

# Findings of a kind together, with what to do about them under them.
review_lines <- function(findings) {
  if (nrow(findings) == 0) return(c("", heading("Review"), "  Nothing found."))
  kind <- paste(findings$severity, findings$seen, findings$todo, sep = "\r")
  lines <- lapply(split(findings, factor(kind, unique(kind))), function(rows) {
    c(strwrap(sprintf("%s, %s: %s", rows$severity[1], paste(rows$about, collapse = ", "), rows$seen[1]), 98,
      indent = 2, exdent = 4),
      strwrap(rows$todo[1], 98, indent = 4, exdent = 4))
  })
  c("", heading(sprintf("Review (%s)", count_of(nrow(findings), "finding"))), unlist(lines, use.names = FALSE))
}
