# Figures of a result, as records: the command line, result folders and the report go over these.
#   about                        what it shows, in one line
#   of                           what it is a figure of: an "output", a "series", or the whole "result"
#   place                        where the report and result folders have it: "output" (with each output that has figures
#                                of its own), the id of a reading, or nowhere
#   there(result)                whether there is anything to draw; left out where there always is
#   lacks                        what there is none of then
#   takes                        what may be asked for besides, of figure_options
#   beside                       TRUE where a step that is asked for stands beside it; others are drawn of that step
#   draw(result, name, asked)    the figure; `asked` as readings have it (asked_of()), with what `takes` names
# A reading may bring a figure of its own (`figure(result, asked)`, and `about`): it is one of these.

figure_kinds <- list(
  distribution = list(about = "histogram with the cumulative curve", of = "output", place = "output",
    takes = c("percentiles", "target"),
    draw = function(result, name, asked) plot_distribution(result, !!name, asked$drawn, target = asked$target)),
  cumulative = list(about = "share of runs not above each value", of = "output", takes = c("percentiles", "target"),
    draw = function(result, name, asked) {
      plot_distribution(result, !!name, asked$drawn, "cumulative", asked$target)
    }),
  exceedance = list(about = "share of runs above each value", of = "output", takes = c("percentiles", "target"),
    draw = function(result, name, asked) {
      plot_distribution(result, !!name, asked$drawn, "exceedance", asked$target)
    }),
  tornado = list(about = "what drives the output", of = "output", place = "output",
    draw = function(result, name, asked) plot_tornado(result, !!name)),
  map = list(about = "rank correlations of all inputs with all outputs", of = "result",
    draw = function(result, name, asked) plot_driver_map(result)),
  scatter = list(about = "the output against its strongest input", of = "output", takes = "label",
    draw = function(result, name, asked) {
      plot_scatter(result, !!drivers_of(result, name)$input[1], !!name, label = asked$label)
    }),
  matrix = list(about = "inputs against outputs, a panel for each pair", of = "result",
    draw = function(result, name, asked) plot_scatter_matrix(result)),
  parallel = list(about = "a line for each run; those that fail specs picked out", of = "result",
    draw = function(result, name, asked) plot_parallel(result)),
  ranges = list(about = "ranges of many outputs", of = "result",
    draw = function(result, name, asked) plot_ranges(result)),
  `pass-rate` = list(about = "pass rate of all specs by bands of the inputs", of = "result", place = "pass_rates",
    there = function(result) both_pass_and_fail(result), lacks = "specs that some runs meet and some miss",
    draw = function(result, name, asked) plot_pass_rate_by(result)),
  convergence = list(about = "a statistic against the number of runs", of = "output", takes = "statistic",
    draw = function(result, name, asked) plot_convergence(result, !!name, asked$statistic %||% "mean")),
  series = list(about = "a series over its steps, in bands that hold shares of the runs", of = "series",
    place = "series", takes = "percentiles", beside = TRUE,
    draw = function(result, name, asked) plot_series(result, !!name, asked$drawn, at = asked$step)),
  `drivers-by-step` = list(about = "which inputs a series goes with, and when", of = "series", place = "series",
    there = function(result) length(draw_names(result)) > 0,
    draw = function(result, name, asked) plot_drivers_by_step(result, !!name)),
  `chance-by-step` = list(about = "how likely a condition is at each step, and by then", of = "result",
    place = "pass_rates", takes = "condition", there = function(result) length(missed_by_step(result$study)) > 0,
    lacks = "spec on a series; give a `--condition`",
    draw = function(result, name, asked) plot_chance_by_step(result, !!!as.list(asked$condition %||% missed_by_step(result$study)))),
  split = list(about = "a total with ranges alone, with events alone, and with both", of = "output", place = "events",
    there = function(result) length(result$study$events) > 0 && !is.null(total_at_risk(result)), lacks = "events",
    draw = function(result, name, asked) plot_split(result, !!(name %||% total_at_risk(result)))),
  events = list(about = "how likely each event is, and what it does", of = "result", place = "events",
    there = function(result) length(result$study$events) > 0, lacks = "events",
    draw = function(result, name, asked) plot_events(result)),
  gains = list(about = "what it is worth to be rid of each event", of = "output", place = "gains",
    there = function(result) length(result$study$events) > 0 && !is.null(total_at_risk(result)), lacks = "events",
    draw = function(result, name, asked) plot_gains(result, !!(name %||% total_at_risk(result)))),
  costs = list(about = "a cost tree as bars", of = "result", place = "costs",
    there = function(result) length(result$study$costs) > 0, lacks = "costs", draw = function(result, name, asked) plot_costs(result)),
  allotments = list(about = "parts of a reserve that add up to it", of = "output", place = "costs",
    there = function(result) !is.null(total_at_risk(result)) && nrow(sum_tree(result$study, total_at_risk(result))) > 0,
    lacks = "costs or events in a plain sum",
    draw = function(result, name, asked) plot_allotments(result, !!(name %||% total_at_risk(result)))),
  schedule = list(about = "tasks as bars over time, and how often each is critical", of = "result", place = "schedule",
    there = function(result) has_schedule(result), lacks = "tasks", draw = function(result, name, asked) plot_schedule(result)),
  shortening = list(about = "what is won by shortening each task", of = "result", place = "schedule",
    there = function(result) has_schedule(result), lacks = "tasks", draw = function(result, name, asked) plot_schedule_gains(result)),
  slip = list(about = "how late each task may be", of = "result", place = "schedule",
    there = function(result) has_schedule(result), lacks = "tasks", draw = function(result, name, asked) plot_slip(result)),
  `critical-paths` = list(about = "which chains of tasks set the finish, and how often", of = "result",
    there = function(result) has_schedule(result), lacks = "tasks", draw = function(result, name, asked) plot_critical_paths(result)),
  `cash-flow` = list(about = "what is spent so far and in each period, in bands", of = "result", place = "cash",
    there = function(result) has_cash(result), lacks = "tasks with costs", draw = function(result, name, asked) plot_cash_flow(result)),
  `date-and-cost` = list(about = "finish against cost, and how many runs keep both limits", of = "result", place = "cash",
    there = function(result) has_cash(result), lacks = "tasks with costs", draw = function(result, name, asked) plot_joint(result)),
  runs = list(about = "value against the run's number", of = "output",
    draw = function(result, name, asked) plot_runs(result, !!name))
)

