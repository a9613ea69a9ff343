# Workers: other sessions of R, on this machine, over the network or on a scheduler, that make runs. They are mirai's
# daemons: those that the user has set, or local ones for the time of a call. A worker gets the study and which runs to
# make; what it draws and calculates is what this session would.

# Evaluates `expr` with so many local workers, NULL for those that are set already.
with_workers <- function(workers, expr, call = rlang::caller_env()) {
  if (is.null(workers)) return(expr)
  workers <- check_workers(workers, call)
  before <- crew$profile
  on.exit(crew$profile <- before)
  if (workers > 1) {
    on.exit(end_workers(workers), add = TRUE)
    set_workers(workers, call)
  }
  crew$profile <- if (workers > 1) own_workers else "none"
  expr
}

check_workers <- function(workers, call = rlang::caller_env()) check_count(workers, "workers", at_most = 1024, call = call)

# Which of mirai's profiles has the workers now: its default one, where the user sets them, unless a call has its own.
crew <- list2env(list(profile = NULL, started = 0, wait = 60), parent = emptyenv())

own_workers <- "ensayo"

# They look for packages where this session does: paths that were set in it do not reach them otherwise.
set_workers <- function(workers, call = NULL) {
  with_library(mirai::daemons(workers, .compute = own_workers))
  until <- Sys.time() + worker_wait()
  while (mirai::status(.compute = own_workers)$connections < workers && Sys.time() < until) Sys.sleep(0.02)
  there <- mirai::status(.compute = own_workers)$connections
  if (there < workers) {
    mirai::daemons(0, .compute = own_workers)
    stop_ensayo("model", sprintf("%s must start.", count_of(workers, "worker")),
      sprintf("%d did within %s s.", there, format_given(worker_wait())), "Ask for fewer.", call = call)
  }
}

with_library <- function(expr) {
  old <- Sys.getenv("R_LIBS", NA)
  Sys.setenv(R_LIBS = paste(.libPaths(), collapse = .Platform$path.sep))
  on.exit(if (is.na(old)) Sys.unsetenv("R_LIBS") else Sys.setenv(R_LIBS = old))
  expr
}

# One that was just started to replace another would complain of being left alone.
end_workers <- function(workers) {
  while (Sys.time() < crew$started + 3 && mirai::status(.compute = own_workers)$connections < workers) Sys.sleep(0.02)
  mirai::daemons(0, .compute = own_workers)
}

# How long workers may take to appear, in seconds, before it is said that there are none; a queue may take longer.
worker_wait <- function() crew$wait

set_worker_wait <- function(seconds) crew$wait <- seconds

# Whether runs of a study go to workers: where some are set, and a run is worth the way.
uses_workers <- function(study) {
  isNamespaceLoaded("mirai") && !identical(crew$profile, "none") && mirai::daemons_set(.compute = crew$profile) &&
    is_dear_study(study)
}

# Runs as evaluate_in_chunks() makes them. Each task is a range of runs of a plan, or runs with their `columns`; its size
# follows what a run takes. A task whose worker ends is given to others as single runs, and a run whose worker ends three
# times has failed.
evaluate_by_workers <- function(study, setting, plan, columns, first, count, progress, journal = NULL) {
  waiting <- list()     # tasks to be made before the next range: list(first, count, tried)
  under_way <- list()
  parts <- journal$known
  gaps <- gaps_between(parts, count)
  left <- count - runs_in(parts)  # runs that no task has yet
  done <- count - left
  size <- 1
  work <- basename(tempfile("work-"))
  on.exit({
    for (task in under_way) mirai::stop_mirai(task$answer)
    forget_work(study)
    if (!is.null(journal)) journal$flush()
  })
  seen <- Sys.time()
  while (done < count) {
    workers <- mirai::status(.compute = crew$profile)$connections
    while (length(under_way) < 2 * max(1, workers) && (length(waiting) || length(gaps))) {
      if (length(waiting)) {
        task <- waiting[[1]]
        waiting <- waiting[-1]
      } else {
        gap <- gaps[[1]]
        n <- min(size, max(1, ceiling(left / (2 * max(1, workers)))), gap[2] - gap[1])
        task <- list(first = gap[1], count = n, tried = 0)
        gaps <- if (gap[1] + n < gap[2]) c(list(c(gap[1] + n, gap[2])), gaps[-1]) else gaps[-1]
        left <- left - n
      }
      under_way[[length(under_way) + 1]] <- sent_task(task, work, study, setting, plan, columns, first)
    }
    ready <- !vapply(under_way, function(task) mirai::unresolved(task$answer), NA)
    if (!any(ready)) {
      if (workers > 0) seen <- Sys.time()
      if (Sys.time() > seen + worker_wait()) stop_no_workers()
      Sys.sleep(0.002)
      next
    }
    for (task in under_way[ready]) {
      answer <- task$answer$data
      if (mirai::is_error_value(answer)) {
        waiting <- c(waiting, tried_again(task, answer))
        if (task$count == 1 && task$tried >= 2) {
          lost <- lost_run(study, first + task$first + 1)
          parts <- c(parts, list(list(first = task$first, runs = lost)))
          if (!is.null(journal)) journal$put(task$first, lost)
          done <- done + 1
        }
        if (done < count) replace_worker()
        next
      }
      if (!is.null(e <- answer$error)) stop(e)
      parts[[length(parts) + 1]] <- list(first = task$first, runs = answer$runs)
      if (!is.null(journal)) journal$put(task$first, answer$runs)
      done <- done + task$count
      size <- next_size(task$count, answer$seconds, size)
      tell_progress(progress, done, count, parts)
    }
    under_way <- under_way[!ready]
    if (fails_too_often(parts, setting)) return(runs_without_gap(parts))
  }
  runs_in_order(parts)
}

