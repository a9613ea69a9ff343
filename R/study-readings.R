# How the house reads results: which percentiles, which one it plans with, in which sense, and which chances. Nothing
# that is calculated depends on it, so it is no part of the study's hash.

default_readings <- list(percentiles = c(5, 10, 50, 90, 95), planning = 80, sense = "not exceeded", chances = list())

#' Set how results of a study are read
#'
#' Once for the study: the percentiles that tables, figures and reports show, the percentile the house plans with, and
#' the sense of percentiles. In some trades P90 is the value that is not exceeded in 90 % of runs, in others the value
#' that is exceeded in 90 % of runs. Every table, figure and report says which.
#'
#' @param .study A study.
#' @param ... Conditions, if wanted named, whose chances reports and the command line show, such as `pressure < 40`.
#' @param .percentiles Numeric from 0 to 100, or `NULL` to leave them as they are (5, 10, 50, 90 and 95 at first).
#' @param .planning Number from 0 to 100 or `NULL`: the planning percentile (80 at first).
#' @param .sense `"not exceeded"` (at first), `"exceeded"`, or `NULL`. It also holds for inputs whose laws were
#'   stated by percentiles with [law_from_facts()], unless that call gave a sense of its own.
#' @return The study with its readings set.
#' @section Errors: `ensayo_error_argument` for percentiles outside 0 to 100, another sense, or what is not a
#'   condition.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   add_readings(velocity > 0.9, .percentiles = c(10, 50, 90), .planning = 90, .sense = "exceeded")
#' percentiles(simulate(main, nsim = 1000, seed = 11))
#' @export
add_readings <- function(.study, ..., .percentiles = NULL, .planning = NULL, .sense = NULL) {
  check_study(.study)
  chances <- read_conditions(rlang::enquos(..., .ignore_empty = "all"), quantity_vocabulary(.study), "Chance")
  .study$readings$chances[names(chances)] <- chances
  if (!is.null(.percentiles)) .study$readings$percentiles <- sort(unique(check_percentiles(.percentiles)))
  if (!is.null(.planning)) .study$readings$planning <- check_number(.planning, at_least = 0, at_most = 100)
  if (!is.null(.sense)) .study$readings$sense <- check_choice(.sense, senses)
  in_study_sense(.study)
}

# The study with laws that were stated by percentiles made in its sense, where they have none of their own.
in_study_sense <- function(study) {
  if (study$readings$sense == "not exceeded") return(study)
  for (name in names(study$inputs)) {
    told <- if (is_law(study$inputs[[name]]$law)) told_of(study$inputs[[name]]$law)
    if (any(is_percentile_name(names(told$arguments))) && is.null(told$arguments$sense)) {
      input <- study$inputs[[name]]
      input$law <- in_place(sprintf("Input %s, whose percentiles are %s,", quoted(name), study$readings$sense),
        rlang::exec(law_from_facts, told$call, !!!told$arguments, sense = study$readings$sense))
      if (input$base_rule != "given") input[c("base", "base_rule")] <- base_of_law(input$law)
      study$inputs[[name]] <- input
    }
  }
  study
}

# The percentiles that tables show: those stated, and the one the house plans with.
shown_percentiles <- function(readings) sort(unique(c(readings$percentiles, readings$planning)))

# Percentiles as shares not exceeded, in per cent, whatever the study's sense.
not_exceeded <- function(percentiles, sense) if (sense == "exceeded") 100 - percentiles else percentiles

# "P90 is exceeded in 90 % of runs", the words that stand under tables and figures.
sense_words <- function(sense, percentile = 90) {
  sprintf("P%s: the value %s in %s %% of runs", format(percentile), sense, format(percentile))
}

# The few percentiles that a print or a figure has room for: those the house states, or P10, P50 and P90, and the one it
# plans with.
reading_marks <- function(readings) {
  stated <- readings$percentiles
  if (identical(stated, default_readings$percentiles)) stated <- c(10, 50, 90)
  if (length(stated) > 4) stated <- c(range(stated), 50)
  sort(unique(c(stated, readings$planning)))
}

# What a study file says of its readings; nothing where all is as at first.
readings_record <- function(readings) {
  changed <- Filter(function(key) !identical(readings[[key]], default_readings[[key]]), c("planning", "sense"))
  c(list(percentiles = readings$percentiles), readings[changed],
    if (length(readings$chances)) list(chances = lapply(readings$chances, file_formula)))
}

file_readings <- function(study, record) {
  check_keys(record, c("percentiles", "planning", "sense", "chances"), "`readings`")
  percentiles <- vapply(as.list(record$percentiles), read_number, 0, place = "`percentiles`")
  study$readings$chances <- conditions_from_text(record$chances, quantity_vocabulary(study), "Chance")
  in_place("`readings`", add_readings(study,
    .percentiles = if (length(percentiles)) percentiles,
    .planning = if (!is.null(record$planning)) read_number(record$planning, "`planning`"),
    .sense = if (!is.null(record$sense)) read_text(record$sense, "`sense`")))
}

part_readings <- list(
  title = "Readings",
  hashed = FALSE,
  formulas = function(study) study$readings$chances,
  changed = function(study, change) {
    study$readings$chances[] <- lapply(study$readings$chances, change)
    study
  },
  record = function(study) if (!identical(study$readings, default_readings)) readings_record(study$readings),
  read = function(study, record, file) file_readings(study, record)
)
