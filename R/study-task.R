# Tasks: pieces of work with durations and predecessors. A study keeps each as it was described, in `tasks`, what they have in common in
# `schedule` (`start`, `status`, `promised`, `calendar`, `keep`), and calculates with quantities that are made of them
# (study-task-parts.R).

#' A task
#'
#' `task()` describes a piece of work, for [add_tasks()]: how long it takes, and what comes before it.
#'
#' @param duration Law or number: days of work of the task's calendar ([calendar()]); or a formula of inputs and outputs, such as
#'   `length / rate`. 0 is a milestone, which takes no time and has no calendar.
#' @param after Text: what comes before it, such as `"dig, order"` or `"dig SS + 2 days, order FF"`; see below.
#' @param calendar Text or `NULL`: the name of its calendar, of [add_calendars()]; `"every day"` is always there. The schedule's when left
#'   out.
#' @param when Name of an event or `NULL`: the task is there in runs in which that happens; in others it takes no time.
#' @param not_before Date, text such as `"2027-04-01"`, or the name of a quantity that is a date: the first day on which it may start.
#' @param not_after The same: the last day on which it should finish. It holds nothing back: it becomes a spec, and bounds the floats of what
#'   comes before.
#' @param start_on The same: a day on which it should start: `not_before` and the last day on which it should start.
#' @param started,finished Dates or `NULL`: when it was begun and finished, where that has happened.
#' @param done Number from 0 to 1: the share of the work that is done, of a task that was begun.
#' @param cost Law, number or formula, or `NULL`: what it costs, whatever its days; below 0 is money that comes in.
#' @param cost_per_day The same: what each of its days of work costs besides, spread over them.
#' @param paid Text: when `cost` is paid: `"spread"` evenly over its working time (when left out), at its `"start"` or `"finish"`; also
#'   later, by days on the wall: `"finish + 30 days"`. See [cash_flow()].
#' @param group Text or `NULL`: what it belongs to. A group has a start and a finish, and may stand in `after`.
#' @param label,note Texts or `NULL`, as for [input()].
#' @return A task, for [add_tasks()].
#' @section Links: names with commas between. `"dig"` is finish to start; `"dig SS"` start to start, `"dig FF"` finish to finish, `"dig SF"`
#'   start to finish. A lag stands behind: `+ 2 days` are days of work of the later task's calendar, `+ 3 elapsed days` days on the
#'   wall, `- 1 day` an overlap; `+ hardening` is an input or output of the study, in days of work; and `dig SS + 50 %` is when half of the work
#'   of `dig` is done (`FS - 20 %` is the same as `SS + 80 %`).
#' @section Errors: `ensayo_error_argument` where an argument is not of the stated kind.
#' @examples
#' task(law_pert(8, 10, 18), after = "survey", label = "Dig the trench")
#' task(law_triangular(3, 4, 7), after = "dig SS + 2 days, order FF")
#' task(0, after = "lay, test", not_after = "2027-06-18", label = "In service")
#' @export
task <- function(duration, after = NULL, calendar = NULL, when = NULL, not_before = NULL, not_after = NULL, start_on = NULL,
                 started = NULL, finished = NULL, done = NULL, cost = NULL, cost_per_day = NULL, paid = NULL, group = NULL, label = NULL,
                 note = NULL) {
  if (missing(duration)) stop_ensayo("argument", "A task must have a duration.", NULL, "Such as `task(law_pert(8, 10, 18))`; 0 is a milestone.",
    argument = "duration")
  done <- if (!is.null(done)) check_number(done, at_least = 0, at_most = 1)
  made <- list(duration = rlang::enquo(duration), links = read_links(check_string(after, null = TRUE)),
    calendar = check_string(calendar, null = TRUE), when = written_names(rlang::enexpr(when), "when", 1),
    not_before = check_task_day(not_before, "not_before"), not_after = check_task_day(not_after, "not_after"),
    start_on = check_task_day(start_on, "start_on"), started = check_happened(started, "started"),
    finished = check_happened(finished, "finished"), done = done, cost = rlang::enquo(cost), cost_per_day = rlang::enquo(cost_per_day),
    paid = read_paid(check_string(paid, null = TRUE)), group = check_string(group, null = TRUE),
    label = check_string(label, null = TRUE), note = check_string(note, null = TRUE))
  for (key in names(cost_parts)) if (rlang::quo_is_null(made[[key]])) made[key] <- list(NULL)
  checked_paid(made$paid, made$cost)
  if (!is.null(made$started) && !is.null(made$finished) && made$finished < made$started) {
    stop_ensayo("argument", "A task must not be finished before it was started.", sprintf("It was started on %s, and finished on %s.",
      made$started, made$finished), argument = "finished")
  }
  if (!is.null(done) && done > 0 && done < 1 && is.null(made$started)) {
    stop_argument("started", "given where a share of the work is done", NULL)
  }
  structure(made, class = "ensayo_task")
}

