# How long surrogates take, and how much memory: a Gaussian process of 1,000 runs of ten inputs, and all kinds of 200 runs. Ratios to a
# plain least-squares fit of all products of two inputs with R's lm(), in the same session. Run from the project's root.
suppressMessages(library(ensayo))
f <- function(n) {
  study("Ten") |> add_inputs(!!!stats::setNames(rep(list(law_uniform(0, 1)), 10), paste0("x", 1:10))) |>
    add_outputs(y = 10 * sin(pi * x1 * x2) + 20 * (x3 - 0.5)^2 + 10 * x4 + 5 * x5 + x6 * x7) |> simulate(n, 1, progress = NULL)
}
peak <- function() as.double(sub("[^0-9]*([0-9]+).*", "\\1", grep("VmHWM", readLines("/proc/self/status"), value = TRUE))) / 1024
seconds <- function(expr) system.time(expr)[["elapsed"]]
runs <- f(1000)
data <- as.data.frame(runs)
plain <- seconds(for (i in 1:20) stats::lm(y ~ (x1 + x2 + x3 + x4 + x5 + x6 + x7 + x8 + x9 + x10)^2, data)) / 20
before <- peak()
took <- seconds(fast <- surrogate(runs, y, kinds = "gaussian"))
cat(sprintf("Gaussian process, 1,000 runs x 10 inputs, five parts held out: %.0f s, %.0f times lm() of 55 terms; peak %.0f MB above %.0f\n", took,
  took / plain, peak() - before, before))
cat(sprintf("  predictive R squared %.5f; 10,000 predictions in %.2f s\n", summary(fast)$r_squared, seconds(simulate(fast, 10000, 1, progress = NULL))))
took <- seconds(surrogate(f(200), y))
cat(sprintf("all kinds, 200 runs x 10 inputs, ten parts held out: %.1f s\n", took))
