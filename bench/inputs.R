# Describing inputs: what a user waits for. Ratios against plain R doing the like, side by side in one run.

library(ensayo)

seconds <- function(f, repeats = 5) {
  f()
  stats::median(replicate(repeats, system.time(f(), gcFirst = TRUE)[["elapsed"]]))
}

# 200 inputs from a CSV file with a 200 x 200 correlation matrix: read, built, reviewed.
folder <- tempfile()
dir.create(folder)
register <- file.path(folder, "register.csv")
matrix_file <- file.path(folder, "matrix.csv")
k <- 200
names <- sprintf("x%03d", seq_len(k))
law <- rep(c("pert(28, 34, 48)", "lognormal(mean = 3, sd = 1)", "normal(10, 2)", "gamma(mean = 900, sd = 400)"),
  length.out = k)
utils::write.csv(data.frame(name = names, law = law, unit = "m"), register, row.names = FALSE)
loadings <- outer(sin(seq_len(k)), 1:3, function(x, j) 0.5 * sin(j * x))
r <- tcrossprod(loadings)
diag(r) <- 1
dimnames(r) <- list(names, names)
utils::write.csv(r, matrix_file)
build <- function() {
  main <- study("Many") |>
    add_inputs(read_inputs(register)) |>
    add_correlation(read_correlation(matrix_file)) |>
    add_outputs(total = x001 + x200)
  review(main)
}
plain_build <- function() {
  table <- utils::read.csv(register)
  m <- as.matrix(utils::read.csv(matrix_file, row.names = 1))
  list(table, min(eigen(m, symmetric = TRUE)$values))
}

# 10,000 observations, all continuous laws; and three of them as an analyst would write it with optim().
data <- stats::qgamma(stats::ppoints(1e4), 3, scale = 20)
plain_fit <- function() {
  fit <- function(start, f) stats::optim(start, function(theta) -sum(f(data, exp(theta))), method = "BFGS")$value
  c(fit(c(1, 3), function(x, p) stats::dgamma(x, p[1], scale = p[2], log = TRUE)),
    fit(c(0.5, 4), function(x, p) stats::dweibull(x, p[1], p[2], log = TRUE)),
    fit(c(4, 1), function(x, p) stats::dlogis(x, p[1], p[2], log = TRUE)))
}

row <- function(what, ours, plain, repeats = 3) {
  a <- seconds(ours, repeats)
  b <- seconds(plain, repeats)
  data.frame(what = what, ratio = round(b / a, 2), ours_s = a, plain_s = b)
}
table <- rbind(
  row("200 inputs and 200 x 200 correlations from CSV: built, reviewed; against reading the files and one eigen()",
    build, plain_build),
  row("three laws fitted to 10 000 observations, against optim()",
    function() fit_law(data, c("gamma", "weibull", "logistic")), plain_fit)
)
print(table, row.names = FALSE, right = FALSE)
cat(sprintf("All continuous laws fitted to 10 000 observations: %.1f s\n", seconds(function() fit_law(data), 1)))
