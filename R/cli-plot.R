# `ensayo plot DIR KIND`

cli_plot <- function(args) {
  figures <- result_figures()
  about <- vapply(figures, function(figure) figure$about, "")
  call <- cli_parse(args, "plot DIR KIND [OUTPUT] [options]",
    "Draw one picture of a result folder: of the output that is named, else of the one that specs are about, or the last.",
    options = c(cli_options_of(cli_figure_options()), list(
      optparse::make_option("--given", type = "character", help = "the runs alone in which a condition holds"),
      cli_option_step(),
      optparse::make_option("--out", type = "character",
        help = "the picture, .png, .svg or .pdf [default: DIR/KIND-OUTPUT.png, or DIR/KIND.png]"),
      cli_option_changed(), cli_option_force()
    )),
    positional = c("dir", "kind"), more = TRUE, footer = c("", "Kinds:", sprintf("  %-13s %s", names(about), about)))
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  kind <- call$arguments$kind
  if (!kind %in% names(figures)) {
    stop_ensayo("call", sprintf("%s is not a kind of picture.", quoted(kind)), NULL, suggestion(kind, names(figures)))
  }
  figure <- figures[[kind]]
  refuse_useless(kind, figure, Filter(Negate(is.null), options[names(cli_figure_options())]))
  result <- cli_read_result(call$arguments$dir, options[c("given", "changed", if (!isTRUE(figure$beside)) "step")])
  name <- cli_drawn_quantity(figure, call$more, result)
  # what is asked for by name is there
  if (!figure_is_there(figure, result) && all(vapply(options[figure$takes], is.null, NA))) {
    stop_ensayo("call", sprintf("The result must have what %s shows.", quoted(kind)), sprintf("It has no %s.",
      figure$lacks %||% "such reading"))
  }
  asked <- cli_asked(result, options, cli_figure_options())
  if (!is.null(options$percentiles)) asked$drawn <- asked$stated  # just these
  if (isTRUE(figure$beside) && !is.null(options$step)) asked$step <- cli_step(options$step)
  drawn <- as_call_fault(figure$draw(result, name, asked))
  file <- options$out %||% picture_file(call$arguments$dir, kind, name)
  save_picture(drawn, file, options$force || is.null(options$out))
  exit_codes[["done"]]
}

# The output or series that a figure is of; nothing where it is of the whole result.
cli_drawn_quantity <- function(figure, given, result) {
  if (figure$of == "result") {
    if (length(given)) stop_ensayo("call", "This picture is of all outputs: no output is named.",
      sprintf("You named %s.", and_list(quoted(given))))
    return(NULL)
  }
  if (length(given) > 1) stop_ensayo("call", "One output is drawn.", sprintf("You named %s.", and_list(quoted(given))))
  known <- if (figure$of == "series") series_names(result$study) else output_names(result)
  if (length(known) == 0) {
    stop_ensayo("call", sprintf("The result must have a %s to draw.", if (figure$of == "series") "series" else "number"),
      "It has none.")
  }
  if (length(given)) return(cli_outputs(given, known))
  c(intersect(leading_outputs(result), known), known)[1]
}

# An option that a picture does not take would be lost without a word.
refuse_useless <- function(kind, figure, given) {
  useless <- setdiff(names(given), figure$takes)
  if (length(useless) == 0) return(invisible())
  takes <- if (length(figure$takes)) sprintf("It takes %s.", and_list(paste0("--", figure$takes)))
  stop_ensayo("call", sprintf("%s takes no --%s.", quoted(kind), useless[1]), NULL, takes)
}

# Where a folder has a picture of a kind, of one quantity or of the whole result.
picture_file <- function(dir, kind, name = NULL) file.path(dir, paste0(paste(c(kind, file_word(name)), collapse = "-"), ".png"))

# A name as part of a file's.
file_word <- function(name) if (length(name)) gsub("[^[:alnum:]_-]", "-", name)

save_picture <- function(figure, file, force) {
  refuse_existing(file, force)
  write_picture(figure, file)
  say("Wrote %s.", file)
}