# A day, or the name of a quantity that is one.
check_task_day <- function(x, arg, call = rlang::caller_env()) {
  if (is.null(x)) return(NULL)
  if (inherits(x, "Date") && length(x) == 1 && !is.na(x)) return(x)
  if (is.character(x) && length(x) == 1 && !is.na(x)) {
    if (!grepl("^[0-9]{4}-", x)) return(normal_name(x))
    day <- read_day(x)
    if (!is.na(day)) return(day)
  }
  stop_argument(arg, "one date that exists, such as \"2027-04-01\", or the name of a quantity that is a date", x, call = call)
}

check_happened <- function(x, arg, call = rlang::caller_env()) {
  day <- check_task_day(x, arg, call)
  if (is.null(day) || inherits(day, "Date")) day else stop_argument(arg, "one date that exists", x, call = call)
}

#' Add tasks to a study
#'
#' A schedule: tasks with durations, links and calendars. It is calculated forward and backward in every run, and its dates, floats and
#' critical tasks are quantities of the study.
#'
#' @param .study A study.
#' @param ... Tasks by name, made by [task()]; also a list of them, or a data frame as [read_tasks()] gives it. Their order means nothing.
#' @param .start Date or text: the day on which the schedule starts. Without one, times are numbers of days from the start, and every day
#'   is worked.
#' @param .status Date or text, or `NULL`: the day up to which is known what was done; what is to do is done from that day on.
#' @param .promised Date or text, or `NULL`: the last day on which all should be finished; it becomes the spec `on_time`.
#' @param .calendar Text or `NULL`: the calendar of tasks that name none; `"every day"` when left out.
#' @param .cost_per_day Law or number, or `NULL`: what each day on the wall costs from the schedule's start to the project's finish, such
#'   as a site with its guard.
#' @param .budget Number or `NULL`: what all should cost at most; it becomes the spec `in_budget`.
#' @param .currency Text or `NULL`: the unit of costs, such as `"kEUR"`.
#' @param .keep Names of tasks whose starts, finishes, floats and criticality become quantities of the study; all where there are up to 500
#'   tasks, else none, when left out.
#' @return The study with the tasks, and the inputs and outputs that they are calculated with, added at the end. Given again, the dots'
#'   tasks are added to those there; the options that are left out stay as they are.
#' @section In formulas: `start(dig)` and `finish(dig)` are its first and its last day, `duration(dig)` its days of work, `float(dig)` its
#'   total float, `critical(dig)` whether it is critical, and `cost(dig)` what it costs, in the run. A group has a start, a finish and a
#'   cost. `project_finish` is an output by itself, and where tasks have costs `project_cost`.
#' @section Rules: a task starts as soon as its links allow, and works without a break in its calendar. With t when it is ready (the latest of the
#'   start or status, `not_before`, and links to its start), d its work and u the latest of links to its finish, it finishes at the
#'   later of u and the instant at which d is done from t on: a link to the finish stretches a task and never moves its start. Links always
#'   win. Times are kept to the millisecond, so that sums are exact; a task that ends with Friday finishes on Friday.
#'   Total float is the longest delay of its start, in its own days of work, that does not move the project's finish or make a task miss
#'   its `not_after`; it may be below 0. Critical is a task on a chain of links, from the last finish back, each of which sets
#'   when the next one starts or finishes: with several calendars a critical task may have float. Sources: Kelley and Walker (1959);
#'   Elmaghraby and Kamburowski (1992) for the four links; Franck, Neumann and Schwindt (2001) for calendars.
#' @section Failed runs: a run in which a task's work is not a number from 0 on has failed: [failures()] names the task.
#' @section Errors: `ensayo_error_name` for a name that is missing, taken or unknown; `ensayo_error_cycle` for tasks that come after each other
#'   in a circle; `ensayo_error_argument` for dates without a start, or what is not a task.
#' @seealso [schedule_table()], [slip_allowed()], [schedule_gains()], [critical_paths()], [cash_flow()]; [review()].
#' @examples
#' works <- study("Works") |>
#'   add_calendars(crew = calendar("Mon-Fri")) |>
#'   add_tasks(
#'     survey = task(law_pert(4, 5, 9)),
#'     order = task(law_triangular(20, 25, 45), after = "survey", calendar = "every day"),
#'     dig = task(law_pert(8, 10, 18), after = "survey"),
#'     lay = task(law_pert(6, 8, 14), after = "dig SS + 3 days, order"),
#'     .start = "2027-03-01", .promised = "2027-04-30", .calendar = "crew"
#'   )
#' simulate(works, nsim = 1000, seed = 11)
#' @export
add_tasks <- function(.study, ..., .start = NULL, .status = NULL, .promised = NULL, .calendar = NULL, .cost_per_day = NULL,
                      .budget = NULL, .currency = NULL, .keep = NULL) {
  check_study(.study)
  given <- spliced(rlang::dots_list(..., .homonyms = "keep"), tasks_from_table)
  names <- check_new_names(given, "task", c(quantity_names(.study), names(.study$tables), names(.study$events), names(.study$tasks)))
  for (i in seq_along(given)) {
    if (inherits(given[[i]], "ensayo_task")) next
    stop_ensayo("argument", sprintf("Task %s must be made by `task()`.", quoted(names[i])), sprintf("You gave %s.", shown_value(given[[i]])),
      "Such as `dig = task(law_pert(8, 10, 18), after = \"survey\")`.", name = names[i])
  }
  schedule <- .study$schedule %||% list()
  set <- list(start = check_happened(.start, ".start"), status = check_happened(.status, ".status"),
    promised = check_happened(.promised, ".promised"), calendar = check_string(.calendar, null = TRUE),
    cost_per_day = if (!is.null(.cost_per_day)) check_amount(.cost_per_day, ".cost_per_day"),
    budget = if (!is.null(.budget)) check_number(.budget), currency = check_string(.currency, null = TRUE))
  schedule[names(set)[lengths(set) > 0]] <- set[lengths(set) > 0]
  keep <- rlang::enquo(.keep)
  .study$tasks <- c(.study$tasks %||% list(), stats::setNames(lapply(given, unclass), names))
  if (!rlang::quo_is_null(keep)) schedule$keep <- resolve_names(keep, names(.study$tasks), "a task of the study")
  if (length(schedule)) .study$schedule <- schedule
  with_tasks(.study)
}

