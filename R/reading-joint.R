# Two outputs, or several conditions, in the same runs.

#' Chances of several conditions together
#'
#' `joint_chances()`: how likely each condition is, and all of them together, on the same runs. `joint_limits()`: what two outputs
#' may be limited to so that both limits are kept with a given chance, such as a date and a budget.
#'
#' @param .result,result A result.
#' @param ... Two or more conditions, as in [chance()]; when left out all specs of the study.
#' @return `joint_chances()`: a data frame as [chance()] gives it, with a row for each condition, and for `"all of them"`, `"none of them"`
#'   and `"all, if they were independent"`: the product of their chances, which is not how likely they are together.
#' @section Errors: `ensayo_error_argument` where there are fewer than two conditions; `ensayo_error_name` for unknown names.
#' @seealso [plot_joint()].
#' @examples
#' works <- study("Works") |>
#'   add_tasks(dig = task(law_pert(8, 10, 18), cost_per_day = 2),
#'     lay = task(law_pert(6, 8, 14), after = "dig", cost_per_day = 3),
#'     .start = "2027-03-01", .promised = "2027-03-20", .budget = 50)
#' res <- simulate(works, nsim = 1000, seed = 11)
#' joint_chances(res)
#' joint_chances(res, project_finish <= date("2027-03-19"), project_cost <= 48)
#' joint_limits(res, project_finish, project_cost, chance = 0.8)
#' @export
joint_chances <- function(.result, ...) {
  check_result(.result)
  asked <- rlang::enquos(..., .ignore_empty = "all")
  conditions <- if (length(asked)) read_conditions(asked, quantity_vocabulary(.result$study), "Condition") else .result$study$specs
  if (length(conditions) < 2) {
    stop_ensayo("argument", "There must be two conditions or more.", sprintf("There %s.", if (length(conditions)) "is one" else "is none"),
      "Such as `joint_chances(result, project_finish <= date(\"2027-05-07\"), project_cost <= 900)`.")
  }
  joint_chances_of(.result, conditions)
}

joint_chances_of <- function(result, conditions) {
  held <- evaluate_conditions(result, conditions)
  failed <- Reduce(`|`, lapply(held, is.na))
  all <- replace(Reduce(`&`, held), failed, NA)
  none <- replace(!Reduce(`|`, held), failed, NA)
  held <- c(held, list(`all of them` = all, `none of them` = none))
  counts <- list(met = vapply(held, function(x) as.double(sum(x, na.rm = TRUE)), 0), failed = vapply(held, function(x) as.double(sum(is.na(x))), 0))
  replicates <- telling_replicates(result)
  if (!is.null(replicates)) {
    of <- match(replicates, unique(replicates))
    counts$by_replicate <- vapply(held, function(x) tabulate(of[which(x)], max(of)) + 0, numeric(max(of)))
  }
  table <- c(list(condition = names(held)), share_columns(counts, "chance", result))
  product <- lapply(table, function(column) NA)
  product[c("condition", "chance", "chance_good")] <- list("all, if they were independent", prod(table$chance[seq_along(conditions)]),
    prod(table$chance_good[seq_along(conditions)]))
  new_table(as.list(stacked(list(list2DF(table), list2DF(product)))))
}

#' @rdname joint_chances
#' @param x,y Names of two outputs, bare or as text; the finish and the cost of the project when left out.
#' @param chance Number between 0 and 1; `NULL` for that of the planning percentile.
#' @param most Whole number: how many pairs to give at most.
#' @return `joint_limits()`: a data frame with a row for each of several limits of `x`: `x`, and the least limit of `y`, `y`, with which both
#'   are kept in that share of the runs; `x_chance` and `y_chance`, how likely each is to be kept by itself, and `chance`. The first row
#'   has the least limit of `x` that is possible, the last one that of `y`.
#' @export
joint_limits <- function(result, x = "project_finish", y = "project_cost", chance = NULL, most = 40) {
  check_result(result)
  x <- resolve_single_output(rlang::enquo(x), result)
  y <- resolve_single_output(rlang::enquo(y), result)
  readings <- result$study$readings
  if (is.null(chance)) chance <- not_exceeded(readings$planning, readings$sense) / 100
  else check_number(chance, above = 0, below = 1)
  joint_limits_of(result, x, y, chance, check_count(most, at_least = 2))
}

joint_limits_of <- function(result, x, y, chance, most) {
  a <- as.double(values_of(result, x))
  b <- as.double(values_of(result, y))
  good <- is.finite(a) & is.finite(b)
  # a failed run keeps no limit
  n <- length(a)
  needed <- max(ceiling(chance * n - 1e-9), 1)
  if (sum(good) < needed) stop_ensayo("argument", "Enough runs must be good for that chance.", sprintf("%s of %s are.", count_text(sum(good)),
    count_text(n)), "Ask for a smaller one.", argument = "chance", call = rlang::caller_env(2))
  order <- order(a[good], b[good])
  a <- a[good][order]
  b <- b[good][order]
  places <- unique(round(seq(needed, length(a), length.out = most)))
  # of runs with the same x all count
  places <- unique(findInterval(a[places], a))
  limit <- vapply(places, function(k) sort.int(b[seq_len(k)], partial = needed)[needed], 0)
  # a later limit of x that allows no less of y says nothing new
  told <- c(TRUE, diff(limit) < 0)
  at <- function(values, ends) vapply(ends, function(end) sum(values <= end) / n, 0)
  new_table(list(x = a[places][told], y = limit[told], x_chance = at(a, a[places][told]), y_chance = at(b, limit[told]),
    chance = rep(chance, sum(told))) |> typed_limits(result, x, y))
}

typed_limits <- function(table, result, x, y) {
  names <- c(x = x, y = y)
  for (key in names(names)) if (output_kind_of(result, names[[key]]) == "date") table[[key]] <- as_day(table[[key]])
  table
}

# What two outputs should be at most, as numbers and conditions: what was given, else the promised day and the budget, else their planning
# percentiles. `given` tells which were stated.
joint_limits_given <- function(result, names, asked, call = rlang::caller_env(2)) {
  schedule <- result$study$schedule
  stated <- list(project_finish = schedule$promised, project_cost = schedule$budget)
  readings <- result$study$readings
  at <- not_exceeded(readings$planning, readings$sense)
  given <- Map(function(limit, name) limit %||% stated[[name]], asked, names)
  limits <- unlist(Map(function(limit, name, arg) {
    kind <- output_kind_of(result, name)
    if (is.null(limit)) return(percentile_values(finite_values(result, name), at, kind_type(kind)))
    if (is.character(limit) && length(limit) == 1 && kind == "date") limit <- read_day(limit)
    if (!(is.numeric(limit) || inherits(limit, "Date")) || length(limit) != 1 || is.na(limit)) {
      stop_argument(arg, "one number, or a date that exists", limit, call = call)
    }
    as.double(limit)
  }, given, names, names(asked)), use.names = FALSE)
  conditions <- Map(function(name, limit) {
    value <- if (output_kind_of(result, name) == "date") call("date", format(as_day(limit))) else limit
    rlang::new_quosure(call("<=", as.symbol(name), value), baseenv())
  }, names, limits)
  list(limits = limits, given = lengths(given) > 0,
    conditions = read_conditions(stats::setNames(conditions, names(asked)), quantity_vocabulary(result$study), "Condition"))
}
