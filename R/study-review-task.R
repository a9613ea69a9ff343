# What is looked for in a schedule before it is run.

review_tasks <- function(study) {
  if (length(study$tasks) == 0) return(NULL)
  plan <- study$models$schedule$plan
  links <- task_links(study, NULL)
  rbind(review_open_ends(study, links), review_task_links(study, links), review_fixed_dates(study),
    review_dates_against_links(study, links), review_task_ranges(study), review_task_calendars(study, plan), review_tasks_alike(study, links), review_never_critical(study, plan))
}

# Tasks that nothing comes after, besides the last; and those that come after nothing, besides the first.
review_open_ends <- function(study, links) {
  names <- names(study$tasks)
  finishing <- links$from[!links$kind %in% c("SS", "SF") & links$lag != "share"]
  open <- setdiff(names, c(finishing, names(Filter(function(task) !is.null(task$finished), study$tasks))))
  started_only <- intersect(open, links$from)
  loose <- setdiff(open, links$from)
  rbind(
    if (length(loose) > 1) finding("hint", and_list(utils::head(loose, 4)), sprintf(
      "%s have nothing after them.", count_of(length(loose), "task")), "Only the last should: a milestone after all of them says when all is done."),
    if (length(started_only)) finding("warning", and_list(utils::head(started_only, 4)), sprintf(
      "%s nothing waiting for its finish, only for its start: it may end after the project needs it.", if (length(started_only) == 1) "It has" else
        "Each has"), "Link its finish to what needs it, such as `FF`.")
  )
}

review_task_links <- function(study, links) {
  durations <- vapply(names(study$tasks), function(name) longest_of(study, name), 0)
  number <- vapply(links$length, is.numeric, NA)
  size <- vapply(links$length, function(x) if (is.numeric(x)) x else NA_real_, 0)
  overlap <- which(number & links$lag == "working" & size < 0 & -size > durations[match(links$from, names(durations))])
  waits <- which(number & links$lag %in% c("working", "elapsed") & size >= 5 & links$kind == "FS")
  odd <- which(links$kind == "SF")
  rbind(
    if (length(overlap)) finding("warning", links$to[overlap[1]], sprintf("It overlaps `%s` by more than that may last.", links$from[overlap[1]]),
      "A share of the work says it for every duration: `FS - 50 %`."),
    if (length(waits)) finding("hint", and_list(unique(utils::head(links$to[waits], 4))), sprintf(
      "%s a wait of five days and more before %s.", if (length(waits) == 1) "A link holds" else sprintf("%d links hold", length(waits)),
      if (length(waits) == 1) "it" else "them"), "What is waited for is a task, which may have a range."),
    if (length(odd)) finding("hint", links$to[odd[1]], sprintf("It finishes when `%s` starts (SF).", links$from[odd[1]]),
      "That is seldom what is meant: a later start makes it longer.")
  )
}

# The most that a task may take, as far as it is known.
longest_of <- function(study, name) {
  duration <- study$inputs[[task_part(name, "duration")]]$law
  if (is.null(duration)) return(Inf)
  if (is_law(duration)) support(duration)[[2]] else duration
}

review_fixed_dates <- function(study) {
  held <- names(Filter(function(task) !is.null(task$not_before) || !is.null(task$start_on), study$tasks))
  after <- held[vapply(study$tasks[held], function(task) length(task$links) > 0, NA)]
  if (length(after) == 0) return(NULL)
  finding("hint", and_list(utils::head(after, 4)), sprintf("%s a fixed date, which hides how late the tasks before %s are.",
    if (length(after) == 1) "It has" else "Each has", if (length(after) == 1) "it" else "them"),
    "Is the date a fact, or a plan? The table of the schedule says in how many runs it holds the task back.")
}

# What its links do not allow: a task that was started before what it waits for was finished, or that is to start on a day on which what
# comes before it cannot have been done.
review_dates_against_links <- function(study, links) {
  plain <- links[links$kind == "FS" & links$lag == "none", ]
  day <- function(names, key) vapply(study$tasks[names], function(task) {
    if (inherits(task[[key]], "Date")) as.double(task[[key]]) else NA_real_
  }, 0, USE.NAMES = FALSE)
  begun <- day(plain$to, "started")
  early <- which(is.finite(begun) & !(day(plain$from, "finished") <= begun) %in% TRUE)
  begins <- pmax(day(plain$from, "start_on"), day(plain$from, "not_before"), na.rm = TRUE)
  late <- which(begins >= day(plain$to, "start_on"))
  rbind(
    if (length(early)) finding("hint", plain$to[early[1]], sprintf("It was started before `%s`, which it comes after, was finished.",
      plain$from[early[1]]), "What is left of it waits for that. Is the link as the work was done?"),
    if (length(late)) finding("warning", plain$to[late[1]], sprintf("It is to start on a day on which `%s`, which it comes after, cannot be done.",
      plain$from[late[1]]), "Links win: the date holds nothing.")
  )
}

