# Draws of inputs that are drawn anew at each step. Until they are needed, their column says of which runs they are: a draw is
# found from its address, so no series needs to be kept.

# A column of run numbers, counted from 1.
of_runs <- function(runs) structure(as.double(runs), class = "ensayo_of_runs")

is_of_runs <- function(column) inherits(column, "ensayo_of_runs")

#' @export
`[.ensayo_of_runs` <- function(x, i) of_runs(unclass(x)[i])

#' @export
c.ensayo_of_runs <- function(...) of_runs(unlist(lapply(list(...), unclass)))

# Columns of n runs with every such column, and every value that is the same at all steps, of an input with steps as a matrix of
# runs and steps. `plan` says how these are drawn, where any are to be.
with_series <- function(study, columns, n, plan = NULL) {
  stepped <- intersect(stepped_names(study), names(columns))
  if (length(stepped) == 0) return(columns)
  drawn <- Filter(function(name) is_of_runs(columns[[name]]), stepped)
  # what is drawn together is made together
  while (length(drawn)) {
    set <- Filter(function(name) identical(columns[[name]], columns[[drawn[1]]]), drawn)
    columns[set] <- series_of_runs(study, plan, set, columns[[set[1]]])
    drawn <- setdiff(drawn, set)
  }
  for (name in Filter(function(name) !is.matrix(columns[[name]]), stepped)) {
    steps <- study$inputs[[name]]$steps
    columns[[name]] <- matrix(columns[[name]], n, length(steps), dimnames = list(NULL, step_keys(steps)))
  }
  columns
}

# Matrices of some inputs for runs in any order. Runs that are not neighbours are drawn with those between them, window by
# window, for a design is set up for many runs in the time it takes for one.
series_of_runs <- function(study, plan, names, runs, window = 4096) {
  runs <- unclass(runs)
  if (all(diff(runs) == 1)) return(draw_series(study, plan, names, runs[1] - 1, length(runs)))
  places <- unname(split(seq_along(runs), (runs - 1) %/% window))
  parts <- lapply(places, function(at) {
    first <- min(runs[at])
    drawn <- draw_series(study, plan, names, first - 1, max(runs[at]) - first + 1)
    lapply(drawn, function(series) series[runs[at] - first + 1, , drop = FALSE])
  })
  order <- order(unlist(places))
  lapply(do.call(Map, c(list(rbind), parts)), function(series) series[order, , drop = FALSE])
}

# A named list of matrices, a row for each of `count` runs after the first `first` and a column for each step. Correlated
# inputs bring those with which they are drawn along.
draw_series <- function(study, plan, names, first, count) {
  stepped <- intersect(input_order(study), intersect(varying_names(study), stepped_names(study)))
  leader <- leaders_of(study, stepped)
  sets <- Filter(function(set) any(set %in% leader[names]), correlated_sets(study))
  alone <- Filter(function(name) persists(study, name), setdiff(leader[names], unlist(sets)))
  uniforms <- do.call(c, c(list(list()), lapply(unname(c(sets, as.list(alone))), set_uniforms, study = study, plan = plan,
    first = first, count = count)))
  linked <- Filter(function(name) is_linked(study$inputs[[name]]$law), names)
  columns <- list()
  for (name in intersect(stepped, c(names, links_behind(study, linked)))) {
    own <- leader[[name]]
    columns[[name]] <- draw_over_steps(study, name, own, uniforms[[own]], plan, first, count, columns)
  }
  columns[names]
}

# One input's matrix. `u` are its uniform numbers, where something has made them already.
draw_over_steps <- function(study, name, leader, u, plan, first, count, columns) {
  input <- study$inputs[[name]]
  steps <- length(input$steps)
  if (!is.null(input$block)) {
    stretches <- ceiling(steps / input$block)
    return(recorded_stretches(input, u %||% series_draws(study, leader, plan, NULL, first, count, stretches)$x))
  }
  if (is_linked(input$law)) {
    u <- u %||% series_draws(study, leader, plan, NULL, first, count)$x
    others <- linked_columns(study, links_of(input$law), plan, first, count, steps, columns)
    x <- linked_quantile(input$law, as.double(u), others)
  } else if (!is.null(u)) {
    x <- draw_from(input$law, as.double(u), plan$threads)
  } else {
    recipe <- inversion_recipe(input$law)
    drawn <- series_draws(study, leader, plan, recipe, first, count)
    x <- inside_support(input$law, if (is.null(recipe)) quantile_of(input$law, as.double(drawn$x))
      else finished_draw(input$law, recipe, drawn))
  }
  # what comes from the core is a matrix already; to make it one again would copy it
  if (!is.matrix(x)) x <- matrix(x, count, steps, dimnames = list(NULL, step_keys(input$steps)))
  x
}

