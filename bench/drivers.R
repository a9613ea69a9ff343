# Drivers of many inputs and outputs, and variance indices of a vectorised model.
source(file.path("bench", "ratio.R"))

names <- sprintf("x%d", 1:50)
many <- do.call(add_inputs, c(list(study()), stats::setNames(rep(list(law_normal(0, 1)), 50), names)))
sums <- lapply(stats::setNames(1:10, sprintf("y%d", 1:10)), function(k) {
  rlang::parse_expr(paste(sprintf("%d * %s", seq_len(5) + k, names[seq_len(5) + 4 * k]), collapse = " + "))
})
many <- add_outputs(many, !!!sums)
result <- simulate(many, 1e5, seed = 1, progress = NULL)
x <- do.call(cbind, result$draws)
y <- do.call(cbind, result$outputs)
engine <- asNamespace("ensayo")
show_ratios("Rank correlations, 1e5 runs, 50 inputs, 10 outputs, against cor(method = \"spearman\")",
  ratio("the correlations alone", function() engine$correlations_between(result$draws, result$outputs, TRUE),
    function() stats::cor(x, y, method = "spearman"), 3),
  ratio("drivers(\"rank\"): with intervals, noise, remarks", function() drivers(result, "rank"),
    function() stats::cor(x, y, method = "spearman"), 3),
  ratio("drivers(): shares of variance that hold under correlation", function() drivers(result),
    function() stats::cor(x, y, method = "spearman"), 3))

ten <- do.call(add_inputs, c(list(study()), stats::setNames(rep(list(law_uniform(0, 1)), 10), sprintf("x%d", 1:10)))) |>
  add_outputs(y = x1 + 2 * x2 + x3 * x4 + exp(x5) + sqrt(x6) + x7 * x8 + log(1 + x9) + x10^2)
plain <- function(x1, x2, x3, x4, x5, x6, x7, x8, x9, x10) {
  x1 + 2 * x2 + x3 * x4 + exp(x5) + sqrt(x6) + x7 * x8 + log(1 + x9) + x10^2
}
rows <- 83334
a <- matrix(stats::runif(rows * 10), rows)
show_ratios("Variance indices of ten inputs, a million runs of the model (above 1: faster than drawing and running alone)",
  ratio("against drawing by runif() and running the model twelve times, no indices",
    function() variance_indices(ten, rows, 1, announce = NULL, progress = NULL),
    function() for (k in 1:12) {
      a <- matrix(stats::runif(rows * 10), rows)
      do.call(plain, lapply(1:10, function(j) a[, j]))
    }, 3))
