# `ensayo surrogate DIR`

cli_surrogate <- function(args) {
  call <- cli_parse(args, "surrogate DIR [options]",
    "Fit a surrogate to the runs of a result folder, say how far it can be trusted, and ask it.",
    options = list(
      optparse::make_option("--outputs", type = "character", help = "names with commas between them [default: those that are no formulas, else all]"),
      optparse::make_option("--kinds", type = "character", default = paste(names(surrogate_kinds()), collapse = ","),
        help = "which kinds to try [default: %default]"),
      optparse::make_option("--runs", type = "character", help = "a CSV or Parquet file of further runs: a column for each input that varies and each output"),
      optparse::make_option("--chance", type = "character", help = "conditions with semicolons between them: their chances, corrected by the runs"),
      optparse::make_option("--indices", action = "store_true", default = FALSE, help = "variance indices of the inputs"),
      optparse::make_option("--suggest", type = "character", help = "how many further runs to suggest"),
      optparse::make_option("--near", type = "character", help = "suggest runs near a limit, such as \"pressure >= 30\""),
      optparse::make_option("--seed", type = "character", help = "seed of what is drawn [default: a new one]"),
      optparse::make_option("--out", type = "character",
        help = "write a study file (.yml) in which the surrogate gives the outputs; or the suggested runs (.csv)"),
      optparse::make_option("--plot", type = "character", help = "write a picture of the first output's effects"),
      cli_option_changed(), cli_option_force(), cli_option_json()),
    positional = "dir")
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  if (!is.null(options[["out"]])) check_surrogate_out(options)
  result <- read_result(call$arguments$dir, options$changed)
  outputs <- cli_outputs(options$outputs, c(output_names(result), series_names(result$study)))
  runs <- if (!is.null(options$runs)) runs_table(options$runs)
  made <- as_call_fault(surrogate(result, !!outputs, runs = runs, kinds = cli_list(options$kinds)))
  seed <- cli_run_settings(options["seed"], list())$seed
  asked <- cli_surrogate_asked(made, options, seed)
  if (options$json) {
    writeLines(to_json(c(list(study = made$study$title, summary = unclass_table(summary(made)), inputs = unclass_table(surrogate_inputs(made)),
      regions = unclass_table(surrogate_regions(made))), lapply(asked, unclass_table))))
  } else {
    words <- words_of_surrogate(made, made$outputs, list(more = "Next: `--suggest 10` tells where further runs teach most.",
      use = "Next: `--indices`, and `--chance` for chances that are corrected by the runs."))
    writeLines(c(surrogate_lines(made), "", word_lines(words), cli_surrogate_lines(asked)))
  }
  if (!is.null(options$plot)) save_picture(plot_effects(made, !!made$outputs[1]), options$plot, options$force)
  if (!is.null(options[["out"]])) {
    if (grepl("[.]csv$", options[["out"]])) write_csv(unclass_table(asked$suggested), options[["out"]])
    else write_study(study_of(made), options[["out"]], options$force)
    say("Wrote %s.", options[["out"]])
  }
  exit_codes[["done"]]
}

check_surrogate_out <- function(options) {
  refuse_existing(options[["out"]], options$force)
  if (!grepl("[.](yml|csv)$", options[["out"]])) {
    stop_ensayo("call", "--out must be a study file (.yml) or a table of suggested runs (.csv).", sprintf("You gave %s.", shown_value(options[["out"]])))
  }
  if (grepl("[.]csv$", options[["out"]]) && is.null(options$suggest)) stop_ensayo("call", "A table of runs needs --suggest.", NULL, "Such as `--suggest=10`.")
}

cli_surrogate_asked <- function(surrogate, options, seed) {
  chances <- if (!is.null(options$chance)) lapply(cli_list(options$chance, ";"), cli_condition, "--chance")
  near <- cli_condition(options$near, "--near")
  Filter(Negate(is.null), list(
    chances = if (length(chances)) as_call_fault(surrogate_chance(surrogate, !!!chances, .seed = seed)),
    indices = if (options$indices) as_call_fault(variance_indices(surrogate, seed = seed, announce = NULL, progress = NULL)),
    suggested = if (!is.null(options$suggest)) as_call_fault(suggest_runs(surrogate, cli_count(options$suggest, "--suggest", 1), near = !!near, seed = seed))))
}

cli_surrogate_lines <- function(asked) {
  titles <- c(chances = "Chances, corrected by the runs", indices = "Variance indices", suggested = "Suggested runs")
  unlist(lapply(names(asked), function(name) {
    c("", heading(titles[[name]]), if (name == "indices") index_lines(asked[[name]]) else paste0("  ", format(asked[[name]])))
  }))
}
