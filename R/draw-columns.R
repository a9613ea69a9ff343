# The draws of a study: uniform numbers, correlated where asked, then inverted through each law.

# A named list of columns, one for each input that varies, for `count` runs after the first `first`. Of inputs with steps it
# says which runs they are of (draw-series.R).
draw_columns <- function(study, plan, first = 0, count = plan$nsim) {
  stepped <- intersect(varying_names(study), stepped_names(study))
  varying <- setdiff(varying_names(study), stepped)
  leader <- leaders_of(study, varying)
  addresses <- input_addresses(study, unique(leader), plan)
  recipes <- new.env(parent = emptyenv())
  laws <- laws_to_invert(study, leader, plan, recipes)
  sets <- Filter(function(set) all(set %in% names(addresses)), correlated_sets(study))
  drawn <- core_columns(addresses, lapply(laws, `[[`, "recipe"), plan, first, count,
    lapply(sets, function(set) list(r = correlation_matrix(study, set), columns = list(match(set, names(addresses))))))
  columns <- lapply(Filter(Negate(varies), study$inputs), held_value)
  for (name in intersect(input_order(study), varying)) {
    law <- study$inputs[[name]]$law
    own <- leader[[name]]
    columns[[name]] <- if (is_linked(law)) linked_quantile(law, drawn[[own]]$x, columns)
      else if (draws_by_runs(law, plan)) occurrences_column(law, drawn[[own]]$x, addresses[[own]], plan, first, count)
      else if (is.null(laws[[own]])) draw_from(law, drawn[[own]]$x, plan$threads, recipes)
      else through_law(law, laws[[own]], drawn[[own]])
    # numbers that went through their law are needed no more
    if (!is.null(laws[[own]])) drawn[own] <- list(NULL)
  }
  columns[stepped] <- list(of_runs((plan$index %||% 0) * plan$nsim + first + seq_len(count)))
  columns[varying_names(study)]
}

# Of each address the law through which its numbers go at once, or NULL where the numbers are needed by themselves: for several
# inputs that share them, for a law that is another in each run, for occurrences drawn one by one.
laws_to_invert <- function(study, leader, plan, recipes) {
  laws <- stats::setNames(vector("list", length(unique(leader))), unique(leader))
  own <- leader[!leader %in% leader[duplicated(leader)]]
  for (k in seq_along(own)) {
    law <- study$inputs[[names(own)[k]]]$law
    if (!is_linked(law) && !draws_by_runs(law, plan)) laws[[own[[k]]]] <- invertible_law(law, recipes)
  }
  laws
}

# The input whose uncertainty each input has: its own or the one it shares.
leaders_of <- function(study, varying) {
  stats::setNames(vapply(varying, function(name) study$inputs[[name]]$shares %||% name, ""), varying)
}

# Under a Sobol' design inputs take its dimensions in order of definition; a further draw of all of them within a
# run, the plan's `index`, the dimensions after those.
input_addresses <- function(study, names, plan) {
  index <- plan$index %||% 0
  directions <- if (plan$design == "sobol") utils::tail(sobol_directions(length(names) * (index + 1)), length(names))
  Map(function(name, k) stream_address(study$inputs[[name]]$stream, plan$seed, index, directions[[k]]),
    names, seq_along(names))
}

# A law ready to be asked, with its recipe, if it has one.
invertible_law <- function(law, recipes = NULL) {
  ready <- ready_law(law)
  list(ready = ready, recipe = inversion_recipe(law, ready, recipes))
}

# Columns of draws from the core, a list(x, open) for each address: through a law where there is a recipe, else uniform numbers. Each
# of `sets` has rank correlations `r` of `columns`, the places of their addresses, once or several times. A column depends on those
# before it among these and no others: under a Latin hypercube each input's own numbers are put into another order, so that every
# stratum stays filled; else a Gaussian copula changes them run by run.
core_columns <- function(addresses, recipes, plan, first, count, sets = list()) {
  if (!plan$design %in% c("latin", "midpoints")) {
    for (k in seq_along(sets)) sets[[k]]$r <- semidefinite_root(score_correlation(sets[[k]]$r))
  }
  cpp_draw_columns(addresses, recipes, sets, plan, first, count, plan$threads)
}

draw_from <- function(law, u, threads = 1, recipes = NULL) {
  made <- invertible_law(law, recipes)
  through_law(law, made, if (is.null(made$recipe)) list(x = u) else cpp_invert(u, made$recipe, threads))
}

# What came from the core through the rest of a law.
through_law <- function(law, made, drawn) {
  x <- if (is.null(made$recipe)) quantile_of(law, drawn$x, made$ready) else finished_draw(made$ready, made$recipe, drawn)
  inside_support(law, x, made$ready)
}

# The last look at every column: no draw lies where its law is not. It costs a small part of what drawing does.
inside_support <- function(law, x, ready = ready_law(law)) {
  if (!is.double(x) || length(x) == 0) return(x)
  drawn <- cpp_range(x)
  ends <- ask(ready, "support")
  if (isTRUE(drawn[1] >= ends[[1]] && drawn[2] <= ends[[2]])) return(x)
  stop_ensayo("draw", sprintf("Every draw must lie inside its law, from %s to %s.", shown_value(ends[[1]]),
    shown_value(ends[[2]])), sprintf("Draws of %s run from %s to %s.", format(law), shown_value(drawn[1]),
    shown_value(drawn[2])), "This is a fault of the package: please report it with the law.")
}

# Where the recipe left places open, the law's quantile fills them; numbers of categories become their names.
finished_draw <- function(law, recipe, drawn) {
  x <- if (is.null(recipe$labels)) drawn$x else recipe$labels[drawn$x]
  if (length(drawn$open) == 0) return(x)
  u <- drawn$x[drawn$open]
  # a table's quantile is asked from the nearer tail, as for its cells: there 1 - u is exact and has all its digits
  upper <- recipe$kind == "table" & u > 0.5
  law <- ready_to_invert(law)
  values <- numeric(length(u))
  values[!upper] <- ask(law, "quantile", u[!upper], TRUE)
  values[upper] <- ask(law, "quantile", 1 - u[upper], FALSE)
  # the column was made for this draw, and is nobody else's yet
  if (is.null(recipe$labels)) cpp_put(x, drawn$open, values) else x[drawn$open] <- values
  x
}

# By the law's own quantile, in pieces that stay in the cache; whole rows of a data set by their place in it, so that
# they stay together.
quantile_of <- function(law, u, ready = ready_law(law), piece = 2^15) {
  if (family_name(law) == "rows") {
    data <- parameters_of(law)$data
    return(data[pmin(floor(u * length(data)) + 1, length(data))])
  }
  if (length(u) <= piece) return(ask(ready, "quantile", u, TRUE))
  starts <- seq(0, length(u) - 1, by = piece)
  unlist(lapply(starts, function(from) {
    ask(ready, "quantile", cpp_part(u, from, min(piece, length(u) - from)), TRUE)
  }), use.names = FALSE)
}
