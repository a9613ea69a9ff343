# `ensayo report DIR`

cli_report <- function(args) {
  call <- cli_parse(args, "report DIR [options]",
    "Write the report of a result folder: one HTML page that needs nothing else, or sheets of a workbook.",
    options = list(optparse::make_option("--out", type = "character", help = "the page, or a workbook that ends in .xlsx or .ods [default: DIR/report.html]"),
      optparse::make_option("--workbook", type = "character", help = "a workbook: --out is a copy of it, with the results behind its sheets"),
      optparse::make_option("--beside", type = "character", help = "other result folders, with commas between them, to be switched on and off beside it"),
      cli_option_changed(), cli_option_force()),
    positional = "dir")
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  page <- options[["out"]] %||% file.path(call$arguments$dir, "report.html")
  is_page <- grepl("[.]html?$", page, ignore.case = TRUE)
  if (!is.null(options$workbook) && is.null(options[["out"]])) {
    stop_ensayo("call", "--workbook goes with --out.", NULL, sprintf("Name the copy: --out %s.", sub("([.][A-Za-z]+)$", "-results\\1", basename(options$workbook))))
  }
  # a page that is there is written anew; a workbook may have been worked on since
  write_report(read_result(call$arguments$dir, options$changed), page, overwrite = is_page || isTRUE(options$force), workbook = options$workbook,
    beside = cli_list(options$beside))
  say("Wrote %s.", page)
  exit_codes[["done"]]
}
