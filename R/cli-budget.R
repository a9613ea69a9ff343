# `ensayo budget FILE`

cli_budget <- function(args) {
  call <- cli_parse(args, "budget FILE [options]",
    "Make the uncertainty budget of an output of a study file, with the simulation beside it.",
    options = list(
      optparse::make_option("--output", type = "character", help = "which output [default: that of the specs, or the last]"),
      optparse::make_option("--coverage", type = "character", default = "0.95", help = "coverage probability [default: %default]"),
      optparse::make_option("--k", type = "character", help = "coverage factor [default: by the effective degrees of freedom]"),
      optparse::make_option("--digits", type = "character", default = "2", help = "significant digits of the stated uncertainty, 1 or 2 [default: %default]"),
      optparse::make_option("--up", action = "store_true", default = FALSE, help = "round the stated uncertainty up"),
      optparse::make_option("--linear", action = "store_true", default = FALSE, help = "leave the simulation out"),
      optparse::make_option("--most", type = "character", help = "the most runs of the simulation [default: two million]"),
      optparse::make_option("--limits", type = "character", help = "tolerance, such as -0.5,0.5: how likely the item lies within"),
      optparse::make_option("--seed", type = "character", help = "seed of the simulation [default: the file's, else a new one]"),
      optparse::make_option("--out", type = "character", help = "write a page (.html), or the table (.csv, .json)"),
      cli_option_set(), cli_option_programs(), cli_option_force(), cli_option_json()),
    positional = "file")
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  if (!is.null(options$out)) refuse_existing(options$out, options$force)
  read <- cli_read_study(call)
  known <- scalar_outputs(read$study)
  validate_study(read$study)
  output <- if (is.null(options$output)) utils::tail(leading_of(read$study, known), 1)
    else as_call_fault(resolve_name(rlang::quo(!!options$output), known, "an output of the study"))
  one <- function(text, option) if (!is.null(text)) cli_numbers(text, option)[1]
  made <- as_call_fault(budget(read$study, !!output, coverage = one(options$coverage, "--coverage"), k = one(options$k, "--k"),
    digits = cli_count(options$digits, "--digits", 1), rounding = if (options$up) "up" else "nearest"))
  verdict <- if (!options$linear) {
    say("Simulating it beside the budget")
    budget_verdict(made, seed = cli_run_settings(options["seed"], read$run)$seed,
      most = if (!is.null(options$most)) cli_count(options$most, "--most", 1000))
  }
  limits <- cli_limits(options$limits)
  judged <- if (!is.null(limits)) as_call_fault(conformity(made, limits[1], limits[2]))
  if (options$json) {
    writeLines(to_json(c(budget_record(made, verdict), if (!is.null(judged)) list(conformity = as.list(unclass_table(judged))))))
  } else {
    writeLines(c(budget_lines(made), if (!is.null(verdict)) c("", verdict_lines(verdict)), if (!is.null(judged)) c("", conformity_lines(made, judged))))
  }
  if (!is.null(options$out)) {
    as_call_fault(write_budget(made, options$out, verdict %||% FALSE))
    say("The budget is in %s.", options$out)
  }
  exit_codes[["done"]]
}

# Two numbers, of which one may be left out: `-0.5,0.5`, `,0.5`.
cli_limits <- function(text) {
  if (is.null(text)) return(NULL)
  parts <- trimws(strsplit(paste0(text, " "), ",", fixed = TRUE)[[1]])
  if (length(parts) != 2 || !any(nzchar(parts))) {
    stop_ensayo("call", "--limits must be two numbers with a comma between them.", sprintf("You gave %s.", shown_value(text)),
      "One may be left out: `--limits=,0.5`.")
  }
  ends <- c(-Inf, Inf)
  for (i in which(nzchar(parts))) ends[i] <- cli_numbers(parts[i], "--limits")
  ends
}

conformity_lines <- function(budget, judged) {
  within <- limits_words(judged$lower, judged$upper, quantity_unit(budget$study, budget$output))
  c(heading("Conformity"), sprintf("  %s with probability %s; below %s, above %s.", upper_first(within), format_share(judged$conforms),
    format_share(judged$below), format_share(judged$above)))
}
