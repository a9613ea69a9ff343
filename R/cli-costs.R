# `ensayo events DIR` and `ensayo costs DIR`

cli_events <- function(args) {
  call <- cli_parse(args, "events DIR [options]",
    "Tell how often each event happened, what it did, and what it is worth to be rid of it.",
    options = list(
      optparse::make_option("--output", type = "character", help = "the total [default: the output that most of them enter]"),
      optparse::make_option("--target", type = "character", help = "a condition of the total, such as \"cost <= 900\""),
      optparse::make_option("--percentile", type = "character", help = "number [default: the planning percentile]"),
      optparse::make_option("--of", type = "character",
        help = "events, causes, inputs, groups, responses, with commas between them [default: events]"),
      cli_option_changed(), cli_option_json()
    ),
    positional = "dir")
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  result <- read_result(call$arguments$dir, options$changed)
  events <- as_call_fault(event_table(result))
  total <- if (is.null(options$output)) total_at_risk(result) else cli_outputs(options$output, output_names(result))[1]
  if (is.null(total)) stop_ensayo("call", "Name the total: --output.", "No output holds events.", suggestion("", output_names(result)))
  percentile <- if (!is.null(options$percentile)) cli_numbers(options$percentile, "--percentile")
  target <- cli_condition(options$target, "--target")
  gains <- as_call_fault(removal_gain(result, !!total, target = !!target, of = cli_list(options$of) %||% "events",
    percentile = percentile))
  parts <- split_total(result, !!total)
  if (options$json) {
    writeLines(to_json(list(study = result$study$title, total = total, events = unclass_table(events), split = unclass_table(parts),
      gains = unclass_table(gains))))
    return(exit_codes[["done"]])
  }
  plan <- gains$percentile[1] %||% result$study$readings$planning
  writeLines(c(title_line("Events", result$study$title), partial_words(result), "", cell_lines(event_cells(result), event_note(result)),
    "", heading(sprintf("%s: plan, ranges and events", total)), split_lines(parts, result, total), "",
    heading(sprintf("What it is worth to be rid of them (%s, P%s)", total, format(plan))), cell_lines(gain_cells(gains, result, total),
      gain_note)))
  exit_codes[["done"]]
}

split_lines <- function(table, result, total) {
  decimals <- output_decimals(result, total)
  marks <- setdiff(names(table), c("part", "mean", "sd", "error", "unit"))
  likely <- events_of_base(result, TRUE)
  cell_lines(c(list(part = table$part), lapply(stats::setNames(nm = c("mean", "sd", marks)),
    function(column) format_decimals(table[[column]], decimals))),
    paste(c("The same runs: those of the parts do not add up to those of both.", if (length(likely)) sprintf(
      "The plan holds %s, more likely than not; with ranges alone no event happens.", and_list(likely))), collapse = " "))
}

cli_costs <- function(args) {
  call <- cli_parse(args, "costs DIR [options]",
    "Show a cost tree code by code: percentiles, why they do not add up, and parts of the reserve that do.",
    options = list(
      optparse::make_option("--tree", type = "character", help = "which cost tree [default: the first]"),
      optparse::make_option("--percentiles", type = "character", help = "such as 10,50,90 [default: the study's]"),
      optparse::make_option("--reserve", type = "character", help = "number: the reserve that is left, for a forecast at completion"),
      cli_option_changed(), cli_option_json()
    ),
    positional = "dir")
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  result <- read_result(call$arguments$dir, options$changed)
  tree <- as_call_fault(cost_tree_asked(result, options$tree))
  readings <- result$study$readings
  percentiles <- if (!is.null(options$percentiles)) cli_numbers(options$percentiles, "--percentiles") else reading_marks(readings)
  percentiles <- sort(unique(c(percentiles, readings$planning)))
  total <- total_at_risk(result) %||% tree$name
  reserve <- if (!is.null(options$reserve)) cli_numbers(options$reserve, "--reserve")
  forecast <- forecast_total(result, !!total, reserve)
  if (options$json) {
    table <- cost_table_of(result, tree, percentiles, readings$planning)
    writeLines(to_json(list(study = result$study$title, costs = unclass_table(table), total = total, forecast = unclass_table(forecast))))
    return(exit_codes[["done"]])
  }
  writeLines(c(title_line("Costs", result$study$title), partial_words(result), "",
    cell_lines(cost_cells_shown(result, tree, percentiles, readings$planning), cost_note(result, tree)), "",
    heading(sprintf("Forecast at completion of %s", total)), forecast_lines(forecast, result, total)))
  exit_codes[["done"]]
}

forecast_lines <- function(table, result, total) {
  decimals <- output_decimals(result, total)
  plan <- sprintf("P%s", format(result$study$readings$planning))
  words <- c(spent = "spent", remaining = "remaining, as planned", ranges = "ranges of what remains",
    events = "events still possible, beyond the plan", mean = "mean forecast", `reserve needed` = sprintf("reserve needed at %s", plan),
    percentile = sprintf("%s of the forecast", plan), `reserve left` = "reserve left", chance = "chance that it is enough")
  share <- table$part == "chance"
  half <- half_interval(table$error, result)
  cells <- list(part = words[table$part], value = ifelse(share, format_share(table$value), format_decimals(table$value, decimals)),
    error = ifelse(half == 0, "", ifelse(share, format_share(half), format_number(half, 2))))
  cell_lines(renamed_cells(cells, c(error = "\u00b1")))
}
