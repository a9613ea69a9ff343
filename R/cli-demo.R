# `ensayo demo`: studies that are shipped. `with` is a folder that belongs to one; `story` says, from its result and the folder
# that the result is in, what it shows.

demos <- list(
  main = list(file = "gravity-main.yml", about = "the gravity main of Valdehoz, a made-up hill town",
    story = function(result, out) main_story(result)),
  network = list(file = "network.yml", with = "network",
    about = "the town's network, by a small outside program whose runs sometimes fail"),
  tank = list(file = "tank.yml", about = "the tank over a dry summer, day by day: when to call for water, and how much",
    story = function(result, out) tank_story(result, out)),
  renewal = list(file = "renewal.yml", with = "renewal",
    about = "what the renewal of the network costs: items, events, what to hold and to avoid",
    story = function(result, out) renewal_story(result, out)),
  works = list(file = "works.yml", with = "works", about = "when the works are done: 40 tasks, two crews, rain, six events, a promised day",
    story = function(result, out) works_story(result)),
  meter = list(file = "meter.yml", with = "meter", about = "the station's flow meter, calibrated by weighing: a budget, and whether it keeps its tolerance",
    story = function(result, out) meter_story(result, out)),
  tariff = list(file = "tariff.yml", with = "tariff.xlsx", about = "the tariff over 15 years, whose model is a workbook; results go back into a copy of it",
    story = function(result, out) tariff_story(result, out)),
  decision = list(file = "decision.yml", about = "line the main or replace it: what each costs, and what is worth finding out before",
    story = function(result, out) decision_story(result, out))
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
  writeLines(c(format(read$study), "", format(result), if (!is.null(demo$story)) c("", demo$story(result, out))))
  copy <- file.path(out, demo$file)
  say("\nThe result is in %s; open %s.", out, file.path(out, "report.html"))
  say("Change %s and run it again: ensayo run %s%s", copy, copy, if (holds_programs(read$study)) " --run-programs" else "")
  exit_codes[["done"]]
}

# What to hold and what to avoid, and what a status after a third of the works changes.
renewal_story <- function(result, out) {
  total <- "total"
  planning <- result$study$readings$planning
  decimals <- output_decimals(result, total)
  number <- function(x) sprintf("%s kEUR", format_decimals(x, decimals))
  reserve <- contingency_table(result, planning, total)
  split <- split_total(result, !!total)
  expected <- sum(events_in_runs(result)$mean)
  plan <- reserve$base
  enough <- chance(result, total <= !!(plan + expected))$chance
  gains <- removal_gain(result, !!total, of = "responses")
  best <- gains[which.max(gains$mean_gain), ]
  now <- result$study |> replace_costs(read_costs(file.path(out, "renewal", "status.csv"))) |> close_events(rock = 96, cables = 0,
    archaeology = 0)
  later <- simulate(now, result$provenance$nsim, result$provenance$seed, progress = NULL)
  bridge <- bridge_results(result, later, !!total)
  picture <- file.path(out, "bridge.png")
  save_picture(plot_bridge(bridge), picture, TRUE)
  left <- forecast_total(later, !!total)
  value <- function(part) left$value[left$part == part]
  moved <- bridge[bridge$row == "part", ][1, ]
  mark <- sprintf("P%s", format(planning))
  told_story("What to hold, and what to avoid", c(
    sprintf("The plan says %s; %s of the cost is %s, so a reserve of %s is to be held.", number(plan), mark, number(reserve$value),
      number(reserve$contingency)),
    sprintf("With ranges alone %s would be %s, with events alone %s: these do not add up.", mark, number(split[[mark]][2]),
      number(split[[mark]][3])),
    sprintf("The sum of probability times impact, %s, held as the reserve would be enough in %s of runs.", number(expected),
      format_share(enough, 0)),
    sprintf("Of the responses the one to %s gains most, what it costs taken off: %s in the mean.", best$name, number(best$mean_gain)),
    sprintf("A third of the works later %s is spent; %s comes to %s, and %s must still be held.", number(value("spent")), mark,
      number(value("percentile")), number(value("reserve needed"))),
    sprintf("What moved it most: %s, by %s. The bridge is in %s.", moved$label, number(moved$change), picture)))
}

