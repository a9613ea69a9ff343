# What a surrogate says of one input by itself, and of two together.

#' Effects of inputs, and surfaces of two of them
#'
#' `surrogate_effects()`: how an output goes with each input on the average over the others. `surrogate_surface()`: an output over two
#' inputs, the others held.
#'
#' @param surrogate A surrogate, made by [surrogate()].
#' @param output Name of an output with one value a run, bare or as text; may be left out where there is one.
#' @param points Whole number: values of each input.
#' @return `surrogate_effects()`: a data frame with a row for each input that is not idle and each of its values, the input with the
#'   widest effect first: `input`, `value` (a number; of a category its place), `level` (the category, else empty), `effect` (the mean of
#'   the output over the other inputs as the runs have them), `low`, `high` (95 %, by leaving out parts of the runs the surrogate was fitted
#'   to), `unit` of the output.
#'
#'   `surrogate_surface()`: a row for each pair of values: `x`, `y` (under these names), `value`, `error`, `outside`, `failing` as
#'   [predict()][surrogate] gives them.
#' @section Errors: `ensayo_error_name` for an unknown input or output; `ensayo_error_argument` where an input is no number.
#' @examples
#' res <- study("Slow simulator") |>
#'   add_inputs(slope = law_uniform(0.5, 1.5), flow = law_uniform(0.4, 0.9)) |>
#'   add_outputs(pressure = 60 - 40 * flow^1.85 / (slope + 0.2)) |>
#'   simulate(nsim = 50, seed = 11)
#' fast <- surrogate(res)
#' head(surrogate_effects(fast))
#' head(surrogate_surface(fast, slope, flow))
#' @export
surrogate_effects <- function(surrogate, output, points = 25) {
  check_surrogate(surrogate)
  output <- surrogate_output(surrogate, rlang::enquo(output))
  check_count(points, at_least = 2)
  found <- surrogate$data$outputs[[output]]$found
  active <- found$parts$input[!found$parts$idle]
  rows <- leading_parts(length(surrogate$taught$failed), 100)
  base <- lapply(surrogate$taught$columns, column_at, rows)
  grids <- lapply(surrogate$taught$columns[active], effect_grid, points)
  one <- surrogate_alone(surrogate, output)
  whole <- effects_of(one, output, base, grids)
  folds <- max(found$folds)
  parts <- lapply(seq_len(folds), function(i) unlist(effects_of(surrogate_without(one, i), output, base, grids)))
  values <- matrix(unlist(parts), nrow = length(unlist(whole)))
  half <- stats::qt(0.975, folds - 1) * sqrt((folds - 1) / folds * rowSums((values - rowMeans(values))^2))
  table <- stacked(Map(function(name, effect, grid) {
    number <- is.numeric(grid)
    rows_of(input = name, value = if (number) grid else as.double(seq_along(grid)), level = if (number) "" else grid, effect = effect,
      width = max(effect) - min(effect))
  }, active, whole, grids))
  if (is.null(table)) table <- rows_of(input = character(), value = numeric(), level = character(), effect = numeric(), width = numeric())
  table$low <- table$effect - half
  table$high <- table$effect + half
  table$unit <- rep(quantity_unit(surrogate$study, output) %||% "", nrow(table))
  table <- list2DF(table)[order(-table$width, match(table$input, active)), ]
  new_table(table[c("input", "value", "level", "effect", "low", "high", "unit")])
}

surrogate_output <- function(surrogate, quosure, call = rlang::caller_env()) {
  single <- Filter(function(name) !is.matrix(surrogate$taught$values[[name]]), surrogate$outputs)
  if (length(single) == 0) stop_ensayo("argument", "An output with one value a run is needed.", "All outputs are series.", call = call)
  resolve_name(quosure, single, "an output of the surrogate with one value a run", call)
}

# Of one output, without whether runs fail.
surrogate_alone <- function(surrogate, output) {
  surrogate$data$outputs <- surrogate$data$outputs[output]
  surrogate$data["failing"] <- list(NULL)
  surrogate$outputs <- output
  surrogate
}

effect_grid <- function(values, points) {
  if (!is.numeric(values)) return(sort(unique(values)))
  several <- sort(unique(values))
  if (length(several) <= points) several else seq(min(values), max(values), length.out = points)
}

effects_of <- function(surrogate, output, base, grids) {
  data <- ready_surrogate(surrogate$data)
  n <- length(base[[1]])
  lapply(stats::setNames(nm = names(grids)), function(name) {
    grid <- grids[[name]]
    columns <- lapply(base, rep, length(grid))
    columns[[name]] <- rep(grid, each = n)
    colMeans(matrix(surrogate_values(data$outputs[[output]], coordinate_matrix(data$coordinates, columns)), n))
  })
}

#' @rdname surrogate_effects
#' @param x,y Names of two inputs that vary, bare or as text.
#' @param at A named list of values at which other inputs are held; those left out are at their base values.
#' @export
surrogate_surface <- function(surrogate, x, y, output, at = list(), points = 40) {
  check_surrogate(surrogate)
  output <- surrogate_output(surrogate, rlang::enquo(output))
  numbers <- names(Filter(is.numeric, surrogate$taught$columns))
  x <- resolve_name(rlang::enquo(x), numbers, "an input of numbers that varies")
  y <- resolve_name(rlang::enquo(y), setdiff(numbers, x), "another input of numbers that varies")
  check_count(points, at_least = 2)
  unknown <- setdiff(names(at), names(surrogate$study$inputs))
  if (length(unknown)) stop_unknown_name(unknown[1], names(surrogate$study$inputs), "an input of the study")
  grid <- lapply(surrogate$taught$columns[c(x, y)], effect_grid, points)
  places <- expand.grid(grid, KEEP.OUT.ATTRS = FALSE)
  # what is needed of inputs that nothing is said of is found where the base case is
  held <- lapply(at[setdiff(names(at), c(x, y))], rep, nrow(places))
  told <- predict(surrogate_alone_or_failing(surrogate, output), list2DF(c(as.list(places), held)))
  new_table(c(as.list(places), list(value = told[[output]], error = told[[paste0(output, "_error")]], outside = told$outside, failing = told$failing)))
}

surrogate_alone_or_failing <- function(surrogate, output) {
  failing <- surrogate$data$failing
  surrogate <- surrogate_alone(surrogate, output)
  surrogate$data["failing"] <- list(failing)
  surrogate
}
