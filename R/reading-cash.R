# Money over time: what tasks cost, at the times at which it is paid.

#' Money over time
#'
#' What a schedule pays in each period, and in all up to then, in every run. `cash_flow()` gives the result with series of both, for
#' everything that reads series: bands, whole paths, chances by date, figures. `cash_table()` gives the usual figures.
#'
#' @inheritParams percentiles
#' @param by How long a period is: `"day"`, `"week"` (to Sunday), `"month"`, `"quarter"` or `"year"`, or a number of days from the
#'   schedule's start; `NULL` for what suits its length.
#' @param budget Money that may be spent: a number; or numbers with names that are dates (days from the start, where the schedule has no
#'   dates), from which on so much may have been spent in all. `NULL` for the schedule's budget, where it has one.
#' @return `cash_flow()`: the result with the series `spending` (in each period), `spent` (in all by its end) and, where there is a budget,
#'   `budget`; their steps are the last days of the periods. A name that the study has itself is written with `cash_` before it. It cannot be written as a folder or go on with more runs. `cash_table()`: a data
#'   frame with a row for each period: `step`, its last day; a column for each percentile, `base` and `mean` of what is spent in it;
#'   the same with `spent_` before it of what is spent by its end; `budget`; `chance` of having spent more than that, with its
#'   simulation error (`low`, `high`, `error`), and `ever`, of having spent more at the end of that period or of one before; and `unit`.
#' @section When what is paid: a task's `cost` evenly over the working time of its calendar between its start and finish, or at one
#'   of them; `cost_per_day` always evenly; later where `paid` says so. What each day of the project costs is spread over the days on the
#'   wall. What an event adds to `project_cost` has no task and counts at the finish. The amounts of all periods add up to
#'   `project_cost` in every run.
#' @section Peak need: with money that comes in (costs below 0) `spent` rises and falls. How high it gets is in [series_table()],
#'   `of = "highest"`.
#' @section Percentiles: those of a period are of that period alone: they do not add up, and no run follows them.
#' @section Errors: `ensayo_error_argument` where no task costs anything, or for periods of another kind.
#' @seealso [plot_cash_flow()]; [series_bands()], [chance_by_step()], [at_step()]; [joint_chances()] for date and cost together.
#' @examples
#' works <- study("Works") |>
#'   add_tasks(dig = task(law_pert(8, 10, 18), cost_per_day = 2),
#'     pipes = task(law_pert(5, 9, 20), cost = law_pert(40, 45, 60), paid = "finish + 14 days"),
#'     lay = task(law_pert(6, 8, 14), after = "dig, pipes", cost_per_day = 3),
#'     .start = "2027-03-01", .budget = 100, .currency = "kEUR")
#' res <- simulate(works, nsim = 1000, seed = 11)
#' cash_table(res, by = "week")
#' money <- cash_flow(res, by = "week")
#' chance(money, max(spent) > 100)
#' @export
cash_flow <- function(result, by = NULL, budget = NULL) {
  check_cash(result)
  money_over(result, cash_periods(result, by), budget_given(result, budget))
}

#' @rdname cash_flow
#' @param percentiles Numbers from 0 to 100, in the study's sense; `NULL` for 10, 50 and the planning percentile.
#' @export
cash_table <- function(result, by = NULL, budget = NULL, percentiles = NULL) {
  check_cash(result)
  percentiles <- check_percentiles(percentiles %||% schedule_percentiles(result), "percentiles")
  cash_rows(cash_flow(result, by, budget), percentiles)
}

has_cash <- function(result) has_schedule(result) && has_task_costs(result$study)

check_cash <- function(result, call = rlang::caller_env()) {
  check_schedule(result, call)
  if (length(result$provenance$added)) {
    stop_ensayo("argument", "The result must be one as it was simulated.", "It is one of `cash_flow()`.", "Use the one that was given to that.",
      call = call)
  }
  if (has_cash(result)) return(invisible())
  stop_ensayo("argument", "The tasks must have costs.", "They have none.",
    "Such as `task(law_pert(8, 10, 18), cost_per_day = 1.5)`.", call = call)
}