# When all is done, what drives the day, and what may wait.
works_story <- function(result) {
  table <- unclass_table(schedule_table(result))
  all <- table[table$row == "project", ]
  planning <- result$study$readings$planning
  mark <- percentile_names(planning)
  gains <- schedule_gains(result, c("shorter", "events"))
  event <- gains[gains$kind == "event", ][1, ]
  task <- gains[gains$kind == "shorter", ][1, ]
  slip <- slip_allowed(result, 0)
  slip <- slip[order(-slip$start_later), ][1, ]
  days <- function(x) format_decimals(x, 1)
  joint <- unclass_table(joint_chances(result))
  kept <- function(name) format_share(joint$chance[joint$condition == name], 0)
  told_story("When the water is on", c(
    sprintf("The plan on paper says %s. In half of the runs all is done by %s, and in %s by %s:", all$base_finish, all$finish_P50,
      format_share(not_exceeded(planning, result$study$readings$sense) / 100, 0), all[[paste0("finish_", mark)]]),
    "paths wait for the latest of several, and rain and events come on top.",
    sprintf("The promised %s is kept in %s of runs.", format(result$study$schedule$promised), format_share(promise_kept(result), 0)),
    sprintf("The budget is kept in %s, date and budget together in %s: the product of both, %s, is not the answer.", kept("in_budget"),
      kept("all of them"), kept("all, if they were independent")),
    sprintf("Of the events, \"%s\" is worth most to be rid of: %s days of the %s.", event$label, days(event$gain), mark),
    sprintf("Of the tasks, \"%s\" wins most where it is ten per cent shorter: %s days.", task$label, days(task$gain)),
    sprintf("\"%s\" may start %s days of work later without moving it.", slip$label, days(slip$start_later))))
}

# What is stated, whether the linear budget will do, and what is decided.
meter_story <- function(result, out) {
  made <- budget(result$study, "error")
  verdict <- budget_verdict(made, seed = result$provenance$seed)
  page <- file.path(out, "budget.html")
  write_budget(made, page, verdict)
  stated <- budget_result(made)
  first <- made$rows[1, ]
  judged <- conformity(made, -0.5, 0.5, rule = "guarded", risk = 0.05)
  band <- acceptance_limits(-0.5, 0.5, made, "guarded", 0.05)
  told_story("Does the meter keep its tolerance", c(
    sprintf("%s", statement_words(made)),
    sprintf("%s of the variance comes from the %s: eight fillings scatter more than the balance and the water together.", format_share(first$share, 0),
      lower_first(first$label)),
    "The balance weighs twice, and its zero goes out: one certificate is one input, however often it is used.",
    verdict_words(verdict),
    sprintf("The error lies within half a per cent with probability %s; with guard bands of %s %% the meter is %s.", format_share(judged$conforms),
      decimal_text(band$guard, decimals_for(stated$standard, 2)), if (judged$decision == "accept") "accepted" else "rejected"),
    sprintf("The page for the client is in %s.", page)))
}

# Which is cheaper, and which input is worth looking into before deciding.
decision_story <- function(result, out) {
  worth <- worth_of_knowing(result, c("line", "replace"), better = "low")
  means <- statistics_table(result, c("line", "replace"))$mean
  pays <- pass_rate(result)$pass_rate[1]
  number <- function(x) sprintf("%s kEUR", format_number(x, 2))
  all <- worth[worth$about == "everything", ]
  first <- worth[worth$about != "everything", ][1, ]
  survey <- worth_of_survey(result, c("line", "replace"), "wall", n = 4, sd = 0.12, better = "low")
  picture <- file.path(out, "worth.png")
  save_picture(plot_worth(worth), picture, TRUE)
  told_story("What to do, and what to find out before", c(
    sprintf("On the mean %s is cheaper, by %s; but it turns out the dearer one in %s of runs.", if (means[1] < means[2]) "lining" else "a new main",
      number(abs(diff(means))), format_share(if (means[1] < means[2]) 1 - pays else pays, 0)),
    sprintf("To know all of it before would be worth %s: no study of the question may cost more.", number(all$worth)),
    sprintf("Of single inputs %s is worth most: %s; known to half its spread, %s.", lower_first(quantity_label(result$study, first$about)),
      number(first$worth), number(first$halved)),
    sprintf("The old wall can be looked at: four inspections, each right to 12 points, are worth %s, %s of knowing it for certain.",
      number(survey$worth), format_share(survey$share, 0)),
    if (any(worth$noise)) sprintf("%s would not change the decision, however well known.", upper_first(and_list(vapply(worth$about[worth$noise],
      function(name) lower_first(quantity_label(result$study, name)), "")))),
    sprintf("The figure is in %s.", picture)))
}

