# Derivatives of an output by its inputs, at a point. What goes through formulas and functions of R alone is differentiated
# exactly, by Taylor series along directions (formula-taylor.R); anything else by central differences of runs.
#
# Inputs are moved by their `scales`, so that all that comes out is in the output's own unit. A list of
#   value    the output at the point
#   exact    TRUE where there are no differences in it; else `why` not, and `error`, how far `first` may be off
#   first    s_i f_i
#   second   s_i s_j f_ij, a matrix; `third` s_i s_j^2 f_ijj; NULL where not asked for, or not known
#   kinks    words for what the point sits on; derivatives across it are NaN
#   moved    the output with each input one scale below and above
derivatives_of <- function(study, output, at, scales, second = TRUE) {
  needed <- needed_outputs(study, output)
  study <- study_for(study, needed)
  inputs <- names(scales)
  moved <- moved_values(study, output, at, rbind(0, diag(-scales, length(scales)), diag(scales, length(scales))), inputs)
  ends <- matrix(moved[-1], ncol = 2)
  made <- tryCatch(suppressWarnings(exact_derivatives(study, output, at, scales, second)), error = function(e) conditionMessage(e))
  if (!is.character(made) && is_told_apart(study, output, at, scales, made$first)) {
    return(c(list(value = moved[1], exact = TRUE, moved = ends), made))
  }
  why <- if (is.character(made)) made else "its functions take numbers apart"
  c(list(value = moved[1], exact = FALSE, why = why, moved = ends, kinks = character()),
    difference_derivatives(study, output, at, scales, moved[1], ends))
}

# Along each input, and along sums and differences of each pair: D^2 along a sum less that along a difference is 4 f_ij, and
# D^3 along both together 2 f_iii + 6 f_ijj.
exact_derivatives <- function(study, output, at, scales, second) {
  k <- length(scales)
  kinks <- character()
  along <- function(directions) {
    columns <- at
    for (i in seq_len(k)) {
      c1 <- directions[, i] * scales[[i]]
      if (any(c1 != 0)) columns[[names(scales)[i]]] <- new_taylor(at[[names(scales)[i]]], c1)
    }
    for (model in models_in_order(study)) {
      taylor <- model_kind(model)$taylor
      if (is.null(taylor)) stop_undifferentiable(sprintf("%s is not made of formulas", model$name %||% model$kind))
      columns <- c(columns, taylor(model, columns, function(words) kinks <<- union(kinks, words)))
    }
    as_taylor(plain_number(columns[[output]]))
  }
  size <- function(x, n) rep_len(x, n)
  own <- along(diag(1, k))
  first <- size(own$c1, k)
  if (!second) return(list(first = first, kinks = kinks))
  f2 <- diag(2 * size(own$c2, k), k)
  f3 <- diag(6 * size(own$c3, k), k)
  pairs <- which(upper.tri(f2), arr.ind = TRUE)
  # so many directions at a time that they fit into memory
  for (part in split(seq_len(nrow(pairs)), (seq_len(nrow(pairs)) - 1) %/% 20000)) {
    i <- pairs[part, 1]
    j <- pairs[part, 2]
    n <- length(part)
    directions <- matrix(0, 2 * n, k)
    directions[cbind(c(seq_len(n), n + seq_len(n)), c(i, i))] <- 1
    directions[cbind(c(seq_len(n), n + seq_len(n)), c(j, j))] <- rep(c(1, -1), each = n)
    found <- along(directions)
    c2 <- matrix(size(found$c2, 2 * n), n)
    c3 <- 6 * matrix(size(found$c3, 2 * n), n)
    f2[cbind(c(i, j), c(j, i))] <- (c2[, 1] - c2[, 2]) / 2
    f3[cbind(i, j)] <- ((c3[, 1] + c3[, 2]) - 2 * diag(f3)[i]) / 6
    f3[cbind(j, i)] <- ((c3[, 1] - c3[, 2]) - 2 * diag(f3)[j]) / 6
  }
  list(first = first, second = f2, third = f3, kinks = kinks)
}

# A function of the user's own may have taken a number out of what carries its derivatives: small differences tell.
is_told_apart <- function(study, output, at, scales, first) {
  models <- models_in_order(study)
  own <- any(vapply(models, function(model) {
    model$kind == "function" || any(vapply(model$formulas, function(formula) length(formula$functions) > 0, NA))
  }, NA))
  if (!own) return(TRUE)
  h <- 1e-3
  moved <- moved_values(study, output, at, rbind(diag(-h * scales, length(scales)), diag(h * scales, length(scales))), names(scales))
  difference <- (moved[-seq_along(scales)] - moved[seq_along(scales)]) / (2 * h)
  rough <- 1e-4 * max(abs(c(first, difference)), na.rm = TRUE) + 1e-9 * max(abs(moved), na.rm = TRUE) / h
  all(abs(difference - first) <= rough, na.rm = TRUE)
}

# Richardson's extrapolation of differences over a scale and half of it; their difference tells the error.
difference_derivatives <- function(study, output, at, scales, value, ends) {
  k <- length(scales)
  half <- moved_values(study, output, at, rbind(diag(-scales / 2, k), diag(scales / 2, k)), names(scales))
  half <- matrix(half, ncol = 2)
  wide <- (ends[, 2] - ends[, 1]) / 2
  narrow <- half[, 2] - half[, 1]
  curved <- c((4 * 4 * (half[, 2] - 2 * value + half[, 1]) - (ends[, 2] - 2 * value + ends[, 1])) / 3)
  list(first = (4 * narrow - wide) / 3, error = abs(narrow - wide) / 3, second = NULL, third = NULL, own = curved)
}

# The output where inputs are moved off the point: a row of `moves` for each run.
moved_values <- function(study, output, at, moves, inputs) {
  columns <- at
  for (i in seq_along(inputs)) columns[[inputs[i]]] <- at[[inputs[i]]] + moves[, i]
  evaluator <- study_evaluator(study, run_setting(base_seed))
  on.exit(end_evaluator(evaluator))
  outcome <- evaluator(columns, seq_len(nrow(moves)))
  rep_len(as.double(outcome$values[[output]]), nrow(moves))
}
