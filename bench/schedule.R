# Schedules: 300 tasks with two calendars through 10,000 runs, forward and backward with floats and criticality, against the same in R over
# whole columns; and what drawing the durations takes. Run from the project's root.
source(file.path("bench", "ratio.R"))

network <- function(tasks, seed = 1) {
  set.seed(seed)
  named <- paste0("t", seq_len(tasks))
  made <- lapply(seq_len(tasks), function(i) {
    before <- if (i > 3) unique(sample(max(1, i - 20):(i - 1), 2)) else if (i > 1) i - 1
    task(law_pert(2, 4 + i %% 5, 14 + i / tasks), if (length(before)) paste(named[before], collapse = ", "), calendar = if (i %% 2) "weekdays" else "every day")
  })
  study("Network") |> add_calendars(weekdays = calendar("Mon-Fri")) |>
    add_tasks(!!!stats::setNames(made, named), .start = "2027-03-01", .keep = c(t1))
}

# Well-written R: a loop over tasks, whole columns of runs, calendars by tables of cumulative days; forward, and backward for floats.
in_columns <- function(study, durations, n) {
  plan <- study$models$schedule$plan
  order <- plan$names
  tables <- lapply(plan$calendars, function(calendar) {
    worked <- vapply(calendar$patterns, function(spans) if (length(spans)) 1 else 0, 0)[calendar$days + 1]
    list(cum = c(0, cumsum(worked)), worked = worked, day = which(worked == 1) - 1)
  })
  done <- function(table, x) {
    day <- floor(x)
    table$cum[day + 1] + (x - day) * table$worked[day + 1]
  }
  earliest <- function(table, w) {
    k <- ceiling(w)
    table$day[k] + w - (k - 1)
  }
  following <- function(table, w) {
    k <- floor(w)
    table$day[k + 1] + w - k
  }
  start <- finish <- vector("list", length(order))
  from <- split(plan$links$from, factor(plan$links$to, seq_along(order)))
  to <- split(plan$links$to, factor(plan$links$from, seq_along(order)))
  for (i in seq_along(order)) {
    table <- tables[[plan$tasks$calendar[i]]]
    t <- if (length(from[[i]])) do.call(pmax, finish[from[[i]]]) else rep(366, n)
    w <- done(table, t)
    start[[i]] <- w
    finish[[i]] <- earliest(table, w + durations[[i]])
  }
  end <- do.call(pmax, finish)
  late <- float <- vector("list", length(order))
  for (i in rev(seq_along(order))) {
    table <- tables[[plan$tasks$calendar[i]]]
    latest <- if (length(to[[i]])) do.call(pmin, c(late[to[[i]]], list(end))) else end
    w <- done(table, latest) - durations[[i]]
    late[[i]] <- following(table, pmax(w, 0))
    float[[i]] <- w - start[[i]]
  }
  list(finish = end, float = float)
}

n <- 10000
study <- network(300)
draws <- draw_inputs(study, n, seed = 1, progress = NULL)
model <- study$models$schedule
columns <- as.list(draws)[unname(model$uses)]
durations <- columns[paste0(model$plan$names, "[duration]")]
all <- seq_along(model$plan$names)
both <- function() ensayo:::run_schedule(model, columns, n, list(total = all))
mine <- both()
plain <- in_columns(study, durations, n)
# rounding puts floats of plain doubles on the other side of a weekend in some runs, the more the earlier the task
stopifnot(max(abs(mine$exact - (plain$finish - 366))) < 1e-6, max(abs(mine$total[[300]] - plain$float[[300]])) < 1e-6)

show_ratios("300 tasks, two calendars, 10,000 runs",
  ratio("forward and backward, against R over whole columns", both, function() in_columns(study, durations, n), 5),
  ratio("forward and backward, against drawing the durations", both, function() draw_inputs(study, n, seed = 2, progress = NULL), 5),
  ratio("slip allowed of all tasks, against five passes", function() ensayo:::run_schedule(model, columns, n, list(total = all, longer = all),
    limit = 100), function() for (k in 1:5) both(), 3))
seconds <- function(tasks, n) {
  study <- network(tasks)
  columns <- as.list(draw_inputs(study, n, seed = 1, progress = NULL))[unname(study$models$schedule$uses)]
  stats::median(replicate(3, system.time(ensayo:::run_schedule(study$models$schedule, columns, n, list(total = seq_len(tasks))))[["elapsed"]]))
}
base <- seconds(300, 10000)
cat(sprintf("\nA pass over 300 tasks and 10,000 runs takes %.2f s; over ten times the runs %.1f times, over ten times the tasks %.1f times as long\n", base,
  seconds(300, 100000) / base, seconds(3000, 10000) / base))
