# Variance indices: how far they are off, by design, for the same number of model runs; root mean square over all indices and fifteen
# seeds. Ishigami's function (Ishigami and Homma 1990) and the g function in eight inputs (Saltelli and Sobol' 1995). Run from the
# project's root.
suppressMessages(library(ensayo))

ishigami <- study("Ishigami") |>
  add_inputs(x1 = law_uniform(-pi, pi), x2 = law_uniform(-pi, pi), x3 = law_uniform(-pi, pi)) |>
  add_outputs(y = sin(x1) + 7 * sin(x2)^2 + 0.1 * x3^4 * sin(x1))
v <- c((1 + 0.1 * pi^4 / 5)^2 / 2, 49 / 8, 0.01 * pi^8 * (1 / 18 - 1 / 50))
of_ishigami <- c(v[1], v[2], 0, v[1] + v[3], v[2], v[3]) / sum(v)

a <- c(0, 1, 4.5, 9, 99, 99, 99, 99)
terms <- paste(sprintf("(abs(4 * x%d - 2) + %s) / (1 + %s)", 1:8, a, a), collapse = " * ")
g <- study("g") |> add_inputs(!!!stats::setNames(rep(list(law_uniform(0, 1)), 8), paste0("x", 1:8))) |> add_outputs(y = !!str2lang(terms))
part <- 1 / 3 / (1 + a)^2
of_g <- c(part, part * vapply(1:8, function(i) prod(1 + part[-i]), 0)) / (prod(1 + part) - 1)

off <- function(study, truth, rows, design) {
  names <- paste0("x", seq_len(length(truth) / 2))
  found <- vapply(1:15, function(seed) {
    table <- variance_indices(study, rows, seed, design = design, announce = NULL, progress = NULL)
    unlist(lapply(c("first_order", "total"), function(measure) {
      part <- table[table$measure == measure, ]
      part$value[match(names, part$input)]
    })) - truth
  }, numeric(length(truth)))
  sqrt(mean(found^2))
}
for (rows in c(2048, 8192, 16384)) {
  for (case in list(list("Ishigami", ishigami, of_ishigami), list("g function", g, of_g))) {
    errors <- vapply(c("random", "latin", "sobol"), function(design) off(case[[2]], case[[3]], rows, design), 0)
    cat(sprintf("%-10s  %6d model runs: random %.5f, Latin %.5f, Sobol' %.5f; Latin over Sobol' %.1f\n", case[[1]],
      rows * (2 + length(case[[3]]) / 2), errors[1], errors[2], errors[3], errors[2] / errors[3]))
  }
}
