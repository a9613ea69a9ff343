# The draws of a study: uniform numbers, correlated where asked, then inverted through each law.

# A named list of columns, one for each input that varies, for `count` runs after the first `first`. Of inputs with steps it
# says which runs they are of (draw-series.R).
draw_columns <- function(study, plan, first = 0, count = plan$nsim) {
  stepped <- intersect(varying_names(study), stepped_names(study))
  varying <- setdiff(varying_names(study), stepped)
  leader <- leaders_of(study, varying)
  addresses <- input_addresses(study, unique(leader), plan)
  uniforms <- known_uniforms(study, leader, addresses, plan, first, count)
  columns <- lapply(Filter(Negate(varies), study$inputs), held_value)
  recipes <- new.env(parent = emptyenv())
  for (name in intersect(input_order(study), varying)) {
    law <- study$inputs[[name]]$law
    u <- uniforms[[leader[[name]]]]
    columns[[name]] <- if (is_linked(law)) linked_quantile(law, u, columns)
      else if (draws_by_runs(law, plan)) occurrences_column(law, u, addresses[[leader[[name]]]], plan, first, count)
      else if (is.null(u)) draw_input(law, addresses[[leader[[name]]]], plan, first, count, recipes)
      else draw_from(law, u, plan$threads, recipes)
  }
  columns[stepped] <- list(of_runs((plan$index %||% 0) * plan$nsim + first + seq_len(count)))
  columns[varying_names(study)]
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

# Uniforms of the inputs where these are needed by themselves: for correlation, for several inputs that share them, for
# a law that is another in each run. The others go straight to their draws.
known_uniforms <- function(study, leader, addresses, plan, first, count) {
  known <- list()
  for (set in Filter(function(set) all(set %in% names(addresses)), correlated_sets(study))) {
    known[set] <- correlated_uniforms(addresses[set], correlation_matrix(study, set), plan, first, count)
  }
  linked <- vapply(names(leader), function(name) is_linked(study$inputs[[name]]$law), TRUE)
  wanted <- setdiff(c(leader[duplicated(leader)], leader[linked]), names(known))
  known[wanted] <- lapply(addresses[wanted], plan_uniforms, plan, first, count)
  known
}

# One input's draws, from its address or from uniform numbers at hand.
draw_input <- function(law, address, plan, first, count, recipes = NULL) {
  ready <- ready_law(law)
  recipe <- known_recipe(law, ready, recipes)
  drawn <- if (is.null(recipe)) quantile_of(law, plan_uniforms(address, plan, first, count), ready)
    else finished_draw(ready, recipe, cpp_draw(address, plan, recipe, first, count, plan$threads))
  inside_support(law, drawn, ready)
}

# Inputs of the same law share its recipe, which `recipes` holds while they are drawn, where the session remembers none.
known_recipe <- function(law, ready, recipes) {
  if (is.null(recipes) || !is_dear(law) || is_remembered(law, ready)) return(inversion_recipe(law, ready))
  key <- key_of_law(law)
  if (is.null(recipes[[key]])) assign(key, inversion_recipe(law, ready), envir = recipes)
  recipes[[key]]
}

draw_from <- function(law, u, threads = 1, recipes = NULL) {
  ready <- ready_law(law)
  recipe <- known_recipe(law, ready, recipes)
  drawn <- if (is.null(recipe)) quantile_of(law, u, ready) else finished_draw(ready, recipe, cpp_invert(u, recipe, threads))
  inside_support(law, drawn, ready)
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
