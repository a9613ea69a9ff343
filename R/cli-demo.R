# `ensayo demo`

demos <- list(
  main = list(file = "gravity-main.yml", about = "the gravity main of Valdehoz, a made-up hill town"),
  network = list(file = "network.yml", with = "network", about = "the town's network, by a small outside program whose runs sometimes fail")
)

cli_demo <- function(args) {
  call <- cli_parse(args, "demo [NAME] [options]", "Rehearse a demo study.",
    options = list(
      optparse::make_option("--out", type = "character",
        help = "result folder [default: ensayo-demo, and -NAME but for main]"),
      cli_option_force()
    ),
    more = TRUE, footer = c("", "Demos:", sprintf("  %-9s %s", names(demos), vapply(demos, function(demo) demo$about, ""))))
  if (is.null(call)) return(exit_codes[["done"]])
  name <- if (length(call$more)) call$more else "main"
  if (length(name) > 1 || !name %in% names(demos)) {
    stop_ensayo("call", "The demo must be one of those there are.", sprintf("You gave %s.", and_list(quoted(name))),
      suggestion(name[1], names(demos)))
  }
  demo <- demos[[name]]
  out <- call$options$out %||% paste(c("ensayo-demo", if (name != "main") name), collapse = "-")
  file <- system.file("studies", demo$file, package = "ensayo")
  read <- read_study_file(file)
  say("1. Reading the demo study %s", file)
  say("2. Rehearsing it: %s", count_of(read$run$runs, "run"))
  # the package's own program: who asks for the demo asks for it
  read$study <- allow_programs(read$study)
  result <- rehearse_into(read, read$run, out, call$options$force)
  file.copy(c(file, if (!is.null(demo$with)) file.path(dirname(file), demo$with)), out, overwrite = TRUE, recursive = TRUE)
  say("3. Writing the report")
  write_report(out, file.path(out, "report.html"))
  writeLines(c(format(read$study), "", format(result), if (name == "main") c("", demo_story(result))))
  copy <- file.path(out, demo$file)
  say("\nThe result is in %s; open %s.", out, file.path(out, "report.html"))
  say("Change %s and run it again: ensayo run %s%s", copy, copy, if (length(read$study$models)) " --run-programs" else "")
  exit_codes[["done"]]
}

# What the rehearsal shows that the single number hid, in the run's own figures.
demo_story <- function(result) {
  base <- result$base$outputs$pressure
  short <- chances_of(result, list(short = read_formula_text("pressure < 38", quantity_names(result$study), "Chance")))
  p <- percentile_values(finite_values(result, "pressure"), c(10, 90))
  number <- function(x) format_decimals(x, output_decimals(result, "pressure"))
  story <- c(
    sprintf("The planner's sheet gives one number: %s m of pressure at the last tap, safely above the 38 m asked for.",
      number(base)),
    sprintf("The rehearsal shows what that number hid: in %s of runs the pressure falls short of 38 m.",
      format_share(short$chance, 0)),
    sprintf("In 80 %% of runs it lies from %s to %s m.", number(p[1]), number(p[2])),
    "A demand above its most likely value costs more pressure than one below it gains: head loss grows with the square of",
    "the flow, and where demand is high, friction tends to be high too.",
    output_words(result, "pressure")[1],
    "So the money goes first into knowing the demand, then into the lining of the pipe; a better survey of the spring",
    "changes little."
  )
  c(heading("What the single number hid"), strwrap(paste(story, collapse = " "), 90, prefix = "  "))
}
