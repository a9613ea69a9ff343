# `ensayo quick FILE`

cli_quick <- function(args) {
  call <- cli_parse(args, "quick FILE [options]",
    "Rehearse a sum, a product or formulas of a table of inputs: a CSV file, or a sheet of a workbook.",
    options = c(list(
      optparse::make_option("--formula", type = "character", default = "sum",
        help = "sum, product, or formulas: \"area = width * length; cost = area * price\" [default: sum]"),
      optparse::make_option("--spec", type = "character", help = "conditions that should hold: \"cost <= 1200; area > 5\""),
      optparse::make_option("--unit", type = "character", help = "unit of the last formula [default: of a sum, that of its parts]"),
      optparse::make_option("--sheet", type = "character", help = "sheet of a workbook [default: the first with a heading \"name\"]")
    ), cli_run_options(), list(
      optparse::make_option("--out", type = "character", help = "result folder [default: FILE without its ending, and -result]"),
      cli_option_no_plots(), cli_option_force(), cli_option_json()
    )),
    positional = "file",
    footer = c("", "The table has a row for each input, under headings:",
      "  name             what it is called; in formulas, spaces become _",
      "  low, most_likely, high    or low % and high % of a base, or a law written out",
      "  law              if wanted: pert, triangular or uniform between them",
      "  unit, label, group, note  if wanted", "",
      "The folder holds study.yml, the same as a study file, to go on with."))
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  file <- call$arguments$file
  study <- as_call_fault(quick_study(file, options$sheet, trimws(options$formula), cli_list(options$spec, ";"), options$unit))
  settings <- cli_run_settings(options, file_run(NULL))
  out <- options[["out"]] %||% paste0(sub("[.][A-Za-z]+$", "", file), "-result")
  result <- rehearse_into(list(study = study), settings, out, options$force, plots = !options[["no-plots"]])
  cli_print_result(result, options$json)
  say("\nWrote %s. Go on with the study in %s, or a page to read: ensayo report %s", out, file.path(out, "study.yml"), out)
  if (length(failed_outputs(result))) return(exit_codes[["failed"]])
  exit_codes[["done"]]
}
