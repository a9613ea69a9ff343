# Schedules by another way: a plain calculation of one run, in whole steps of time, and networks made at random.

# Every instant is a whole number of ticks; a calendar is a vector that says for each tick whether it is worked. The rules of the core are
# followed tick by tick.
# `hold`: a task that is not ready before an instant.
slow_schedule <- function(tasks, links, works, hold = NULL, at = 0, begin = 0) {
  n <- nrow(tasks)
  t <- s <- f <- u <- numeric(n)
  done <- function(calendar, x) c(0, cumsum(calendar))[x + 1]
  earliest <- function(calendar, work) if (work <= 0) stop("no work") else match(TRUE, cumsum(calendar) >= work)
  following <- function(calendar, x) {
    while (!calendar[x + 1]) x <- x + 1
    x
  }
  back <- function(calendar, x, work) {  # the earliest instant with `work` more done than at x, which may be below 0
    target <- done(calendar, x) + work
    if (target <= 0) 0 else earliest(calendar, target)
  }
  for (i in seq_len(n)) {
    own <- works[[tasks$calendar[i]]]
    t[i] <- if (identical(hold, i)) at else begin
    u[i] <- -Inf
    for (k in which(links$to == i)) {
      from <- if (links$from_start[k]) s[links$from[k]] else f[links$from[k]]
      bound <- switch(links$lag[k], none = from, elapsed = from + links$length[k],
        working = if (links$length[k] == 0) from else back(own, from, links$length[k]))
      if (links$to_finish[k]) u[i] <- max(u[i], bound) else t[i] <- max(t[i], bound)
    }
    if (tasks$work[i] == 0) {
      s[i] <- f[i] <- max(t[i], u[i])
    } else {
      s[i] <- following(own, t[i])
      f[i] <- max(earliest(own, done(own, t[i]) + tasks$work[i]), u[i])
    }
  }
  list(t = t, s = s, f = f, u = u, finish = max(f))
}

# A network of tasks with calendars in quarters of a day: a study, and what slow_schedule() takes. `tasks$work` is in ticks.
random_network <- function(seed, size = 12, kinds = c("FS", "SS", "FF", "SF"), calendars = TRUE) {
  withr::with_seed(seed, {
    week <- rep(c(rep(c(FALSE, TRUE, TRUE, FALSE), 5), rep(FALSE, 8)), 60)  # weekdays from 06:00 to 18:00, from a Monday on
    works <- list(rep(TRUE, length(week)), week)
    tasks <- data.frame(name = paste0("t", seq_len(size)), calendar = if (calendars) sample(1:2, size, TRUE) else 1,
      work = sample(c(0, 1, 2, 3, 4, 6, 9, 13), size, TRUE, c(1, rep(2, 7))))
    pairs <- t(utils::combn(size, 2))
    links <- as.data.frame(pairs[stats::runif(nrow(pairs)) < 2.2 / size, , drop = FALSE])
    names(links) <- c("from", "to")
    m <- nrow(links)
    kind <- sample(kinds, m, TRUE, prob = c(5, 2, 2, 1)[seq_along(kinds)])
    links$kind <- kind
    links$from_start <- kind %in% c("SS", "SF")
    links$to_finish <- kind %in% c("FF", "SF")
    links$lag <- sample(c("none", "elapsed", "working"), m, TRUE, c(3, 1, 1))
    links$length <- ifelse(links$lag == "none", 0, sample(c(-2, 1, 2, 5), m, TRUE))
    list(tasks = tasks, links = links, works = works)
  })
}

study_of_network <- function(network, works = NULL) {
  tasks <- network$tasks
  links <- network$links
  days <- function(ticks, calendar) ticks / c(4, 2)[calendar]
  texts <- vapply(seq_len(nrow(links)), function(k) {
    lag <- links$length[k]
    size <- if (links$lag[k] == "working") days(abs(lag), tasks$calendar[links$to[k]]) else abs(lag) / 4
    sprintf("%s %s%s", tasks$name[links$from[k]], links$kind[k], if (links$lag[k] == "none") "" else sprintf(" %s %s %s",
      if (lag < 0) "-" else "+", format(size, scientific = FALSE), if (links$lag[k] == "elapsed") "elapsed days" else "days"))
  }, "")
  made <- lapply(seq_len(nrow(tasks)), function(i) {
    task <- task(0, after = paste(texts[links$to == i], collapse = ", "), calendar = c("every day", "crew")[tasks$calendar[i]])
    task$duration <- if (is.null(works)) days(tasks$work[i], tasks$calendar[i]) else works[[i]]
    task
  })
  study() |> add_calendars(crew = calendar("Mon-Fri", hours = "06:00-18:00")) |>
    add_tasks(!!!stats::setNames(made, tasks$name), .start = "2027-03-01")
}