review_task_ranges <- function(study) {
  fixed <- names(Filter(function(name) {
    input <- study$inputs[[task_part(name, "duration")]]
    !is.null(input) && !is_law(input$law) && input$law >= 10
  }, stats::setNames(nm = names(study$tasks))))
  laws <- Filter(Negate(is.null), lapply(stats::setNames(nm = names(study$tasks)), function(name) {
    law <- study$inputs[[task_part(name, "duration")]]$law
    if (is_law(law) && !is_discrete(law)) law
  }))
  even <- names(Filter(function(law) isTRUE(abs(moments(law)$skewness) < 1e-9), laws))
  rbind(
    if (length(fixed)) finding("hint", and_list(utils::head(fixed, 4)), sprintf("%s of ten days and more %s no range.", count_of(length(fixed),
      "task"), if (length(fixed) == 1) "has" else "have"), "Long tasks are the least certain."),
    if (length(laws) >= 5 && length(even) >= 0.8 * length(laws)) finding("hint", "durations", sprintf(
      "%d of %d ranges are as long to both sides.", length(even), length(laws)), "Work seldom ends as early as it may end late.")
  )
}

# Calendars of linked tasks that never meet: none of the days of a year are worked in both.
review_task_calendars <- function(study, plan) {
  worked <- lapply(plan$calendars, function(calendar) {
    days <- calendar$days[lead_days + seq_len(366)]
    vapply(calendar$patterns, spans_length, 0)[days + 1] > 0
  })
  from <- plan$tasks$calendar[plan$links$from]
  to <- plan$tasks$calendar[plan$links$to]
  apart <- which(!mapply(function(a, b) any(worked[[a]] & worked[[b]]), from, to))
  if (length(apart) == 0) return(NULL)
  finding("hint", plan$names[plan$links$to[apart[1]]], sprintf("Its calendar and that of `%s` have no day in common.",
    plan$names[plan$links$from[apart[1]]]), "Each may wait for the other's days.")
}

review_tasks_alike <- function(study, links) {
  keys <- vapply(names(study$tasks), function(name) {
    own <- links[links$to == name, ]
    task <- study$tasks[[name]]
    paste(c(tolower(task$label %||% name), sort(paste(own$from, own$kind))), collapse = "|")
  }, "")
  twice <- which(duplicated(keys))
  if (length(twice) == 0) return(NULL)
  first <- names(study$tasks)[match(keys[twice[1]], keys)]
  finding("hint", names(study$tasks)[twice[1]], sprintf("It has the label and the links of `%s`.", first), "Is it the same task twice?")
}

# Tasks whose longest path ends before the project's shortest: with all days as few as may be, and as many. Where calendars change from
# run to run, or a lag is taken off, the two ends are not told so.
review_never_critical <- function(study, plan) {
  taken_off <- vapply(plan$links$length, function(length) is.list(length) && length$times < 0, NA)
  if (length(plan$closures) || length(plan$lost) || any(taken_off)) return(NULL)
  most <- 1e4  # days, of what has no end
  ends <- function(name) {
    input <- study$inputs[[name]]
    if (is.null(input)) return(c(0, most))
    if (!is_law(held_value(input))) return(rep(as.double(held_value(input)), 2))
    reach <- support(input$law)
    c(max(reach[[1]], -most), min(reach[[2]], most))
  }
  names <- unname(study$models$schedule$uses)
  columns <- lapply(stats::setNames(nm = names), ends)
  plan <- plan_values(plan, columns)
  places <- seq_along(plan$names)
  shortest <- run_plan(study$models$schedule, plan, 2, threads = 1)
  if (any(shortest$failed > 0)) return(NULL)
  slack <- run_plan(study$models$schedule, plan, 2, list(total = places), limit = shortest$exact[1], threads = 1)$total
  never <- plan$names[vapply(slack, function(float) isTRUE(float[2] > 0), NA)]
  if (length(never) == 0) return(NULL)
  finding("hint", few_listed(never), sprintf("%s on the critical path, however long %s.", if (length(never) == 1) "It is never" else
    sprintf("%d tasks are never", length(never)), if (length(never) == 1) "it takes" else "they take"),
    "Is something missing that waits for it?")
}