# Periods from the first day on which something is done or paid to the last: list(steps, ends), `ends` as the core takes them. `steps` are
# the last days, or without dates numbers of days from the start.
cash_periods <- function(result, by, call = rlang::caller_env()) {
  plan <- result$study$models$schedule$plan
  made <- schedule_pass(result)
  lags <- vapply(payments_of(result$study), function(payment) payment$lag, 0)
  finishes <- c(made$exact[made$failed == 0], schedule_base(result, list())$exact)
  last <- max(0, finishes, na.rm = TRUE) + max(0, lags)
  first <- min(0, plan$tasks$started - plan$start, plan$tasks$finished - plan$start, na.rm = TRUE)
  units <- c("day", "week", "month", "quarter", "year")
  by <- by %||% if (plan$dated) suited_period(last - first) else signif(max((last - first) / 20, 1), 1)
  if (plan$dated && is.character(by)) check_choice(by, units, "by", call) else by <- check_number(by, "by", above = 0, call = call)
  count <- (last - first) / if (is.numeric(by)) by else c(1, 7, 28, 90, 365)[match(by, units)]
  if (count * run_count(result) > 2^28) {
    stop_ensayo("argument", "`by` must leave so few periods that memory holds them.", sprintf("There are about %s of %s runs each.",
      count_text(count), count_text(run_count(result))), "Give longer ones.", argument = "by", call = call)
  }
  if (is.numeric(by)) {
    steps <- by * seq(floor(first / by) + 1, max(ceiling(last / by), floor(first / by) + 1))
    return(list(steps = if (plan$dated) as_day(steps + result$study$schedule$start - 1) else steps, ends = plan$start + steps, by = by))
  }
  start <- result$study$schedule$start
  begins <- period_begin(start + floor(first), by)
  starts <- seq(begins, by = by, length.out = ceiling(count) + 3)
  ends <- starts[-1]
  ends <- ends[seq_len(sum(ends < start + last) + 1)]
  list(steps = ends - 1, ends = as.double(ends) - plan$day_zero, by = by)
}

suited_period <- function(days) if (days <= 21) "day" else if (days <= 200) "week" else if (days <= 1500) "month" else "quarter"

# The first day of the period in which a day is.
period_begin <- function(day, by) {
  at <- as.POSIXlt(day)
  month <- function(m) as.Date(sprintf("%04d-%02d-01", at$year + 1900L, m))
  switch(by, day = day, week = day - (at$wday + 6L) %% 7L, month = month(at$mon + 1L), quarter = month(3L * (at$mon %/% 3L) + 1L),
    year = month(1L))
}

# What may be spent in all by the end of each step: a function of steps, or NULL.
budget_given <- function(result, budget, call = rlang::caller_env()) {
  dated <- result$study$models$schedule$plan$dated
  budget <- budget %||% result$study$schedule$budget
  if (is.null(budget)) return(NULL)
  if (!is.numeric(budget) || length(budget) == 0 || !all(is.finite(budget))) {
    stop_argument("budget", "a number, or numbers with names that are dates", budget, call = call)
  }
  if (is.null(names(budget))) {
    if (length(budget) == 1) return(function(steps) rep(budget, length(steps)))
    stop_argument("budget", "a number, or numbers with names that are dates", budget, call = call)
  }
  from <- if (dated) lapply(names(budget), read_day) else suppressWarnings(as.list(as.double(names(budget))))
  if (anyNA(unlist(from))) {
    stop_argument("budget", if (dated) "numbers with names such as \"2027-04-01\"" else "numbers with names that are days from the start",
      names(budget)[is.na(unlist(from))][1], call = call)
  }
  from <- as.double(unlist(from))
  order <- order(from)
  function(steps) c(0, unname(budget[order]))[findInterval(as.double(steps), from[order]) + 1]
}

# The result with what is spent as series.
money_over <- function(result, periods, budget) {
  study <- result$study
  labels <- c(spending = if (is.numeric(periods$by)) sprintf("Spent in %s", count_of(periods$by, "day")) else sprintf("Spent in the %s", periods$by),
    spent = "Spent so far", budget = "Budget")
  steps <- periods$steps
  columns <- cash_columns(result, periods)
  base <- cash_base(result, periods)
  # to the last period in which something is paid
  paid <- max(1, which(base$spending != 0 | vapply(matrix_columns(columns$spending), function(x) any(x != 0, na.rm = TRUE), NA)))
  steps <- steps[seq_len(paid)]
  columns <- lapply(columns, function(column) column[, seq_len(paid), drop = FALSE])
  base <- lapply(base, utils::head, paid)
  if (!is.null(budget)) {
    may <- budget(steps)
    columns$budget <- matrix(may, run_count(result), length(steps), byrow = TRUE)
    base$budget <- may
  }
  called <- stats::setNames(ifelse(names(columns) %in% c(quantity_names(study), names(study$tables)), paste0("cash_", names(columns)),
    names(columns)), names(columns))
  for (key in names(called)) {
    study$outputs[[called[[key]]]] <- new_output(NULL, list(label = labels[[key]], unit = study$schedule$currency), steps = steps)
    result$base$outputs[[called[[key]]]] <- base[[key]]
  }
  result$study <- study
  result$store <- store_with(result$store, stats::setNames(columns, called))
  result$provenance$added <- "money over time"
  result$provenance$cash <- called
  result
}

