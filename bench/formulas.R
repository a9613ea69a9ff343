# Compiled formulas against R's own evaluation of the same, which stays as their reference: all outputs of a study from
# columns that are drawn already. Also against plain eval() of the expressions on whole columns, where they mean the same.
source(file.path("bench", "ratio.R"))
inside <- asNamespace("ensayo")

columns_of <- function(study, n) {
  plan <- inside$draw_plan(max(n, 2), 1, "random", 1, NULL, 2)
  c(inside$draw_columns(study, plan, 0, n), lapply(Filter(Negate(inside$varies), study$inputs), inside$held_value))
}
normals <- function(names, at = 10) stats::setNames(lapply(seq_along(names), function(i) law_normal(at + i, 1)), names)
main <- read_study(system.file("studies", "gravity-main.yml", package = "ensayo"))
ten <- study() |> add_inputs(!!!normals(paste0("x", 1:10))) |>
  add_outputs(a = x1 * x2 + x3 / x4 - x5, b = sqrt(x6 * x7) + x8^2, c = (x9 + x10) * x1 / (x2 + x3) - x4 * x5 + x6 * x7 / x8)
names <- paste0("y", 1:400)
chain <- study() |> add_inputs(!!!normals(paste0("x", 1:3))) |>
  add_outputs(data.frame(name = names, formula = c("x1 + x2", sprintf("%s * 1.0001 + x3 - %d", names[-400], 2:400))))
terms <- paste0("z", 1:2000)
long_sum <- study() |> add_inputs(!!!normals(terms)) |>
  add_outputs(data.frame(name = c("first", "total"), formula = c(sprintf("sum(%s)", paste(terms[1:1000], collapse = ", ")),
    sprintf("sum(first, %s)", paste(terms[1001:2000], collapse = ", ")))))
branches <- study() |> add_inputs(!!!normals(paste0("x", 1:4), 0)) |>
  add_outputs(y = if (x1 > 1 && x2 < 2) x3 / x1 else if (x2 > 3 || x4 < 4) x4 - x3 else 2 * x2, met = y > 1 & x1 < x2)
maths <- study() |> add_inputs(!!!normals(c("a", "b"), 9)) |> add_outputs(y = exp(-a) + log(b) + exp(-b / a) + log(a + b))

rows <- list()
compare <- function(what, study, n, plainly = TRUE) {
  formulas <- lapply(study$outputs[inside$output_order(study$outputs)], function(output) output$formula)
  columns <- columns_of(study, n)
  runs <- seq_len(n)
  compiled <- inside$new_evaluator(formulas)
  interpreted <- inside$new_evaluator(formulas, step = inside$interpreted_step)
  stopifnot(identical(compiled(columns, runs), interpreted(columns, runs)))
  plain <- function() {
    known <- list2env(columns)
    for (name in names(formulas)) assign(name, eval(formulas[[name]]$expr, known), known)
  }
  times <- max(1, floor(1e6 / n / length(formulas)))
  if (n == 1) times <- 5000
  repeated <- function(f) function() for (i in seq_len(times)) f()
  rows[[length(rows) + 1]] <<- ratio(sprintf("%s, %g runs, against R's evaluation", what, n),
    repeated(function() compiled(columns, runs)), repeated(function() interpreted(columns, runs)))
  if (plainly) rows[[length(rows) + 1]] <<- ratio(sprintf("%s, %g runs, against plain eval()", what, n),
    repeated(function() compiled(columns, runs)), repeated(plain))
}

compare("the demo's main", main, 1)
compare("the demo's main", main, 1e4)
compare("the demo's main", main, 1e6)
compare("ten inputs, three outputs", ten, 1e4)
compare("ten inputs, three outputs", ten, 1e6)
compare("400 outputs in a chain", chain, 1e4)
compare("a sum of 2,000 terms", long_sum, 1e4, plainly = FALSE)
compare("branches and logic", branches, 1e4, plainly = FALSE)
compare("exp and log alone", maths, 1e4)
compare("exp and log alone", maths, 1e6)
show_ratios("Formulas of drawn columns, compiled", do.call(rbind, rows))
