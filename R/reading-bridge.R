#' What moved a percentile from one result to another
#'
#' Between two dates, or two versions of a plan: what each item did to the planning percentile of a total, in parts that add up to the
#' whole change.
#'
#' @param from,to Results of two studies, such as those of two status dates, simulated with the same seed, number of runs and design.
#' @param total Output that both have, bare or as text.
#' @param percentile Number from 0 to 100, in the study's sense; `NULL` for its planning percentile.
#' @param parts Names of the quantities that make it up, in either result, bare or as text; the terms of the plain sum when left out:
#'   the lowest level of it, items and events each by itself.
#' @return A data frame with a first row for the percentile in `from`, a row for each part, the largest first, and a last row for the
#'   percentile in `to`: `name`, `row` (`"from"`, `"part"`, `"rest"`, `"to"`), `label`, `change` (of the percentile),
#'   `error` (its standard error), `value` (where the bridge stands after it), `unit`, `mean_change`, and `percentile`. What has no part in the sum is `(rest)`.
#' @section Method: on the way from the one to the other, runs change from their values in `from` to those in `to` all at the same
#'   pace; what the percentile then gains at each moment is what the runs at the percentile gain, part by part (Aumann and Shapley
#'   1974, for values of continuous games; Tasche 2004 for percentiles). The order of the parts does not matter, a part that did not
#'   change has no share, and the shares add up to the change. Runs within half a per cent of the percentile tell.
#' @section Dates: of `project_finish` the parts are what moved the date: a task's own days, an event, lost and closed days of a calendar, and
#'   `(plan)`, which is links, calendars, dates, progress, and tasks that came or went. `value` is a date, the changes are days on the
#'   wall. The schedule is calculated with one part after the other exchanged, in the order of the work and in the opposite order; the
#'   share of each is the mean of both.
#' @section Errors: `ensayo_error_argument` where the results do not share their random numbers, the total is no plain sum and no parts
#'   are given, or a total that is not in both.
#' @examples
#' plan <- study("Works") |>
#'   add_inputs(pipe = law_pert(370, 410, 520), road = law_pert(150, 180, 260)) |>
#'   add_events(rock = event(0.3, law_pert(20, 50, 120))) |>
#'   add_outputs(cost = output(pipe + road + sum(events), unit = "kEUR"))
#' now <- plan |> replace_inputs(pipe = law_pert(430, 440, 460)) |> close_events(rock = 0)
#' bridge_results(simulate(plan, 1000, seed = 11), simulate(now, 1000, seed = 11), cost)
#' @export
bridge_results <- function(from, to, total, percentile = NULL, parts = NULL) {
  check_result(from)
  check_result(to)
  total <- resolve_name(rlang::enquo(total), intersect(output_names(from), output_names(to)), "an output that both results have")
  fault <- bridge_fault(from, to)
  if (!is.null(fault)) {
    stop_ensayo("argument", "A bridge needs two results that share their random numbers.", paste0(fault, "."),
      "Simulate both with the same seed, number of runs and design.")
  }
  readings <- to$study$readings
  percentile <- check_percentiles(percentile %||% readings$planning, "percentile")[1]
  parts <- rlang::enquo(parts)
  if (rlang::quo_is_null(parts) && total == "project_finish" && has_schedule(from) && has_schedule(to)) {
    return(schedule_bridge(from, to, percentile))
  }
  known <- union(quantity_names(from$study), quantity_names(to$study))
  named <- if (!rlang::quo_is_null(parts)) resolve_names(parts, known, "an input or output of a result")
  sides <- list(bridge_side(from, total, named), bridge_side(to, total, named))
  bridge_table(sides, from, to, total, not_exceeded(percentile, readings$sense), percentile)
}

bridge_fault <- function(a, b) {
  fault <- pairing_fault(a, b)
  # where no input is left that both have, there is nothing to share
  if (identical(fault, "They have no input in common that varies")) NULL else fault
}

