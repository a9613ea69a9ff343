# Whether a Latin hypercube that is spread out serves surrogates better: of a hundred hypercubes the one whose two nearest runs lie farthest
# apart (maximin: Johnson, Moore and Ylvisaker 1990), against plain ones; the error of a Gaussian process on fresh runs, geometric mean of
# fifteen seeds. It hardly does, so that no such design is offered. Run from the project's root.
suppressMessages(library(ensayo))
inside <- asNamespace("ensayo")
cases <- list(
  bump = list(2, function(x1, x2) exp(-30 * ((x1 - 0.7)^2 + (x2 - 0.3)^2)) + 0.3 * x1),
  Ishigami = list(3, function(x1, x2, x3) {
    a <- 2 * pi * x1 - pi
    sin(a) + 7 * sin(2 * pi * x2 - pi)^2 + 0.1 * (2 * pi * x3 - pi)^4 * sin(a)
  }),
  `five inputs` = list(5, function(x1, x2, x3, x4, x5) 10 * sin(pi * x1 * x2) + 20 * (x3 - 0.5)^2 + 10 * x4 + 5 * x5))
for (name in names(cases)) {
  k <- cases[[name]][[1]]
  inputs <- paste0("x", seq_len(k))
  s <- study(name) |> add_inputs(!!!stats::setNames(rep(list(law_uniform(0, 1)), k), inputs)) |> add_model(cases[[name]][[2]], outputs = "y", vectorised = TRUE)
  fresh <- as.data.frame(simulate(s, 3000, 99, progress = NULL))
  error <- function(seed, n) {
    fast <- surrogate(simulate(s, n, seed, progress = NULL), kinds = "gaussian")
    sqrt(mean((predict(fast, fresh[inputs])$y - fresh$y)^2)) / stats::sd(fresh$y)
  }
  nearest_two <- function(seed, n) {
    x <- as.matrix(as.data.frame(inside$draw_columns(s, inside$draw_plan(n, seed, "latin", 1, NULL, NULL))))
    min(stats::dist(x))
  }
  for (n in c(30, 60)) {
    plain <- vapply(1:15, error, 0, n)
    spread <- vapply(1:15, function(i) {
      seeds <- 1000 * i + 1:100
      error(seeds[which.max(vapply(seeds, nearest_two, 0, n))], n)
    }, 0)
    means <- exp(c(mean(log(plain)), mean(log(spread))))
    cat(sprintf("%-11s  %d runs: error %.3f of the spread plain, %.3f spread out; spread out over plain %.2f\n", name, n, means[1], means[2], means[2] / means[1]))
  }
}
