# The readings of a result (reading.R), drivers among them, in the order in which they are shown.

result_readings <- function() {
  list(statistics = reading_statistics, percentiles = reading_percentiles, contingency = reading_contingency,
    parts = reading_parts, costs = reading_costs, events = reading_events, gains = reading_gains, schedule = reading_schedule, cash = reading_cash,
    series = reading_series, pass_rates = reading_pass_rates, chances = reading_chances,
    drivers = reading_drivers, surrogates = reading_surrogates, correlations = reading_correlations, failures = reading_failures,
    failure_regions = reading_failure_regions)
}

# Those that stand in a place and have something to say of a result.
readings_for <- function(place, result) {
  Filter(function(reading) place %in% reading$places && (is.null(reading$there) || reading$there(result)),
    result_readings())
}

# The tables of all readings of a place, by name, for programs; those with nothing to say are empty.
reading_tables <- function(place, result, asked) {
  readings <- Filter(function(reading) place %in% reading$places, result_readings())
  lapply(readings, function(reading) {
    if (!is.null(reading$there) && !reading$there(result)) return(list())
    unclass_table(reading$table(result, asked))
  })
}