#' Change tasks
#'
#' `replace_tasks()` gives tasks of the study other descriptions, `remove_tasks()` takes some out. Tasks that stay keep their random numbers.
#'
#' @param .study A study.
#' @param ... Tasks by name, made by [task()]; of `remove_tasks()` names.
#' @return The changed study.
#' @section Errors: `ensayo_error_name` for a name that is not a task's, or of a task that another comes after.
#' @examples
#' works <- study("Works") |>
#'   add_tasks(dig = task(law_pert(8, 10, 18)), lay = task(law_pert(6, 8, 14), after = "dig"))
#' replace_tasks(works, dig = task(law_pert(6, 7, 10)))
#' remove_tasks(works, lay)
#' @export
replace_tasks <- function(.study, ...) {
  check_study(.study)
  given <- spliced(rlang::dots_list(..., .homonyms = "error"), tasks_from_table)
  for (name in names_of(given)) {
    if (!name %in% names(.study$tasks)) stop_unknown_name(name, names(.study$tasks), "a task of the study")
    if (!inherits(given[[name]], "ensayo_task")) stop_ensayo("argument", sprintf("Task %s must be made by `task()`.", quoted(name)),
      sprintf("You gave %s.", shown_value(given[[name]])), name = name)
    .study$tasks[[name]] <- unclass(given[[name]])
  }
  with_tasks(.study)
}

