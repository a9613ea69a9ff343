# Ratios against the plain R that an expert would write, side by side in one run: the median of paired repeats. A ratio
# above 1 says how many times as fast Ensayo is. Compare machines by ratios, never by seconds.

library(ensayo)

ratio <- function(what, ours, plain, repeats = 5) {
  seconds <- function(f) system.time(f(), gcFirst = TRUE)[["elapsed"]]
  ours()
  plain()
  pairs <- replicate(repeats, c(ours = seconds(ours), plain = seconds(plain)))
  data.frame(what = what, ratio = round(stats::median(pairs["plain", ] / pairs["ours", ]), 2),
    ours_s = stats::median(pairs["ours", ]), plain_s = stats::median(pairs["plain", ]))
}

n <- 1e6
normals <- study() |> add_inputs(a = law_normal(30, 3), b = law_normal(20, 4)) |> add_outputs(y = a + b)
file <- system.file("studies", "gravity-main.yml", package = "ensayo")
main <- read_study(file)
quiet <- function(study, nsim, design = "latin") simulate(study, nsim, seed = 11, design = design, progress = NULL)

# The gravity main by hand: Latin draws, rank correlation after Iman and Conover, the model, statistics and drivers.
by_hand <- function(n) {
  latin <- function() (sample.int(n) - stats::runif(n)) / n
  u <- replicate(4, latin(), simplify = FALSE)
  scores <- cbind(stats::qnorm(rank(u[[1]]) / (n + 1)), stats::qnorm(rank(u[[2]]) / (n + 1)))
  target <- matrix(c(1, 2 * sin(pi / 6 * 0.4), 2 * sin(pi / 6 * 0.4), 1), 2)
  mixed <- scores %*% solve(chol(stats::cor(scores))) %*% chol(target)
  u[[2]] <- sort(u[[2]])[rank(mixed[, 2])]
  demand <- 28 + 20 * stats::qbeta(u[[1]], 2.2, 3.8)
  friction <- stats::qlnorm(u[[2]], log(0.021) - log1p((3 / 21)^2) / 2, sqrt(log1p((3 / 21)^2)))
  spring <- stats::qnorm(u[[3]], 61.5, 0.4)
  left <- 4 / 6
  diameter <- ifelse(u[[4]] < left, 0.246 + 0.006 * sqrt(u[[4]] * left), 0.252 - 0.006 * sqrt((1 - u[[4]]) * (1 - left)))
  velocity <- demand / 1000 / (pi * diameter^2 / 4)
  headloss <- friction * 4200 / diameter * velocity^2 / (2 * 9.81)
  pressure <- spring - 12 - headloss
  lapply(list(velocity, headloss, pressure), function(y) {
    list(mean(y), stats::sd(y), range(y), stats::quantile(y, c(0.05, 0.1, 0.5, 0.9, 0.95)),
      vapply(list(demand, friction, spring, diameter), function(x) stats::cor(rank(x), rank(y)), 0))
  })
}

table <- rbind(
  ratio("Latin, 2 normal inputs, sum, 1e6 runs", function() quiet(normals, n), function() {
    stats::qnorm((sample.int(n) - stats::runif(n)) / n, 30, 3) + stats::qnorm((sample.int(n) - stats::runif(n)) / n, 20, 4)
  }),
  ratio("random, 2 normal inputs, sum, 1e6 runs", function() quiet(normals, n, "random"),
    function() stats::rnorm(n, 30, 3) + stats::rnorm(n, 20, 4)),
  ratio("gravity main, 1e4 runs, all statistics and drivers", function() {
    result <- quiet(main, 1e4)
    list(summary(result), drivers(result))
  }, function() by_hand(1e4)),
  ratio("gravity main, 1e6 runs, all statistics and drivers", function() {
    result <- quiet(main, n)
    list(summary(result), drivers(result))
  }, function() by_hand(n), repeats = 3)
)
print(table, row.names = FALSE)
