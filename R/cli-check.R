# `ensayo check FILE`

cli_check <- function(args) {
  call <- cli_parse(args, "check FILE [options]", "Read a study file and say what is in it, without running it.",
    options = list(cli_option_json()), positional = "file",
    footer = c("", "Functions a formula may call:",
      strwrap(paste(file_functions(), collapse = " "), 76, prefix = "  ")))
  if (is.null(call)) return(exit_codes[["done"]])
  read <- read_study_file(call$arguments$file)
  validate_study(read$study)
  base <- base_case_of(read$study, study_evaluator(read$study))
  if (call$options$json) {
    writeLines(to_json(list(study = read$study$title, hash = study_hash(read$study),
      inputs = unclass_table(input_table(read$study)),
      correlations = read$study$correlations, outputs = unclass_table(output_table(read$study)),
      specs = lapply(read$study$specs, function(spec) spec$text), base_case = base$outputs)))
  } else {
    writeLines(c(format(read$study), "", heading("Base case"), base_lines(read$study, base)))
  }
  say("%s is a study that can be run.", call$arguments$file)
  exit_codes[["done"]]
}

file_functions <- function() sort(grep("^[a-z]", c(names(formula_verbs), elementwise_functions), value = TRUE))

base_lines <- function(study, base) {
  failed <- base$failures$reason[match(names(base$outputs), base$failures$output)]
  columns <- drop_empty(list(
    output = names(base$outputs), value = format_number(unlist(base$outputs)),
    unit = vapply(names(base$outputs), function(name) quantity_unit(study, name) %||% "", ""),
    ` ` = ifelse(is.na(failed), "", paste("failed:", failed))
  ))
  text_table(columns, numeric = names(columns) == "value", indent = "  ")
}