# The largest delay of a task's start in ticks of its own work that moves the finish no farther than `limit`; with `free`, that moves no
# other task and not the finish.
slow_float <- function(network, i, limit = NULL, most = 400, free = FALSE) {
  plain <- slow_schedule(network$tasks, network$links, network$works)
  limit <- if (is.null(limit)) plain$finish else limit
  kept <- function(made) made$finish <= limit && (!free || identical(made$s[-i], plain$s[-i]) && identical(made$f[-i], plain$f[-i]))
  calendar <- network$works[[network$tasks$calendar[i]]]
  milestone <- network$tasks$work[i] == 0
  ready <- if (milestone) plain$f[i] else plain$t[i]
  later <- function(x) {
    at <- if (milestone) ready + x else ready + match(TRUE, cumsum(calendar[(ready + 1):length(calendar)]) > x) - 1
    slow_schedule(network$tasks, network$links, network$works, i, at)
  }
  if (plain$finish > limit) return(-Inf)
  low <- 0
  high <- most
  while (high - low > 1) {
    middle <- (low + high) %/% 2
    if (kept(later(middle))) low <- middle else high <- middle
  }
  low
}

# Where the core and the plain calculation differ: starts, finishes, floats, of one network with several sets of durations.
schedule_faults <- function(seed, size = 12) {
  network <- random_network(seed, size)
  runs <- 4
  sets <- lapply(seq_len(runs), function(r) random_network(seed, size)$tasks$work * (1 + (r + seq_len(size)) %% 3))
  study <- study_of_network(network)
  model <- study$models$schedule
  order <- match(model$plan$names, network$tasks$name)
  per_day <- c(4, 2)[network$tasks$calendar]
  # a column of work for each task that has any
  columns <- lapply(seq_len(size), function(i) vapply(sets, function(set) set[i] / per_day[i], 0))
  places <- seq_len(size)
  made <- run_schedule(model, stats::setNames(columns, sprintf("%s[duration]", network$tasks$name)), runs, list(start = places,
    finish = places, total = places, free = places))
  unlist(lapply(seq_len(runs), function(r) {
    network$tasks$work <- sets[[r]]
    slow <- slow_schedule(network$tasks, network$links, network$works)
    float <- vapply(seq_len(size), function(i) slow_float(network, i), 0)
    free <- vapply(seq_len(size), function(i) slow_float(network, i, free = TRUE), 0)
    fault <- function(what, got, exact) {
      at <- which(abs(got - exact) > 1e-6)
      if (length(at)) sprintf("seed %d, run %d, %s of %s: %s, not %s", seed, r, what, network$tasks$name[order[at[1]]], format(got[at[1]]),
        format(exact[at[1]]))
    }
    column <- function(what) vapply(made[[what]], `[`, 0, r)
    day <- function(ticks) as.double(as.Date("2027-03-01")) + floor(ticks / 4)
    ends <- function(ticks) day(ifelse(ticks > 0, ticks - 1e-6, ticks))
    works <- slow$s[order] # a task without work reads like a finish
    c(fault("finish", made$exact[r] * 4, slow$finish), fault("start", column("start"), ifelse(sets[[r]][order] > 0, day(works), ends(works))),
      fault("finish", column("finish"), ends(slow$f[order])),
      fault("float", floor(column("total") * ifelse(sets[[r]] > 0, per_day, 4)[order] + 1e-8), float[order]),
      fault("free float", floor(column("free") * ifelse(sets[[r]] > 0, per_day, 4)[order] + 1e-8), free[order]))
  }))
}

# Where slip allowed is not what delaying each task in turn gives.
slip_faults <- function(seed, size = 8, runs = 15) {
  network <- random_network(seed, size)
  network$tasks$work <- pmax(network$tasks$work, 1)
  per_day <- c(4, 2)[network$tasks$calendar]
  study <- study_of_network(network, lapply(seq_len(size), function(i) law_discrete(network$tasks$work[i] * c(1, 2, 3) / per_day[i])))
  res <- simulate(study, runs, seed, progress = NULL)
  slip <- as.data.frame(slip_allowed(res, c(0, 3)))
  d <- as.data.frame(res)
  sets <- lapply(seq_len(runs), function(r) vapply(seq_len(size), function(i) d[[sprintf("t%d[duration]", i)]][r] * per_day[i], 0))
  networks <- lapply(sets, function(set) {
    network$tasks$work <- round(set)
    network
  })
  finish <- vapply(networks, function(one) slow_schedule(one$tasks, one$links, one$works)$finish, 0)
  kept <- ceiling(0.8 * runs)
  unlist(lapply(c(0, 3), function(days) {
    limit <- sort(finish)[kept] + 4 * days
    exact <- vapply(seq_len(size), function(i) sort(vapply(networks, slow_float, 0, i = i, limit = limit), decreasing = TRUE)[kept], 0)
    got <- slip$start_later[slip$days == days][match(network$tasks$name, slip$name[slip$days == days])] * per_day
    at <- which(floor(got + 1e-8) != exact)  # less than a millisecond
    if (length(at)) sprintf("seed %d, %d days: slip of t%d is %s, not %s ticks", seed, days, at[1], format(got[at[1]]), format(exact[at[1]]))
  }))
}
