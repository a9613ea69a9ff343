# Coordinates: the inputs of a study as numbers that surrogates are fitted in. Each input has one coordinate, about as wide as 1, or
# several where it has categories. All of it is numbers and texts, so that a surrogate stays what it is when a law is changed later:
#   input    the input's name
#   how      "itself", "log" or "arsinh": what is done to its values first; or "category"
#   centre, scale   then (value - centre) / scale
#   a, b     the recurrence of the polynomials that are orthonormal under the input's law; as many as the highest degree
#   values, contrast   of a category: its texts, and what stands for each

highest_degree <- 12L

# Coordinates of inputs by their laws; where a law is one run by run, by the values that the runs have.
coordinates_of <- function(study, columns) {
  unlist(unname(Map(function(name, values) {
    law <- study$inputs[[name]]$law
    if (is.character(values)) return(category_coordinates(name, law))
    nodes <- if (length(links_of(law)) || !is.null(study$inputs[[name]]$shares)) run_nodes(values) else law_nodes(law)
    list(number_coordinate(name, nodes, law))
  }, names(columns), columns)), recursive = FALSE)
}

run_nodes <- function(values) {
  x <- sort(unique(values[is.finite(values)]))
  list(x = x, weight = rep(1 / length(x), length(x)))
}

# Values with weights by which means under a law are sums.
law_nodes <- function(law) {
  law <- ready_to_invert(ready_law(law))
  nodes <- if (law$discrete) {
    points <- points_of(law)
    list(x = points$values, weight = points$shares)
  } else quantile_nodes(law)
  kept <- nodes$weight > 1e-18
  list(x = nodes$x[kept], weight = nodes$weight[kept] / sum(nodes$weight[kept]))
}

# A law with long tails is taken by its logarithm where it has none but positive values, else by one that takes both signs.
number_coordinate <- function(name, nodes, law) {
  heavy <- !is.finite(kurtosis_of(nodes)) || kurtosis_of(nodes) > 9 || any(is.finite(ask(law, "tail_index")))
  how <- if (!heavy) "itself" else if (all(nodes$x > 0)) "log" else "arsinh"
  middle <- if (how == "arsinh") weighted_middle(nodes) else list(at = 0, width = 1)
  made <- list(input = name, how = how, middle = middle$at, width = middle$width, centre = 0, scale = 1)
  t <- coordinate_values(made, nodes$x)[, 1]
  made$centre <- sum(nodes$weight * t)
  spread <- sqrt(sum(nodes$weight * (t - made$centre)^2))
  made$scale <- if (spread > 0) spread else 1
  c(made, orthonormal_recurrence((t - made$centre) / made$scale, nodes$weight))
}

kurtosis_of <- function(nodes) {
  from_mean <- nodes$x - sum(nodes$weight * nodes$x)
  sum(nodes$weight * from_mean^4) / sum(nodes$weight * from_mean^2)^2
}

weighted_middle <- function(nodes) {
  order <- order(nodes$x)
  share <- cumsum(nodes$weight[order])
  at <- function(p) nodes$x[order][which(share >= p)[1]]
  width <- at(0.75) - at(0.25)
  list(at = at(0.5), width = if (width > 0) width else 1)
}

# Stieltjes' procedure (Gautschi 2004, Orthogonal Polynomials, section 2.2): polynomials that are orthonormal over points with weights.
orthonormal_recurrence <- function(t, weight) {
  degrees <- min(highest_degree, length(unique(t)) - 1)
  a <- b <- numeric()
  before <- rep(0, length(t))
  now <- rep(1, length(t))
  for (k in seq_len(degrees)) {
    a[k] <- sum(weight * t * now^2)
    after <- (t - a[k]) * now - (if (k > 1) b[k - 1] else 0) * before
    b[k] <- sqrt(sum(weight * after^2))
    if (!is.finite(b[k]) || b[k] < 1e-7) return(list(a = a[seq_len(k - 1)], b = b[seq_len(k - 1)]))
    before <- now
    now <- after / b[k]
  }
  list(a = a, b = b)
}

# Categories: contrasts that have mean 0 and variance 1 under the law, and no correlation.
category_coordinates <- function(name, law) {
  points <- parameters_of(law)
  shares <- points$probabilities %||% rep(1, length(points$values))
  shares <- shares / sum(shares)
  kept <- shares > 0
  values <- points$values[kept]
  root <- sqrt(shares[kept])
  contrast <- qr.Q(qr(cbind(root, diag(root, length(root)))))[, seq_along(root), drop = FALSE][, -1, drop = FALSE] / root
  lapply(seq_len(ncol(contrast)), function(j) {
    list(input = name, how = "category", values = values, contrast = contrast[, j], a = 0, b = 1)
  })
}

# One coordinate's values, as a matrix of one column.
coordinate_values <- function(coordinate, x) {
  if (coordinate$how == "category") return(matrix(coordinate$contrast[match(x, coordinate$values)]))
  t <- switch(coordinate$how, itself = x, log = log(pmax(x, 1e-300)), arsinh = asinh((x - coordinate$middle) / coordinate$width))
  matrix((as.double(t) - coordinate$centre) / coordinate$scale)
}

# All coordinates of columns of inputs, a row a run.
coordinate_matrix <- function(coordinates, columns) {
  out <- do.call(cbind, lapply(coordinates, function(one) coordinate_values(one, columns[[one$input]])))
  if (is.null(out)) matrix(0, length(columns[[1]]), 0) else out
}

coordinate_inputs <- function(coordinates) text_of(coordinates, function(one) one$input)

# The polynomials of degree 1 and up of one coordinate.
polynomial_values <- function(coordinate, t, degree = length(coordinate$a)) {
  out <- matrix(0, length(t), degree)
  before <- 0
  now <- 1
  for (k in seq_len(degree)) {
    after <- ((t - coordinate$a[k]) * now - (if (k > 1) coordinate$b[k - 1] else 0) * before) / coordinate$b[k]
    before <- now
    out[, k] <- now <- after
  }
  out
}