# Tasks of about a second, so that workers end together and progress flows.
next_size <- function(count, seconds, size) {
  if (seconds < 0.3) max(size, 2 * count) else if (seconds > 2) max(1, min(size, count %/% 2)) else size
}

sent_task <- function(task, work, study, setting, plan, columns, first) {
  message <- list(work = work, study = study, setting = setting, first = first + task$first, count = task$count)
  if (is.null(columns)) message$plan <- plan else message$columns <- lapply(columns, part_of, task$first, task$count)
  task$answer <- mirai::mirai(asNamespace("ensayo")$worker_answer(message), message = message,
    .compute = crew$profile)
  task
}

# What a worker does with a task.
worker_answer <- function(message) {
  began <- proc.time()[["elapsed"]]
  tryCatch({
    study <- message$study
    columns <- message$columns
    if (is.null(columns)) {
      plan <- message$plan
      plan$threads <- 1
      columns <- c(draw_columns(study, plan, message$first, message$count),
        lapply(Filter(Negate(varies), study$inputs), held_value))
    }
    runs <- kept_evaluator(message)(columns, message$first + seq_len(message$count))
    list(runs = runs, seconds = proc.time()[["elapsed"]] - began)
  }, error = function(e) {
    e$trace <- NULL  # it holds all of the study
    list(error = e)
  })
}

# A worker keeps what it calculates with from task to task of one work, so that a program that stays is started once.
kept_evaluator <- function(message) {
  if (!identical(at_work$work, message$work)) {
    end_kept()
    message$setting$threads <- 1
    message$setting$plan$threads <- 1
    at_work$evaluator <- study_evaluator(message$study, message$setting)
    at_work$work <- message$work
  }
  at_work$evaluator
}

at_work <- list2env(list(work = NULL, evaluator = NULL), parent = emptyenv())

end_kept <- function() {
  end_evaluator(at_work$evaluator)
  at_work$work <- at_work$evaluator <- NULL
}

# Workers that go on after this work end the programs that they kept for it.
forget_work <- function(study) {
  stays <- vapply(study$models, function(model) isTRUE(model$persistent), NA)
  if (any(stays) && !identical(crew$profile, own_workers)) {
    mirai::everywhere(asNamespace("ensayo")$end_kept(), .compute = crew$profile)
  }
}

# A worker that ended took its task along; one that had several runs to make may have fallen over any of them.
tried_again <- function(task, answer) {
  if (mirai::is_mirai_error(answer)) {
    stop_ensayo("model", "Workers must have this package, of this version.", one_line(as.character(answer)),
      "Install it where they look for packages.")
  }
  if (task$count > 1) return(lapply(seq_len(task$count), function(i) list(first = task$first + i - 1, count = 1, tried = 1)))
  if (task$tried < 2) list(list(first = task$first, count = 1, tried = task$tried + 1))
}

# Of local workers the one that ended is replaced; others are the user's to set.
replace_worker <- function() {
  if (!identical(crew$profile, own_workers)) return(invisible())
  with_library(mirai::launch_local(1, .compute = own_workers))
  crew$started <- Sys.time()
}

# A run that ended its worker each time.
lost_run <- function(study, run) {
  names <- output_order(study$outputs)
  values <- lapply(stats::setNames(nm = names), function(name) {
    steps <- study$outputs[[name]]$steps
    if (is.null(steps)) NA else matrix(NA_real_, 1, length(steps), dimnames = list(NULL, step_keys(steps)))
  })
  list(values = values, warnings = no_warnings, failures = rows_of(run = run, output = names,
    reason = "the worker that made it ended, three times", folder = "", step = ""))
}

stop_no_workers <- function() {
  stop_ensayo("model", "Workers must be there to make runs.", sprintf("None has been for %s s.", format_given(worker_wait())),
    "Look at `mirai::status()`; set them again with `mirai::daemons()`, or leave them out with `workers = 1`.")
}
