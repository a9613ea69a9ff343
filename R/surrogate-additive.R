# A sum of smooth effects, one for each coordinate: penalised cubic regression splines with the penalties of restricted likelihood, and
# one more by which an effect may vanish (Wood, Goude and Shaw 2015, Journal of the Royal Statistical Society C 64(1)). A natural cubic spline is told by
# its values at its knots, which is how it is kept.

surrogate_additive <- list(
  title = "sum of smooth effects",
  fit = function(x, y, coordinates, from = NULL) {
    design <- from$design %||% additive_design(x, y)
    values <- additive_values(design, x)
    made <- penalised_root(values, design$penalty)
    coefficients <- as.vector(backsolve(made$root, backsolve(made$root, crossprod(values, y) / made$scale, transpose = TRUE))) / made$scale
    list(kind = "additive", design = design, constant = coefficients[1], coefficients = coefficients[-1])
  },
  ready = function(fit, x, y, coordinates) {
    values <- additive_values(fit$design, x)
    made <- penalised_root(values, fit$design$penalty)
    used <- sum(backsolve(made$root, t(values) / made$scale, transpose = TRUE)^2)
    list(fit = fit, made = made, spread = residual_spread(y - as.vector(values %*% c(fit$constant, fit$coefficients)), used))
  },
  mean = function(state, x) summed_columns(0, c(state$fit$constant, state$fit$coefficients), additive_values(state$fit$design, x)),
  error = function(state, x) {
    values <- t(additive_values(state$fit$design, x)) / state$made$scale
    state$spread * sqrt(1 + colSums(backsolve(state$made$root, values, transpose = TRUE)^2))
  },
  whole = function(fit, k, coordinates) {
    width <- vapply(fit$design$bases, function(basis) if (is.null(basis$knots)) 1L else ncol(basis$values), 0L)
    bases <- vapply(fit$design$bases, function(basis) {
      places_in(basis$at, k) && (is.null(basis$knots) || numbers_of(basis$values, length(basis$knots) * ncol(basis$values)) && !is.unsorted(basis$knots))
    }, NA)
    all(bases) && numbers_of(fit$design$penalty, (1 + sum(width))^2) && is.matrix(fit$design$penalty) && numbers_of(fit$constant, 1) &&
      numbers_of(fit$coefficients, sum(width))
  }
)

# The factor of the penalised products in units in which each has size 1: penalties may be larger than products by twenty powers of ten.
penalised_root <- function(values, penalty) {
  products <- crossprod(values) + penalty
  scale <- sqrt(diag(products))
  scale[scale == 0] <- 1
  list(root = sturdy_root(products / outer(scale, scale), 1e-10), scale = scale)
}

# What the basis is made of: of each coordinate its knots, with the values that each basis function has there; without knots the
# coordinate itself.
additive_design <- function(x, y) {
  q <- ncol(x)
  several <- apply(x, 2, function(t) length(unique(t)))
  size <- pmin(10, floor((length(y) - 1) / (1.5 * q)), several - 1)
  smooth <- size >= 3
  data <- as.data.frame(x)
  names(data) <- sprintf("x%d", seq_len(q))
  data$y <- y
  terms <- c("1", ifelse(smooth, sprintf("s(x%d, bs = \"cr\", k = %d)", seq_len(q), size), sprintf("x%d", seq_len(q)))[several > 1])
  formula <- stats::as.formula(paste("y ~", paste(terms, collapse = " + ")), env = asNamespace("mgcv"))
  # where nothing is left unexplained the likelihood has no end, and it would go on for long
  made <- suppressWarnings(mgcv::bam(formula, data = data, method = "fREML", select = TRUE, discrete = TRUE, control = list(maxit = 30, epsilon = 1e-6)))
  linear <- which(!smooth & several > 1)
  bases <- c(lapply(linear, function(j) list(at = j)), lapply(made$smooth, function(one) {
    at <- as.integer(sub("x", "", one$term))
    knots <- one$xp
    there <- stats::setNames(data.frame(knots), one$term)
    list(at = at, knots = knots, values = mgcv::PredictMat(one, there))
  }))
  list(bases = bases, penalty = additive_penalty(made))
}

additive_penalty <- function(made) {
  width <- length(made$coefficients)
  penalty <- matrix(0, width, width)
  used <- 0
  for (one in made$smooth) {
    at <- one$first.para:one$last.para
    for (s in one$S) {
      used <- used + 1
      penalty[at, at] <- penalty[at, at] + made$sp[used] * s
    }
  }
  penalty
}

additive_values <- function(design, x) {
  do.call(cbind, c(list(rep(1, nrow(x))), lapply(design$bases, function(basis) {
    t <- x[, basis$at]
    if (is.null(basis$knots)) return(t)
    vapply(seq_len(ncol(basis$values)), function(j) {
      stats::splinefun(basis$knots, basis$values[, j], method = "natural")(t)
    }, numeric(length(t))) |> matrix(length(t))
  })))
}
