# `ensayo report DIR`

cli_report <- function(args) {
  call <- cli_parse(args, "report DIR [options]",
    "Write the report of a result folder: one HTML page that needs nothing else.",
    options = list(optparse::make_option("--out", type = "character", help = "the page [default: DIR/report.html]"),
      cli_option_changed()),
    positional = "dir")
  if (is.null(call)) return(exit_codes[["done"]])
  page <- call$options$out %||% file.path(call$arguments$dir, "report.html")
  write_report(read_result(call$arguments$dir, call$options$changed), page)
  say("Wrote %s.", page)
  exit_codes[["done"]]
}
