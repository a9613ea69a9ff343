# Polynomials of the coordinates, orthonormal under independent laws (polynomial chaos: Xiu and Karniadakis 2002, SIAM Journal on
# Scientific Computing 24(2)), with terms selected by orthogonal matching pursuit (Pati, Rezaiifar and Krishnaprasad 1993). A term is a
# row of degrees, one for each coordinate. How many terms are taken is decided by held-out parts of the runs.

surrogate_polynomial <- list(
  title = "polynomial",
  fit = function(x, y, coordinates, from = NULL) {
    terms <- candidate_terms(coordinates, length(y))
    values <- term_values(terms, coordinates, x)
    taken <- selected_terms(values, y)
    fit <- term_coefficients(values[, taken, drop = FALSE], y)
    list(kind = "polynomial", terms = terms[taken, , drop = FALSE][fit$kept, , drop = FALSE], constant = fit$coefficients[1],
      coefficients = fit$coefficients[-1])
  },
  ready = function(fit, x, y, coordinates) {
    values <- cbind(1, term_values(fit$terms, coordinates, x))
    list(fit = fit, coordinates = coordinates, root = qr.R(qr(values)), spread = residual_spread(y - as.vector(values %*% c(fit$constant, fit$coefficients)), ncol(values)))
  },
  mean = function(state, x) {
    summed_columns(state$fit$constant, state$fit$coefficients, term_values(state$fit$terms, state$coordinates, x))
  },
  error = function(state, x) {
    values <- cbind(1, term_values(state$fit$terms, state$coordinates, x))
    state$spread * sqrt(1 + colSums(backsolve(state$root, t(values), transpose = TRUE)^2))
  },
  whole = function(fit, k, coordinates) {
    top <- vapply(coordinates, function(one) length(one$a), 0L)
    is.matrix(fit$terms) && ncol(fit$terms) == k && numbers_of(fit$terms, length(fit$terms)) &&
      all(fit$terms >= 0 & fit$terms <= rep(top, each = nrow(fit$terms))) && numbers_of(fit$constant, 1) && numbers_of(fit$coefficients, nrow(fit$terms))
  }
)

# Columns by their coefficients, in one order whatever the number of rows.
summed_columns <- function(sum, coefficients, values) {
  sum <- rep(sum, nrow(values))
  for (k in seq_along(coefficients)) sum <- sum + coefficients[k] * values[, k]
  sum
}

residual_spread <- function(residuals, used) sqrt(sum(residuals^2) / max(1, length(residuals) - used))

term_coefficients <- function(values, y) {
  made <- qr(cbind(1, values), tol = 1e-9)
  kept <- sort(made$pivot[seq_len(made$rank)])
  if (made$rank < ncol(values) + 1) made <- qr(cbind(1, values)[, kept, drop = FALSE])
  list(kept = kept[-1] - 1, coefficients = as.vector(qr.coef(made, y)))
}

# Terms in the order of their complexity, by which products of high powers come late.
candidate_terms <- function(coordinates, runs) {
  most <- min(3000, 8 * runs)
  q <- length(coordinates)
  input <- coordinate_inputs(coordinates)
  top <- vapply(coordinates, function(one) length(one$a), 0L)
  rows <- list(list(at = cbind(rep(seq_len(q), top)), degree = cbind(unlist(lapply(top, seq_len)))))
  together <- if (q <= 10) 10 else if (q <= 20) 6 else if (q <= 60) 3 else 0
  if (q > 1 && together > 1) rows[[2]] <- several_terms(utils::combn(q, 2), input, top, together)
  if (q > 2 && q <= 12) rows[[3]] <- several_terms(utils::combn(q, 3), input, top, 5)
  size <- unlist(lapply(rows, function(part) rowSums(part$degree^0.6)^(1 / 0.6)))
  chosen <- sort(order(size)[seq_len(min(length(size), max(most, q)))])
  terms <- do.call(rbind, lapply(rows, function(part) {
    out <- matrix(0L, nrow(part$at), q)
    for (j in seq_len(ncol(part$at))) out[cbind(seq_len(nrow(out)), part$at[, j])] <- part$degree[, j]
    out
  }))
  terms[chosen, , drop = FALSE]
}

# Products of coordinates of different inputs, up to a degree in all.
several_terms <- function(sets, input, top, most) {
  k <- nrow(sets)
  degrees <- as.matrix(do.call(expand.grid, rep(list(seq_len(most)), k)))
  degrees <- degrees[rowSums(degrees) <= most, , drop = FALSE]
  apart <- apply(sets, 2, function(set) anyDuplicated(input[set]) == 0)
  sets <- t(sets[, apart, drop = FALSE])
  at <- sets[rep(seq_len(nrow(sets)), each = nrow(degrees)), , drop = FALSE]
  degree <- degrees[rep(seq_len(nrow(degrees)), nrow(sets)), , drop = FALSE]
  there <- rowSums(degree > matrix(top[at], nrow(at))) == 0
  list(at = at[there, , drop = FALSE], degree = unname(degree[there, , drop = FALSE]))
}

term_values <- function(terms, coordinates, x) {
  out <- matrix(1, nrow(x), nrow(terms))
  for (j in seq_along(coordinates)) {
    used <- which(terms[, j] > 0)
    if (length(used) == 0) next
    values <- polynomial_values(coordinates[[j]], x[, j], max(terms[, j]))
    out[, used] <- out[, used] * values[, terms[used, j]]
  }
  out
}

selected_terms <- function(values, y) {
  n <- length(y)
  part <- fold_numbers(n, if (n <= 200) 10 else 5)
  most <- max(1, min(ncol(values), n %/% 2))
  errors <- lapply(seq_len(max(part)), function(i) cpp_pursue(values, y, part == i, most)$held_out * sum(part == i))
  # one that was given up early would not have got better
  steps <- max(lengths(errors))
  error <- rowSums(vapply(errors, function(one) c(one, rep(utils::tail(one, 1), steps - length(one))), numeric(steps)) |> matrix(steps))
  cpp_pursue(values, y, rep(FALSE, n), which.min(error) - 1)$taken
}

# The same part for the same place in every session.
fold_numbers <- function(n, folds) {
  folds <- min(folds, n)
  order <- order(stream_uniforms("parts of runs", 1, "random", n))
  out <- integer(n)
  out[order] <- rep_len(seq_len(folds), n)
  out
}
