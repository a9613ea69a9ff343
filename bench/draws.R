# Sampling law by law, correlation, ranks and percentiles, against the plain R that a user would write.
source(file.path("bench", "ratio.R"))
engine <- asNamespace("ensayo")

margin <- function(n, times = 1) {
  ratio(sprintf("uniform, Latin, %g draws", n),
    function() for (k in seq_len(times)) engine$stream_uniforms("a", k, "latin", n),
    function() for (k in seq_len(times)) latin(n))
}
show_ratios("Latin hypercube, one margin", margin(1e4, 200), margin(1e6), margin(1e7))

law <- function(name, law, quantile, n, times = 1) {
  plan <- engine$draw_plan(n, 1, "latin", 1, NULL, NULL)
  ratio(sprintf("%s, Latin, %g draws", name, n),
    function() for (k in seq_len(times)) {
      made <- engine$invertible_law(law)
      drawn <- engine$core_columns(list(engine$stream_address("x", k)), list(made$recipe), plan, 0, n)[[1]]
      engine$through_law(law, made, drawn)
    },
    function() for (k in seq_len(times)) quantile(latin(n)))
}
laws <- list(
  list("normal", law_normal(30, 3), function(u) stats::qnorm(u, 30, 3)),
  list("lognormal", law_lognormal(meanlog = 3, sdlog = 1), function(u) stats::qlnorm(u, 3, 1)),
  list("triangular", law_triangular(1, 2, 4), function(u) {
    ifelse(u < 1 / 3, 1 + sqrt(3 * u), 4 - sqrt(6 * (1 - u)))
  }),
  list("PERT", law_pert(28, 34, 48), function(u) 28 + 20 * stats::qbeta(u, 2.2, 3.8)),
  list("beta", law_beta(2, 3), function(u) stats::qbeta(u, 2, 3)),
  list("gamma", law_gamma(shape = 2.5, scale = 2), function(u) stats::qgamma(u, 2.5, scale = 2)),
  list("Student", law_student(5), function(u) stats::qt(u, 5)),
  list("Weibull", law_weibull(2, 3), function(u) stats::qweibull(u, 2, 3)),
  list("discrete", law_discrete(1:5, c(0.1, 0.2, 0.4, 0.2, 0.1)), function(u) {
    findInterval(u, c(0.1, 0.3, 0.7, 0.9)) + 1
  }),
  list("Poisson", law_poisson(20), function(u) stats::qpois(u, 20))
)
show_ratios("Laws, 1e4 draws, with tables that the session has made before",
  do.call(rbind, lapply(laws, function(one) law(one[[1]], one[[2]], one[[3]], 1e4, 20))))
show_ratios("Laws, 1e6 draws", do.call(rbind, lapply(laws, function(one) law(one[[1]], one[[2]], one[[3]], 1e6))))

# Dear quantiles alone, of uniform numbers at hand: a table and its set-up against R's quantile functions.
dear <- function(one, n, times = 1) {
  u <- engine$stream_uniforms("u", 1, "random", n)
  ratio(sprintf("%s, quantiles of %g numbers", one[[1]], n),
    function() for (k in seq_len(times)) engine$draw_from(one[[2]], u, 2),
    function() for (k in seq_len(times)) one[[3]](u))
}
show_ratios("Dear quantiles alone, with tables made before",
  do.call(rbind, lapply(laws[4:7], function(one) rbind(dear(one, 1e4, 20), dear(one, 1e6)))))

# Ten inputs, each pair with the same rank correlation, after Iman and Conover (1982).
correlated <- do.call(add_inputs, c(list(study()), stats::setNames(rep(list(law_uniform(0, 1)), 10), letters[1:10])))
r <- matrix(0.3, 10, 10, dimnames = rep(list(letters[1:10]), 2))
diag(r) <- 1
correlated <- add_correlation(correlated, r)
by_hand <- function(n) {
  u <- replicate(10, latin(n), simplify = FALSE)
  scores <- stats::qnorm(vapply(u, fast_rank, integer(n)) / (n + 1))
  target <- 2 * sin(pi / 6 * r)
  diag(target) <- 1
  mixed <- scores %*% solve(chol(stats::cor(scores)), chol(target))
  Map(function(column, j) sort(column, method = "radix")[fast_rank(mixed[, j])], u, 1:10)
}
show_ratios("Ten correlated inputs, Latin",
  ratio("1e4 runs, whole columns", function() draw_inputs(correlated, 1e4, 1), function() by_hand(1e4)),
  ratio("1e6 runs, in blocks", function() draw_inputs(correlated, 1e6, 1), function() by_hand(1e6), 3))

x <- stats::rgamma(1e7, 2)
show_ratios("Percentiles of 1e7 values",
  ratio("3 percentiles", function() engine$percentile_values(x, c(10, 50, 90)),
    function() stats::quantile(x, c(0.1, 0.5, 0.9)), 3),
  ratio("13 percentiles", function() engine$percentile_values(x, 1:13 * 7),
    function() stats::quantile(x, 1:13 * 0.07), 3))

columns <- lapply(stats::setNames(nm = letters[1:13]), function(name) stats::runif(1e6))
spearman <- function(rank_all) {
  ranks <- lapply(columns, rank_all)
  vapply(ranks[11:13], function(y) vapply(ranks[1:10], stats::cor, 0, y), numeric(10))
}
ours <- function() engine$correlations_between(columns[1:10], columns[11:13], TRUE)
show_ratios("Rank correlations of 10 inputs with 3 outputs, 1e6 runs",
  ratio("against rank()", ours, function() spearman(rank), 1),
  ratio("against ranks by radix sort", ours, function() spearman(fast_rank), 3))

# Time per draw as the number of draws grows, over that at 1e6.
seconds <- function(n) system.time(for (k in 1:3) engine$stream_uniforms("a", k, "latin", n))[["elapsed"]] / 3 / n
each <- vapply(c(1e6, 1e7, 1e8), seconds, 0)
cat("\nTime for one Latin draw, over that among 1e6: 1e7 ", format(each[2] / each[1], digits = 3), ", 1e8 ",
  format(each[3] / each[1], digits = 3), "\n", sep = "")
