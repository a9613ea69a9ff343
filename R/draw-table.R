# How each law is inverted in the draw engine: by a formula of its own, by steps, or by a table where its quantile is
# dear. What comes out is what `quantile()` gives, to the last bit for formulas and steps, and for tables within
# `table_error` of the probability or four units in the last place of the value. A recipe is no part of a law's value; the
# session remembers dear ones.

table_error <- 1e-10  # relative to the smaller tail's probability; a law that is itself a table may say another

# NULL where the law's own quantile serves as it is. Inputs of the same law share its recipe, which `shared` holds while they are
# drawn, where the session remembers none.
inversion_recipe <- function(law, ready = ready_law(law), shared = NULL) {
  if (!is.null(ready$record$recipe)) return(ready$record$recipe(ready$par))
  dear <- is_dear(law)
  if (!ready$discrete) {
    if (!dear) return(NULL)
    # what is kept is worth octaves that a call of the quantile for a few far draws would cost again and again
    if (is_remembered(law)) return(remembered(c("recipe", key_of_law(law)), function() table_recipe(ready_to_invert(ready), 17)))
  }
  make <- function() if (ready$discrete) step_recipe(law, ready) else table_recipe(ready_to_invert(ready), 12)
  if (is.null(shared) || !dear) return(make())
  key <- key_of_law(law)
  if (is.null(shared[[key]])) shared[[key]] <- list(make())
  shared[[key]][[1]]
}

# What numbers alone say is the same at any time; a function given to a law may read something that changes.
is_remembered <- function(law) {
  isTRUE(family_of(law)$kept) || all(vapply(parameters_of(law), function(x) is.numeric(x) && length(x) == 1, NA))
}

# Values with their cumulative probabilities, where there are not too many; beyond the outermost the quantile serves.
step_recipe <- function(law, ready, most = 2^14) {
  if (family_name(law) == "rows") return(NULL)
  par <- ready$par
  if (!is.null(par$shares)) {
    possible <- par$shares > 0
    values <- par$values[possible]
    below <- pointed_tails(par$shares[possible])$below
    labels <- if (is.character(values)) values
    return(list(kind = "steps", values = if (is.null(labels)) as.double(values) else as.double(seq_along(values)),
      cumulative = below, below = 0, labels = labels))
  }
  ends <- ask(ready, "quantile", c(2^-20, 1 - 2^-20), TRUE)
  if (!identical(ready$record$kind, "discrete") || diff(ends) > most) return(NULL)
  cumulative <- ask(ready, "cumulative", seq(ends[1] - 1, ends[2]), TRUE, FALSE)
  list(kind = "steps", values = as.double(seq(ends[1], ends[2])), cumulative = cumulative[-1], below = cumulative[1])
}

# Octaves of either tail below a half; farther out a law's own quantile serves. Cells that miss the error bound, or hold a kink, are
# halved, and halved again; those that hold one at last are left to the quantile.
table_recipe <- function(law, octaves, fineness = 2, finest = 7) {
  centre <- law$record$symmetric_about
  sides <- lapply(if (is.null(centre)) c(TRUE, FALSE) else TRUE, function(lower) {
    cells <- seq_len(octaves * 2^fineness) - 1
    list(lower = lower, coefficients = table_cells(law, fineness, cells, lower))
  })
  while (fineness < finest && any(vapply(sides, function(side) anyNA(side$coefficients), TRUE))) {
    fineness <- fineness + 1
    sides <- lapply(sides, refined_side, law = law, fineness = fineness)
  }
  if (!is.null(centre)) {  # the other side is the mirror image
    mirrored <- -sides[[1]]$coefficients
    mirrored[1, ] <- mirrored[1, ] + 2 * centre(law$par)
    sides[[2]] <- list(coefficients = mirrored)
  }
  ends <- ask(law, "support")
  list(kind = "table", coefficients = cbind(sides[[1]]$coefficients, sides[[2]]$coefficients), fineness = fineness,
    min = ends[[1]], max = ends[[2]])
}

refined_side <- function(side, law, fineness) {
  side$coefficients <- cpp_table_halves(side$coefficients)
  missed <- which(is.na(side$coefficients[1, ]))
  if (length(missed)) side$coefficients[, missed] <- table_cells(law, fineness, missed - 1, side$lower)
  side
}

# Coefficients of some cells of one side, a column each; NaN where a check point misses the error bound.
table_cells <- function(law, fineness, cells, lower) {
  nodes <- cpp_table_probabilities(fineness, cells, numeric())
  p <- unique(as.vector(nodes))  # neighbours share their ends
  values <- ask(law, "quantile", p, lower)
  coefficients <- cpp_table_coefficients(matrix(values[match(nodes, p)], nrow(nodes)))

  places <- c(-0.93, -0.35, 0.35, 0.93)
  p <- as.vector(cpp_table_probabilities(fineness, cells, places))
  x <- 0
  for (k in nrow(coefficients):1) x <- x * places + rep(coefficients[k, ], each = length(places))
  off <- which(!(abs(ask(law, "cumulative", x, lower, FALSE) - p) <= (law$record$table_error %||% table_error) * p))
  # where values crowd, no double may come nearer
  exact <- ask(law, "quantile", p[off], lower)
  off <- off[!(abs(x[off] - exact) <= 2 * .Machine$double.eps * abs(exact))]
  coefficients[, c(which(!is.finite(coefficients[1, ])), (off - 1) %/% length(places) + 1)] <- NaN
  coefficients[, holding_knots(law, lower, nodes[1, ], nodes[nrow(nodes), ])] <- NaN
  coefficients
}

# Which cells, from one probability to another, hold one at which the quantile is not smooth.
holding_knots <- function(law, lower, from, to) {
  knots <- knots_of(law)
  at <- sort(unique(c(ask(law, "strict", knots, lower, FALSE), ask(law, "cumulative", knots, lower, FALSE))))
  slack <- 1e-14 * to  # a probability and a cell's end may differ by a rounding
  which(findInterval(to + slack, at) > findInterval(from - slack, at, left.open = TRUE))
}
