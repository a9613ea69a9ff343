# How often drivers() calls an idle input a driver, and how often its intervals hold the true value: over many seeds, for
# every measure and statistic, on a function whose values plain R tells from very many runs.

noise_measures <- function() {
  named <- setdiff(names(driver_measures), "swing")
  data.frame(measure = c(named, rep("swing", 3)), statistic = c(rep("mean", length(named)), "mean", "sd", "P95"))
}

# a, b and c act straight, e along a curve; d1 to d3 are idle.
noise_study <- function() {
  of <- c("a", "b", "c", "e", "d1", "d2", "d3")
  study() |>
    add_inputs(!!!stats::setNames(rep(list(law_normal(0, 1)), 7), of)) |>
    add_outputs(y = 3 * a + 2 * b + c + e^2 + 0 * (d1 + d2 + d3))
}

# True values for a, b, c, e and an idle input, in plain R, over as many bands as drivers() takes for so many runs.
true_values <- function(measure, statistic, bands, n) {
  x <- withr::with_seed(99, matrix(rnorm(5 * n), n, dimnames = list(NULL, c("a", "b", "c", "e", "d1"))))
  y <- 3 * x[, "a"] + 2 * x[, "b"] + x[, "c"] + x[, "e"]^2
  ranks <- function(x) {
    x[order(x, method = "radix")] <- seq_along(x)  # without ties
    x
  }
  if (measure %in% c("rank", "partial_rank", "rank_regression")) {
    x <- apply(x, 2, ranks)
    y <- ranks(y)
  }
  r <- cor(x, y)[, 1]
  between <- cor(x)
  inverse <- solve(rbind(cbind(between, r), c(r, 1)))
  by_band <- function(of) {
    apply(x, 2, function(x) of(split(y, factor(as.integer(ceiling(ranks(x) / n * bands)), seq_len(bands)))))
  }
  true <- switch(measure,
    rank = , pearson = r,
    variance_share = r^2,  # independent inputs
    partial = , partial_rank = -inverse[1:5, 6] / sqrt(diag(inverse)[1:5] * inverse[6, 6]),
    regression = , rank_regression = solve(between, r),
    swing = by_band(function(parts) {
      of <- switch(statistic, mean = mean, sd = sd, function(y) quantile(y, 0.95))
      of(parts[[bands]]) - of(parts[[1]])
    }),
    first_order = by_band(function(parts) var(vapply(parts, mean, 0)) * (bands - 1) / bands / var(y)),
    moment_independent = by_band(function(parts) {
      p <- ppoints(1000)
      at <- quantile(y, p)
      mean(vapply(parts, function(part) max(abs(findInterval(at, sort(part)) / length(part) - p)), 0))
    }))
  replace(true, 5, 0)  # an idle input has nothing, which a sample does not reach
}

# A row for each measure, statistic and number of runs: the rate of idle inputs called drivers, and of intervals that
# hold the true value, for each of the inputs.
noise_rates <- function(seeds, sizes, cores = 1, design = "random", truth_runs = 1e6) {
  asked <- noise_measures()
  do.call(rbind, lapply(sizes, function(n) {
    results <- lapply(seeds, function(seed) simulate(noise_study(), n, seed = seed, design = design, progress = NULL))
    rates <- parallel::mclapply(seq_len(nrow(asked)), function(i) {
      measure <- asked$measure[i]
      tables <- lapply(results, drivers, measure, statistic = asked$statistic[i])
      bands <- switch(measure, swing = min(10, max(3, n %/% 50)), moment_independent = min(20, max(3, n %/% 200)),
        min(20, max(3, n %/% 50)))
      true <- true_values(measure, asked$statistic[i], bands, truth_runs)
      held <- rowMeans(vapply(tables, function(table) {
        at <- match(names(true), table$input)
        table$low[at] <= true & true <= table$high[at]
      }, logical(5)))
      called <- mean(vapply(tables, function(table) mean(table$beyond_noise[startsWith(table$input, "d")]), 0))
      data.frame(measure = measure, statistic = asked$statistic[i], runs = n, idle_called = called, t(held))
    }, mc.cores = cores, mc.preschedule = FALSE)
    do.call(rbind, rates)
  }))
}
