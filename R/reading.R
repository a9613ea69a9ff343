# Readings: what is read off a result, as records of pure functions. Prints, `ensayo show`, JSON, result folders and
# reports go over these; a new reading is its record and nothing else:
#   title                  its heading: a text, or a function of the result and what is asked
#   places                 where it stands: of "print", "show", "json", "report"
#   there(result)          whether there is anything to read; left out where there always is
#   table(result, asked)   a data frame, a row for each figure, unrounded
#   shown                  the columns that readers see, by what they are called: how each is shown, "text", "number",
#                          "value" (of the quantity of its row), "share", "known" (a share near all) or "count"
#   note(result, asked)    what stands under it
#   options                what may be asked on the command line besides: help texts by name
#   figure(result, asked)  a figure of its own, and `about`, what it shows; the figures that have functions of their own
#                          are records of the room of figures (plot-figures.R), which say to which reading they belong
# `asked` says for which outputs and with which percentiles (those stated; with the planning percentile among them; the
# few that a print has room for; those that figures mark, NULL for their own choice), sense and chances; see asked_of().
# The list of all stands after the drivers, which are one of them: result_readings().

# What is asked of a result: as its study has it, unless it is given.
asked_of <- function(result, outputs = main_outputs(result), percentiles = NULL, chances = NULL, ...) {
  readings <- result$study$readings
  stated <- if (is.null(percentiles)) readings$percentiles else sort(unique(percentiles))
  marks <- reading_marks(utils::modifyList(readings, list(percentiles = stated)))
  list(outputs = outputs, stated = stated, percentiles = sort(unique(c(stated, readings$planning))),
    drawn = if (!is.null(percentiles)) marks, marks = marks, planning = readings$planning, sense = readings$sense,
    chances = if (is.null(chances)) readings$chances else chances, ...)
}

reading_title <- function(reading, result, asked) {
  if (is.function(reading$title)) reading$title(result, asked) else reading$title
}

single_there <- function(result) length(output_names(result)) > 0

reading_statistics <- list(
  title = function(result, asked) sprintf("Outputs (%s)", sense_words(asked$sense)),
  places = c("print", "show", "json", "report"),
  there = single_there,
  table = function(result, asked) statistics_table(result, asked$outputs, asked$percentiles)
)

reading_percentiles <- list(
  title = function(result, asked) {
    sprintf("Percentiles, each with its 95 %% simulation error (%s)", sense_words(asked$sense))
  },
  places = c("show", "json"),
  there = single_there,
  table = function(result, asked) percentile_table(result, asked$outputs, asked$percentiles),
  options = list(percentiles = "such as 10,50,90 [default: the study's]")
)

reading_contingency <- list(
  title = function(result, asked) sprintf("What to hold in reserve, P%s", format(asked$planning)),
  places = c("show", "json", "report"),
  there = single_there,
  table = function(result, asked) contingency_table(result, asked$percentiles, asked$outputs)
)

reading_parts <- list(
  title = "Parts and totals",
  places = "report",
  there = function(result) length(totals_of(result)) > 0,
  table = function(result, asked) {
    do.call(rbind, lapply(totals_of(result), function(name) parts_of(result, !!name, percentile = asked$planning)))
  }
)

reading_series <- list(
  title = "Series over their steps",
  places = c("print", "show", "json", "report"),
  there = function(result) length(series_names(result$study)) > 0,
  table = function(result, asked) series_statistics(result, series_names(result$study), asked$percentiles)
)

reading_pass_rates <- list(
  title = "Specs",
  places = c("print", "show", "json", "report"),
  there = function(result) length(result$study$specs) > 0,
  table = function(result, asked) pass_rate(result)
)

reading_chances <- list(
  title = "Chances",
  places = c("print", "show", "json", "report"),
  table = function(result, asked) chances_of(result, asked$chances),
  options = list(chance = "conditions with semicolons between them, such as \"pressure < 40; velocity > 1\"")
)

reading_correlations <- list(
  title = "Correlations",
  places = "json",
  table = function(result, asked) correlation_table(result)
)
