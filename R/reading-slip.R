# How late tasks may be.

#' How late tasks may be
#'
#' How much later each task may start, and how much longer it may take, until the planning percentile of the project's finish moves by a stated
#' number of days.
#'
#' @inheritParams percentiles
#' @param days Numbers from 0 on: by how many days on the wall the planning percentile may move.
#' @param percentile Number from 0 to 100, in the study's sense; `NULL` for its planning percentile.
#' @return A data frame with a row for each task and number of days, in the order of the work: `name`, `label`, `days`, `start_later` and
#'   `take_longer` (in days of work of the task's calendar; `NA` of a task that is finished). The slips of several tasks do not add up.
#' @section Method: the latest finish that is allowed is the planning percentile (a value that occurred) plus the days. In each run the float of a
#'   task counted to that instant is how late it may be; the slip allowed is the largest that is kept in as many runs as the percentile
#'   says. That is exactly what simulating each task with each delay would give.
#' @section Errors: `ensayo_error_argument` where the study has no tasks, or for days below 0.
#' @examples
#' works <- study("Works") |>
#'   add_tasks(dig = task(law_pert(8, 10, 18)), order = task(law_pert(5, 9, 20)),
#'     lay = task(law_pert(6, 8, 14), after = "dig, order"))
#' slip_allowed(simulate(works, nsim = 1000, seed = 11), days = c(0, 5))
#' @export
slip_allowed <- function(result, days = c(0, 5), percentile = NULL) {
  check_schedule(result)
  if (!is.numeric(days) || length(days) == 0 || !all(is.finite(days) & days >= 0)) stop_argument("days", "numbers from 0 on", days)
  readings <- result$study$readings
  percentile <- check_percentiles(percentile %||% readings$planning, "percentile")[1]
  slip_rows(result, days, not_exceeded(percentile, readings$sense))
}

slip_rows <- function(result, days, at) {
  study <- result$study
  names <- study$models$schedule$plan$names
  ready <- ready_schedule(result)
  made <- schedule_pass(result, list(), ready)
  finish <- ifelse(made$failed == 0, made$exact, Inf)  # a failed run keeps no date
  n <- length(finish)
  planned <- percentile_values(finish, at, type = 1)
  kept <- max(ceiling(at / 100 * n - 1e-9), 1)
  places <- seq_along(names)
  rows <- lapply(days, function(more) {
    limit <- planned + more
    late <- finish > limit
    shares <- split(places, (places - 1) %/% 500)
    slips <- do.call(rbind, lapply(shares, function(some) {
      floats <- schedule_pass(result, list(total = some, longer = some), ready, limit = limit)
      t(vapply(seq_along(some), function(k) {
        vapply(list(floats$total[[k]], floats$longer[[k]]), function(float) {
          if (all(is.na(float[!late]))) return(NA_real_)
          float[late] <- -Inf
          -order_statistics(-float, kept)
        }, 0)
      }, numeric(2)))
    }))
    list2DF(list(name = names, label = text_of(study$tasks[names], function(task) task$label), days = rep(more, length(names)),
      start_later = slips[, 1], take_longer = slips[, 2]))
  })
  new_table(as.list(stacked(rows)))
}