# Of the core, through a law where a recipe is given: list(x, open).
series_draws <- function(study, name, plan, recipe, first, count, steps = length(study$inputs[[name]]$steps)) {
  address <- stream_address(study$inputs[[name]]$stream, plan$seed)
  keys <- step_keys(study$inputs[[name]]$steps)[seq_len(steps)]
  cpp_draw_series(address, as.double(seq_len(steps)), keys, series_directions(study, name, plan), plan, recipe, first, count, plan$threads)
}

# Uniform numbers of inputs that are correlated within each step, or persist from step to step.
set_uniforms <- function(set, study, plan, first, count) {
  if (persists(study, set)) {
    scores <- persistence_scores(study, set)
    u <- lapply(stats::setNames(nm = set), function(name) series_draws(study, name, plan, NULL, first, count)$x)
    cpp_persist(u, semidefinite_root(scores$scores), semidefinite_root(scores$brought) * scores$size, scores$kept, plan$threads)
    return(u)
  }
  directions <- lapply(stats::setNames(nm = set), function(name) series_directions(study, name, plan))
  # of recorded stretches it is where they begin that is correlated
  steps <- ceiling(length(study$inputs[[set[1]]]$steps) / (study$inputs[[set[1]]]$block %||% 1))
  addresses <- unlist(lapply(seq_len(steps), function(k) {
    lapply(set, function(name) stream_address(study$inputs[[name]]$stream, plan$seed, k, directions[[name]][[k]]))
  }), recursive = FALSE)
  columns <- lapply(seq_len(steps), function(k) (k - 1) * length(set) + seq_along(set))
  correlated <- list(list(r = correlation_matrix(study, set), columns = columns))
  drawn <- lapply(core_columns(addresses, vector("list", length(addresses)), plan, first, count, correlated), `[[`, "x")
  lapply(stats::setNames(seq_along(set), set), function(j) {
    matrix(unlist(drawn[seq(j, length(drawn), by = length(set))], use.names = FALSE), count)
  })
}

# Stretches of recorded data that begin at places drawn at random, each as likely as any other (`u` has a column for each
# stretch); the end of the data is followed by its beginning: Politis and Romano (1992).
recorded_stretches <- function(input, u) {
  data <- parameters_of(input$law)$data
  step <- seq_along(input$steps) - 1
  at <- floor(u * length(data))[, step %/% input$block + 1, drop = FALSE] + rep(step %% input$block, each = nrow(u))
  matrix(data[at %% length(data) + 1], nrow(u), length(step), dimnames = list(NULL, step_keys(input$steps)))
}

# What a linked law takes from other inputs, for every value of a series.
linked_columns <- function(study, names, plan, first, count, steps, columns) {
  once <- setdiff(names, stepped_names(study))
  # runs beyond those of the plan are of its second draw
  plan$index <- first %/% plan$nsim
  drawn <- if (any(once %in% varying_names(study))) draw_columns(study, plan, first %% plan$nsim, count)
  lapply(stats::setNames(nm = names), function(name) {
    column <- columns[[name]] %||% drawn[[name]] %||% held_value(study$inputs[[name]])
    if (is.matrix(column)) as.double(column) else if (length(column) == 1) column else rep(column, steps)
  })
}

# The inputs with steps that linked laws need, and those that these need.
links_behind <- function(study, names) {
  found <- character()
  while (length(names)) {
    names <- setdiff(intersect(unlist(lapply(study$inputs[names], function(input) links_of(input$law))), stepped_names(study)), found)
    found <- c(found, names)
  }
  found
}

# Under a Sobol' design a dimension for each step, after those of inputs that are drawn once, and of a second draw of these.
series_directions <- function(study, name, plan) {
  if (plan$design != "sobol") return(NULL)
  varying <- varying_names(study)
  once <- length(unique(leaders_of(study, setdiff(varying, stepped_names(study)))))
  leaders <- unique(leaders_of(study, intersect(varying, stepped_names(study))))
  steps <- lengths(lapply(study$inputs[leaders], function(input) input$steps))
  before <- 2 * once + sum(steps[seq_len(match(name, leaders) - 1)])
  utils::tail(sobol_directions(before + steps[[name]]), steps[[name]])
}

# The mean of each run over the steps, or the first ones: what stands for a series where one number a run is wanted. Pieces of
# runs at a time.
series_means <- function(study, plan, name, runs, until = NULL, most = 2^22) {
  size <- max(1, most %/% length(study$inputs[[name]]$steps))
  starts <- seq(0, max(length(runs) - 1, 0), by = size)
  unlist(lapply(starts, function(from) {
    piece <- runs[seq.int(from + 1, min(from + size, length(runs)))]
    series <- series_of_runs(study, plan, name, piece)[[name]]
    rowMeans(if (is.null(until)) series else series[, seq_len(until), drop = FALSE])
  }), use.names = FALSE)
}

# How many values a run has over the steps, of all inputs that are drawn at each.
series_width <- function(study) {
  sum(lengths(lapply(study$inputs[intersect(varying_names(study), stepped_names(study))], function(input) input$steps)))
}

# A column as a store keeps it: numbers alone.
kept_column <- function(column) if (is_of_runs(column)) as.double(unclass(column)) else column
