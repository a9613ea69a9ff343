# Studies of many quantities: a chain of outputs that each use the two before it. Seconds to build, review, simulate, read
# the last output's drivers and print, and how these grow with the number of outputs (1 is linear).
suppressMessages(library(ensayo))

chain <- function(n) {
  formulas <- lapply(seq_len(n), function(i) {
    if (i == 1) quote(a + b) else if (i == 2) quote(a / 2 + b)
    else str2lang(sprintf("0.5 * y%d + 0.4 * y%d + 1", i - 1, i - 2))
  })
  stats::setNames(lapply(formulas, rlang::new_quosure, env = globalenv()), paste0("y", seq_len(n)))
}

seconds <- function(n, runs) {
  start <- study("Chain") |> add_inputs(a = law_normal(0, 1), b = law_normal(1, 1))
  formulas <- chain(n)
  time <- function(expr) system.time(expr)[["elapsed"]]
  c(outputs = n, runs = runs, build = time(s <- add_outputs(start, !!!formulas)), review = time(review(s)),
    simulate = time(res <- simulate(s, runs, seed = 1, progress = NULL)),
    drivers = time(drivers(res, outputs = paste0("y", n))), print = time(utils::capture.output(print(res))))
}

invisible(seconds(50, 100))  # what is loaded once
table <- rbind(seconds(23, 1000), seconds(400, 1000), seconds(1000, 100), seconds(10000, 100))
cat("\nA chain of outputs, each of the two before it: seconds\n")
print(as.data.frame(table), row.names = FALSE, digits = 2)
growth <- table[4, -(1:2)] / table[3, -(1:2)] / 10
cat(sprintf("From 1,000 to 10,000 outputs, seconds for each output grow by: %s\n",
  paste(names(growth), signif(growth, 2), collapse = ", ")))