#' @rdname replace_tasks
#' @export
remove_tasks <- function(.study, ...) {
  check_study(.study)
  gone <- unique(unlist(lapply(rlang::enquos(...), resolve_names, known = names(.study$tasks), what = "a task of the study")))
  of_gone <- function(quantity) isTRUE(quantity$task %in% gone)
  own <- names(Filter(of_gone, c(.study$inputs, .study$outputs)))
  others <- c(Filter(function(output) is.null(output$task), .study$outputs) |> lapply(function(output) output$formula), .study$specs)
  users <- c(names(Filter(function(formula) is.null(formula$task) && any(own %in% formula$uses), others)),
    names(Filter(function(event) any(c(gone, own) %in% c(event$on, items_of(event))), .study$events)),
    names(Filter(function(task) any(gone %in% vapply(task$links, function(link) link$from, "")), .study$tasks[setdiff(names(.study$tasks), gone)])))
  if (length(users)) {
    stop_ensayo("name", sprintf("%s cannot be taken out while something uses %s.", and_list(quoted(gone)), if (length(gone) == 1) "it" else "them"),
      sprintf("%s does.", quoted(users[1])), "Change or remove that first.", name = gone[1])
  }
  .study$tasks[gone] <- NULL
  with_tasks(.study)
}

# Links as they are written: list(from, kind, lag, length), `lag` one of "none", "working", "elapsed", "share", `length` a number or the
# name of a quantity.
read_links <- function(text, arg = "after", call = rlang::caller_env()) {
  if (is.null(text) || !nzchar(trimws(text))) return(list())
  lapply(trimws(strsplit(text, "[,;]")[[1]]), read_link, arg = arg, call = call)
}

read_link <- function(text, arg, call) {
  wrong <- function(expected) stop_ensayo("argument", sprintf("`%s` must be tasks with commas between, each with its lag: %s.", arg, expected),
    sprintf("You gave %s.", quoted(text)), "Such as \"dig\", \"dig SS + 2 days\", \"order FF + 3 elapsed days\", \"dig SS + 50 %\".",
    argument = arg, call = call)
  found <- regmatches(text, regexec("^(.*?)(\\s+(FS|SS|FF|SF))?(\\s+([+-])\\s*(.*))?$", text, perl = TRUE))[[1]]
  name <- trimws(found[2])
  if (!nzchar(name) || grepl("^[+-]", name)) wrong("a task is missing")
  kind <- if (nzchar(found[4])) found[4] else "FS"
  link <- list(from = normal_name(name), kind = kind, lag = "none", length = 0)
  if (!nzchar(found[5])) return(link)
  sign <- if (found[6] == "-") -1 else 1
  lag <- regmatches(found[7], regexec("^([0-9]+([.][0-9]+)?)\\s*(%|days?|elapsed days?|hours?|elapsed hours?)?$", trimws(found[7])))[[1]]
  if (length(lag) == 0) {
    if (grepl("^[0-9]", trimws(found[7]))) wrong("its unit is days, elapsed days, hours, elapsed hours or %")
    if (!nzchar(trimws(found[7]))) wrong("its length is missing")
    return(utils::modifyList(link, list(lag = "working", length = normal_name(trimws(found[7])), sign = sign)))
  }
  if (!nzchar(lag[4])) wrong("a number needs its unit")
  length <- sign * as.double(lag[2])
  unit <- sub("s$", "", lag[4])
  if (unit == "%") {
    # counted from the start of the earlier task
    share <- if (kind %in% c("FS", "FF")) 100 + length else length
    if (share < 0) wrong("a share of the work is at least 0 % of it")
    return(utils::modifyList(link, list(lag = "share", length = share / 100)))
  }
  if (length == 0) return(link)
  utils::modifyList(link, list(lag = if (startsWith(unit, "elapsed")) "elapsed" else "working",
    length = if (unit == "elapsed hour") length / 24 else length, hours = if (unit == "hour") TRUE))
}

link_text <- function(link) {
  lag <- if (link$lag == "none") NULL else if (is.character(link$length)) sprintf("%s %s", if (identical(link$sign, -1)) "-" else "+",
    link$length) else {
    length <- link$length
    if (link$lag == "share" && link$kind %in% c("FS", "FF")) length <- round(length - 1, 12)
    unit <- if (link$lag == "share") "%" else if (isTRUE(link$hours)) "hours" else if (link$lag == "elapsed") "elapsed days" else "days"
    size <- abs(if (link$lag == "share") round(100 * length, 10) else length)
    if (size == 1 && unit != "%") unit <- sub("s$", "", unit)
    sprintf("%s %s %s", if (length < 0) "-" else "+", exact_number(size), unit)
  }
  paste(c(link$from, if (link$kind != "FS") link$kind, lag), collapse = " ")
}

links_text <- function(links) if (length(links)) paste(vapply(links, link_text, ""), collapse = ", ")