cash_columns <- function(result, periods) {
  payments <- payments_of(result$study)
  columns <- columns_for(result, unique(c("project_cost", unlist(lapply(payments, function(payment) payment$uses)))))
  made <- schedule_pass(result, payments = payments_through(payments, columns), ends = periods$ends)
  spending <- do.call(cbind, made$paid)
  # a run that failed in its costs has none at any step
  spending[!is.finite(columns$project_cost), ] <- NA
  list(spending = spending, spent = running_total(spending))
}

payments_through <- function(payments, columns) {
  lapply(payments, function(payment) c(payment[c("task", "when", "lag")], list(amount = as.double(payment$amount(columns)))))
}

running_total <- function(columns) {
  for (k in seq_len(ncol(columns))[-1]) columns[, k] <- columns[, k - 1] + columns[, k]
  columns
}

cash_base <- function(result, periods) {
  payments <- payments_of(result$study)
  uses <- unlist(lapply(payments, function(payment) payment$uses))
  columns <- lapply(c(result$base$inputs, result$base$outputs)[unique(uses)], as.double)
  made <- schedule_base(result, list(), payments = payments_through(payments, columns), ends = periods$ends)
  spending <- unlist(made$paid)
  list(spending = spending, spent = cumsum(spending))
}

# The usual figures of a result with these series.
cash_rows <- function(money, percentiles) {
  called <- as.list(money$provenance$cash)
  of <- function(name, before) {
    column <- run_column(money, name)
    good <- is_finite_run(column)
    read <- vapply(matrix_columns(column), function(values) {
      c(mean(values[good]), column_percentiles(values, "number", not_exceeded(percentiles, money$study$readings$sense), NULL, 0.95, NULL)$value)
    }, numeric(1 + length(percentiles)))
    table <- c(list(base = money$base$outputs[[name]]), stats::setNames(asplit(read, 1), c("mean", percentile_names(percentiles))))
    stats::setNames(lapply(table, as.double), paste0(before, names(table)))
  }
  steps <- quantity_steps(money$study, called$spent)
  table <- c(list(step = steps), of(called$spending, ""), of(called$spent, "spent_"))
  if (!is.null(called$budget)) {
    table$budget <- as.double(money$base$outputs[[called$budget]])
    above <- unclass_table(chance_by_step(money, above = !!sprintf("%s > %s", called$spent, called$budget)))
    table[c("chance", "low", "high", "error", "ever")] <- above[c("chance", "low", "high", "error", "ever")]
  }
  table$unit <- rep(money$study$schedule$currency %||% "", length(steps))
  marks <- percentile_names(percentiles)
  first <- intersect(c("step", marks, paste0("spent_", marks), "budget", "chance", "ever", "base", "spent_base"), names(table))
  new_table(table[c(first, setdiff(names(table), first))])
}

# How much money must be there at most: of the highest that each run comes to, the median and the planning percentile, and the median step
# at which it is reached.
peak_need <- function(money) {
  name <- money$provenance$cash[["spent"]]
  spent <- run_column(money, name)
  spent <- spent[is_finite_run(spent), , drop = FALSE]
  readings <- money$study$readings
  highest <- row_extremes(spent, pmax)
  at <- max.col(spent, "first")
  list(median = percentile_values(highest, 50), plan = percentile_values(highest, not_exceeded(readings$planning, readings$sense)),
    step = quantity_steps(money$study, name)[percentile_values(at, 50, 1)], total = isTRUE(all.equal(highest, spent[, ncol(spent)])))
}

reading_cash <- list(
  title = function(result, asked) sprintf("Money over time (%s)", sense_words(asked$sense)),
  places = c("json", "show", "report"),
  there = function(result) has_cash(result),
  table = function(result, asked) cash_table(result, percentiles = sort(unique(c(10, 50, asked$planning))))
)