# The lowest terms of the sum, or parts by name; what a side does not have is 0 there.
bridge_side <- function(result, total, named, call = rlang::caller_env()) {
  tree <- sum_tree(result$study, total)
  if (is.null(named) && nrow(tree) == 0) {
    stop_ensayo("argument", sprintf("%s must be a plain sum, or its parts must be named.", quoted(total)),
      sprintf("Its formula is %s.", quoted(result$study$outputs[[total]]$formula$text)), "Give `parts = c(a, b)`.", name = total,
      call = call)
  }
  leaves <- if (is.null(named)) {
    tree[is_lowest(tree), ]
  } else {
    has <- intersect(named, quantity_names(result$study))
    sign <- tree$sign[match(has, tree$name)]
    data.frame(name = has, sign = ifelse(is.na(sign), 1, sign))
  }
  columns <- columns_for(result, unique(leaves$name))
  n <- run_count(result)
  values <- lapply(split(leaves$sign, factor(leaves$name, unique(leaves$name))), sum)
  list(total = values_of(result, total), parts = Map(function(column, sign) sign * rep_len(as.double(column), n),
    columns[names(values)], values))
}

bridge_table <- function(sides, from, to, total, at, percentile) {
  names <- union(names(sides[[1]]$parts), names(sides[[2]]$parts))
  n <- length(sides[[1]]$total)
  part <- function(side, name) side$parts[[name]] %||% numeric(n)
  changes <- lapply(stats::setNames(nm = names), function(name) part(sides[[2]], name) - part(sides[[1]], name))
  whole <- sides[[2]]$total - sides[[1]]$total
  rest <- Reduce(`-`, changes, whole)
  kept <- is.finite(rest)
  if (!any(kept)) {
    stop_ensayo("argument", "The total and its parts must be good in at least one run of both results.", "They are in none.")
  }
  if (max(abs(rest[kept])) > 1e-9 * max(abs(c(sides[[1]]$total[kept], sides[[2]]$total[kept])), 1e-300)) changes[["(rest)"]] <- rest
  changes <- lapply(changes, `[`, kept)
  start <- sides[[1]]$total[kept]
  read <- bridge_shares(start, changes, at)
  ends <- c(percentile_values(start, at), percentile_values(sides[[2]]$total[kept], at))
  label <- function(name) {
    study <- if (name %in% quantity_names(to$study)) to$study else from$study
    if (name == "(rest)") "what is no part of the sum" else quantity_label(study, name)
  }
  table <- data.frame(name = names(changes), row = ifelse(names(changes) == "(rest)", "rest", "part"),
    label = vapply(names(changes), label, ""), mean_change = vapply(changes, mean, 0), change = read$share, error = read$error)
  moved <- table[table$change != 0 | table$mean_change != 0, ]
  moved <- moved[order(-abs(moved$change)), ]
  end <- function(row, word, value) data.frame(name = total, row = row, label = word, mean_change = NA_real_, change = NA_real_,
    error = NA_real_)
  table <- rbind(end("from", "then", ends[1]), moved, end("to", "now", ends[2]))
  table$value <- c(ends[1] + cumsum(c(0, moved$change)), ends[2])
  table$percentile <- percentile
  table$unit <- quantity_unit(to$study, total) %||% ""
  bridge_rows(table)
}

bridge_rows <- function(table) {
  new_table(as.list(table[c("name", "row", "label", "change", "error", "value", "unit", "mean_change", "percentile")]))
}

# Each part's share of a percentile's change, by Simpson's rule over the way; what that leaves for rounding is shared out by what the
# parts move.
bridge_shares <- function(start, changes, at, moments = 41) {
  n <- length(start)
  whole <- Reduce(`+`, changes)
  reach <- max(1, round(0.005 * n))
  centre <- 1 + (n - 1) * at / 100
  ranks <- unique(pmin(pmax(seq(floor(centre) - reach, ceiling(centre) + reach), 1), n))
  weights <- c(1, rep(c(4, 2), length.out = moments - 2), 1)
  weights <- weights / sum(weights)
  share <- numeric(length(changes))
  square <- numeric(length(changes))
  for (m in seq_len(moments)) {
    near <- order(start + whole * (m - 1) / (moments - 1))[ranks]
    there <- vapply(changes, function(change) c(mean(change[near]), stats::var(change[near])), numeric(2))
    there[2, is.na(there[2, ])] <- 0
    share <- share + weights[m] * there[1, ]
    square <- square + weights[m] * there[2, ]
  }
  gain <- percentile_values(start + whole, at) - percentile_values(start, at)
  size <- abs(share)
  left <- gain - sum(share)
  share <- share + left * (if (sum(size) > 0) size / sum(size) else rep(1 / length(size), length(size)))
  list(share = unname(share), error = unname(sqrt(square / length(ranks))))
}
