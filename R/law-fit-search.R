# The search for the parameters of largest likelihood.

# The search runs over free numbers around several starts.
searched_fit <- function(family, data, held, below) {
  record <- family_record(family)
  value_of <- function(start) {
    rest <- rest_of(family, c(start$free(start$theta), held))
    function(theta) {
      par <- c(start$free(theta), held)
      if (!plainly_valid(record, par)) return(1e10)
      law <- ready_law(new_law(family, c(par, rest)))
      total <- -suppressWarnings(log_likelihood(law, data, below))  # powers that overflow count as impossible
      if (is.finite(total)) total else 1e10
    }
  }
  starts <- starts_of(family, c(data, below), held)
  # a few steps from each start tell which hill to climb
  if (length(starts) > 1) {
    starts <- lapply(starts, function(start) {
      tried <- simplex(start$theta, value_of(start), maxit = 60)
      list(free = start$free, theta = tried$par, value = tried$value)
    })
    starts <- starts[which.min(vapply(starts, function(start) start$value, 0))]
  }
  start <- starts[[1]]
  best <- climbed(start$theta, value_of(start), robust = family %in% fitted_ends)
  if (best$value < 1e10) start$free(best$par)
}

# Along slopes, in steps that change the likelihood alike, until nothing is gained. Where likelihoods have edges, or
# slopes lead nowhere, a simplex comes first.
climbed <- function(start, value, robust) {
  best <- if (robust) simplex(start, value) else list(par = start, value = value(start))
  for (round in 1:8) {
    unit <- telling_steps(best$par, value)
    found <- tryCatch(stats::optim(0 * best$par, function(z) value(best$par + unit * z), method = "BFGS",
      control = list(reltol = 1e-14, maxit = 200)), error = function(e) list(value = Inf))
    gained <- best$value - found$value
    if (gained > 0) best <- list(par = best$par + unit * found$par, value = found$value)
    if (!is.finite(gained) || gained < 1e-8) {
      if (robust || round > 1) break
      best <- simplex(best$par, value)
      robust <- TRUE
    }
  }
  best
}

# Of one number there is nothing to do that slopes do not do better.
simplex <- function(from, value, maxit = 2000) {
  if (length(from) == 1) return(list(par = from, value = value(from)))
  stats::optim(from, value, method = "Nelder-Mead", control = list(maxit = maxit, reltol = 1e-10))
}

# Steps of each free number that change the likelihood by about one.
telling_steps <- function(at, value) {
  here <- value(at)
  vapply(seq_along(at), function(i) {
    step <- 1
    for (halving in 1:60) {
      away <- c(value(replace(at, i, at[i] + step)), value(replace(at, i, at[i] - step)))
      if (isTRUE(max(abs(away - here)) < 2)) break
      step <- step / 2
    }
    step
  }, 0)
}

# Parameters that neither the search nor the user sets, at their defaults.
rest_of <- function(family, par) {
  defaults <- Filter(function(x) !rlang::is_missing(x) && !is.null(x), as.list(formals(paste0("law_", family))))
  lapply(defaults[setdiff(names(defaults), names(par))], eval, envir = baseenv())
}

# Where the search may begin: functions from free numbers to the parameters that are fitted, each with its start. Ends
# stay outside the data.
starts_of <- function(family, data, held) {
  width <- diff(range(data))
  if (family %in% c("triangular", "pert", "trapezoidal")) {
    ends <- function(theta) list(min = min(data) - width * exp(theta[1]) / 20, max = max(data) +
      width * exp(theta[2]) / 20)
    inner <- function(end, theta) end$min + (end$max - end$min) * stats::plogis(theta)
    f <- if (family == "trapezoidal") function(theta) {
      end <- ends(theta)
      from <- inner(end, theta[3] - 1)
      list(min = end$min, from = from, to = from + (end$max - from) * stats::plogis(theta[4]), max = end$max)
    } else function(theta) {
      end <- ends(theta)
      list(min = end$min, mode = inner(end, theta[3]), max = end$max)
    }
    # the likelihood may have a hump for each place of the mode
    return(lapply(stats::qlogis(c(0.1, 0.3, 0.5, 0.7, 0.9)), function(mode) {
      list(free = f, theta = c(0, 0, mode, if (family == "trapezoidal") 0))
    }))
  }
  record <- family_record(family)
  unknown <- sought_parameters(family, names(held))
  # by moments, and by what outliers do not move
  quartiles <- stats::quantile(data, c(0.25, 0.5, 0.75), names = FALSE)
  middles <- list(c(mean(data), stats::sd(data)), c(quartiles[2], (quartiles[3] - quartiles[1]) / 1.35))
  guesses <- lapply(middles[c(TRUE, middles[[2]][2] > 0)], function(at) record$start(at[1], at[2], held)[unknown])
  if ("df" %in% unknown) {
    guesses <- c(guesses, lapply(c(1.2, 40), function(df) utils::modifyList(guesses[[length(guesses)]], list(df = df))))
  }
  lapply(guesses, function(start) {
    list(free = unconstrained(record$parameters[unknown], start, typical_step(unknown, stats::sd(data)))$parameters,
      theta = rep(0, length(unknown)))
  })
}
