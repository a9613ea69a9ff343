# `ensayo fit DATA.csv --column X`

cli_fit <- function(args) {
  option <- optparse::make_option
  call <- cli_parse(args, "fit FILE [options]", "Fit laws to a column of a CSV file and rank them.", options = list(
    option("--column", type = "character", help = "the column's name; needed where there are several"),
    option("--laws", type = "character", help = "names of laws, separated by commas; else all that the data allow"),
    option("--method", type = "character", default = "likelihood",
      help = "likelihood, moments or percentiles [%default]"),
    option("--bootstrap", type = "integer", default = 0, help = "data sets simulated for p-values [%default]"),
    option("--seed", type = "integer", help = "for the bootstrap"),
    option("--plot", type = "character",
      help = "also write the picture of the first law to this file (.png, .pdf, .svg)"),
    cli_option_force(), cli_option_json()
  ), positional = "file")
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  data <- column_of_file(call$arguments$file, options$column)
  families <- if (!is.null(options$laws)) trimws(strsplit(options$laws, ",", fixed = TRUE)[[1]])
  fit <- fit_law(data$values, families, options$method, below = data$below, bootstrap = options$bootstrap, seed = options$seed)
  if (options$json) writeLines(to_json(list(observations = length(data$values), below_a_limit = length(data$below),
    fits = unclass_table(as.data.frame(fit)),
    parameters = unclass_table(fit_parameters(fit)), notes = fit$warnings)))
  else writeLines(c(format(fit), "",
    sprintf("In a study file: `%s: %s`", data$name, law_text(fitted_law(fit), exact = FALSE))))
  if (!is.null(options$plot)) save_picture(plot_fit(fit), options$plot, options$force)
  exit_codes[["done"]]
}

# The numbers of a column, empty cells left out and said; "<0.1" is an observation below that limit.
column_of_file <- function(file, column) {
  table <- read_table_file(file)
  if (is.null(column)) {
    if (ncol(table) > 1) {
      stop_ensayo("call", "`--column` must name a column.",
        sprintf("%s has %s.", file, paste(quoted(names(table)), collapse = ", ")))
    }
    column <- names(table)[1]
  }
  if (!column %in% names(table)) stop_unknown_name(column, names(table), sprintf("a column of %s", file))
  cells <- trimws(table[[column]])
  empty <- !nzchar(cells) | cells == "NA"
  if (any(empty)) say("%s left out.", count_of(sum(empty), "empty cell"))
  limit <- startsWith(cells, "<")
  numbers <- function(rows) {
    vapply(rows, function(i) {
      read_number(sub("^< *", "", cells[i]), sprintf("%s, row %d, column %s", basename(file), i, quoted(column)))
    }, 0)
  }
  list(name = column, values = numbers(which(!empty & !limit)), below = if (any(limit)) numbers(which(limit)))
}