# What the sheet hides, what decides it, the pipe to be chosen, and the copy with the results.
tariff_story <- function(result, out) {
  copy <- file.path(out, "tariff-results.xlsx")
  write_report(result, copy, workbook = file.path(out, "tariff.xlsx"))
  number <- function(x, name) sprintf("%s EUR", format_decimals(x, output_decimals(result, name)))
  lowest <- statistics_table(result, "lowest")
  value <- statistics_table(result, "npv")
  sizes <- c(200, 300)
  swept <- sweep_input(result$study, diameter = sizes, .nsim = result$provenance$nsim, .seed = result$provenance$seed, .outputs = "npv")
  kept <- format_share(swept$figure[swept$statistic == "pass rate"], 0)
  told_story("What the sheet does not say", c(
    sprintf("The workbook gives one number for the net present value, %s, and one for the lowest cash, %s.", number(value$base, "npv"), number(lowest$base, "lowest")),
    sprintf("In %s of runs the money runs out at some time: the trench may cost far more than the sheet has.", format_share(1 - pass_rate(result)$pass_rate[1])),
    sprintf("In 80 %% of runs the net present value lies from %s to %s.", number(value$P10, "npv"), number(value$P90, "npv")),
    output_words(result, "npv")[1],
    sprintf("The pipe decides whether the money lasts: with one of %d mm it does in %s of runs, with %d mm in %s.", sizes[1], kept[1], sizes[2], kept[2]),
    sprintf("%s is the workbook as it was, with results and figures on sheets behind its own.", copy)))
}

# What the rehearsal shows that the single number hid, in the run's own figures.
main_story <- function(result) {
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
  told_story("What the single number hid", story)
}

told_story <- function(title, sentences) c(heading(title), strwrap(paste(sentences, collapse = " "), 90, prefix = "  "))

# Which rule keeps the tank from running empty at least cost: the two settings on a grid.
tank_story <- function(result, out, least = 0.98, runs = 1000) {
  kept <- c(never_empty = least)
  sweep <- sweep_input(result$study, call_at = seq(30, 100, 10), lot = seq(40, 100, 20), .nsim = runs,
    .seed = result$provenance$seed, .outputs = "cost")
  best <- best_value(sweep, "cost", better = "low", where = kept)
  picture <- file.path(out, "rule.png")
  save_picture(plot_sweep(sweep, "cost", better = "low", where = kept), picture, TRUE)
  settings <- lapply(result$study$inputs[c("call_at", "lot")], held_value)
  rate <- pass_rate(result)
  number <- function(name) format_value(result$base$outputs[[name]], decimals = output_decimals(result, name))
  water <- function(name) sprintf("%s m3", format_given(settings[[name]]))
  told_story("Which rule holds", c(
    sprintf("With every input at its base value the tank never comes below %s m3 in the summer%s.", number("lowest"),
      if (result$base$outputs$lowest >= settings$call_at) ", and no truck is called" else ""),
    sprintf("The rehearsal calls for water below %s, %s a truck: the tank runs empty in %s of summers.", water("call_at"),
      water("lot"), format_share(1 - rate$pass_rate[1])),
    sprintf("Of the rules on the grid that keep this below %s the cheapest calls below %s m3 and asks for %s m3:",
      format_share(1 - least, 0), format_given(best$call_at), format_given(best$lot)),
    sprintf("%s EUR in the mean (%s to %s).", format_number(best$figure, 3), format_number(best$low, 3), format_number(best$high, 3)),
    sprintf("%s are not told apart from it by %s each.", count_of(best$as_good - 1, "other rule"), count_of(runs, "run")),
    sprintf("All of them are in %s.", picture)))
}