# What may be asked of figures, in the words of the command line's help.
figure_options <- list(
  percentiles = "such as 10,50,90",
  target = "a value, or a date, to compare with",
  statistic = "mean, sd or a percentile such as P95, for convergence [default: mean]",
  condition = "on series, such as \"level < 100\", for chance-by-step; several with semicolons between them",
  label = "runs to label with their numbers, such as 12,403, or outer for those farthest out, for scatter"
)

# All figures of results, those that readings bring among them.
result_figures <- function() {
  with_figure <- Filter(function(reading) !is.null(reading$figure), result_readings())
  c(figure_kinds, lapply(with_figure, function(reading) {
    list(about = reading$about, of = "result", there = reading$there, takes = names(reading$options),
      draw = function(result, name, asked) reading$figure(result, asked))
  }))
}

figure_is_there <- function(figure, result) is.null(figure$there) || figure$there(result)

# The figures of a place, drawn, by kind; what is not there is left out.
drawn_figures <- function(place, result, name = NULL, asked = asked_of(result)) {
  kinds <- Filter(function(figure) identical(figure$place, place) && figure_is_there(figure, result), figure_kinds)
  lapply(kinds, function(figure) figure$draw(result, name, asked))
}

both_pass_and_fail <- function(result) {
  if (length(result$study$specs) == 0) return(FALSE)
  rates <- pass_rate(result)
  last <- rates$pass_rate[nrow(rates)]
  last > 0 && last < 1
}

write_picture <- function(figure, file) {
  rethrow_as(suppressMessages(ggplot2::ggsave(file, figure, width = 12.8, height = 8, dpi = 100)), "file",
    sprintf("%s must be a picture that can be written.", file), file = file)
}
