# `ensayo plot DIR KIND`

cli_pictures <- list(
  distribution = list(about = "histogram with the cumulative curve",
    draw = function(result, name, o) plot_distribution(result, !!name, o$percentiles, target = o$target)),
  cumulative = list(about = "share of runs not above each value",
    draw = function(result, name, o) plot_distribution(result, !!name, o$percentiles, "cumulative", o$target)),
  exceedance = list(about = "share of runs above each value",
    draw = function(result, name, o) plot_distribution(result, !!name, o$percentiles, "exceedance", o$target)),
  tornado = list(about = "what drives the output", draw = function(result, name, o) plot_tornado(result, !!name)),
  map = list(about = "rank correlations of all inputs with all outputs",
    draw = function(result, name, o) plot_driver_map(result)),
  scatter = list(about = "the output against its strongest input", draw = function(result, name, o) {
    plot_scatter(result, !!drivers_of(result, name)$input[1], !!name)
  }),
  matrix = list(about = "inputs against outputs, a panel for each pair",
    draw = function(result, name, o) plot_scatter_matrix(result)),
  parallel = list(about = "a line for each run; those that fail specs picked out",
    draw = function(result, name, o) plot_parallel(result)),
  ranges = list(about = "ranges of many outputs", draw = function(result, name, o) plot_ranges(result)),
  `pass-rate` = list(about = "pass rate of all specs by bands of the inputs",
    draw = function(result, name, o) plot_pass_rate_by(result)),
  convergence = list(about = "a statistic against the number of runs",
    draw = function(result, name, o) plot_convergence(result, !!name, o$statistic)),
  series = list(about = "a series over its steps, in bands that hold shares of the runs", of = "series",
    draw = function(result, name, o) plot_series(result, !!name, o$percentiles)),
  runs = list(about = "value against the run's number", draw = function(result, name, o) plot_runs(result, !!name))
)

cli_plot <- function(args) {
  about <- vapply(cli_pictures, function(picture) picture$about, "")
  call <- cli_parse(args, "plot DIR KIND [OUTPUT] [options]",
    "Draw one picture of a result folder: of the output that is named, else of the one that specs are about, or the last.",
    options = list(
      optparse::make_option("--percentiles", type = "character", help = "such as 10,50,90"),
      optparse::make_option("--target", type = "character", help = "a value, or a date, to compare with"),
      optparse::make_option("--statistic", type = "character", default = "mean",
        help = "mean, sd or a percentile such as P95, for convergence [default: %default]"),
      optparse::make_option("--given", type = "character", help = "the runs alone in which a condition holds"),
      optparse::make_option("--out", type = "character",
        help = "the picture, .png, .svg or .pdf [default: DIR/KIND-OUTPUT.png]"),
      cli_option_changed(), cli_option_force()
    ),
    positional = c("dir", "kind"), more = TRUE, footer = c("", "Kinds:", sprintf("  %-13s %s", names(about), about)))
  if (is.null(call)) return(exit_codes[["done"]])
  kind <- call$arguments$kind
  if (!kind %in% names(cli_pictures)) {
    stop_ensayo("call", sprintf("%s is not a kind of picture.", quoted(kind)), NULL,
      suggestion(kind, names(cli_pictures)))
  }
  options <- call$options
  result <- cli_read_result(call$arguments$dir, options[c("given", "changed")])
  if (length(call$more) > 1) {
    stop_ensayo("call", "One output is drawn.", sprintf("You named %s.", and_list(quoted(call$more))))
  }
  known <- if (identical(cli_pictures[[kind]]$of, "series")) series_names(result$study) else output_names(result)
  if (length(known) == 0) stop_ensayo("call", "The result must have a series to draw.", "It has none.")
  name <- (if (length(call$more)) cli_outputs(call$more, known)) %||% intersect(leading_outputs(result), known)[1]
  if (is.na(name)) name <- known[1]
  if (!is.null(options$percentiles)) options$percentiles <- cli_numbers(options$percentiles, "--percentiles")
  if (!is.null(options$target) && is_number_text(options$target)) options$target <- read_number(options$target,
    "--target")
  figure <- as_call_fault(cli_pictures[[kind]]$draw(result, name, options))
  file <- options$out %||% file.path(call$arguments$dir, sprintf("%s-%s.png", kind, file_word(name)))
  save_picture(figure, file, options$force || is.null(options$out))
  exit_codes[["done"]]
}

# A name as part of a file's.
file_word <- function(name) gsub("[^[:alnum:]_-]", "-", name)

save_picture <- function(figure, file, force) {
  refuse_existing(file, force)
  rethrow_as(suppressMessages(ggplot2::ggsave(file, figure, width = 12.8, height = 8, dpi = 100)), "file",
    sprintf("%s must be a picture that can be written.", file))
  say("Wrote %s.", file)
}
