# Formulas evaluated as a simulation does (runs made again alone, where that is done, among it), against the evaluator that walked R calls
# block by block: a build of commit 182e082 in a library of its own. Processes of both take turns. Run from the project's root:
#   git clone . FOLDER; (cd FOLDER; git checkout 182e082); R CMD INSTALL --library=LIBRARY FOLDER; Rscript bench/former.R LIBRARY
given <- commandArgs(TRUE)

normals <- function(names, at = 10) stats::setNames(lapply(seq_along(names), function(i) law_normal(at + i, 1)), names)
studies <- function() {
  names <- paste0("y", 1:400)
  terms <- paste0("z", 1:2000)
  list(
    "the demo's main" = read_study(system.file("studies", "gravity-main.yml", package = "ensayo")),
    "ten inputs, three outputs" = study() |> add_inputs(!!!normals(paste0("x", 1:10))) |>
      add_outputs(a = x1 * x2 + x3 / x4 - x5, b = sqrt(x6 * x7) + x8^2, c = (x9 + x10) * x1 / (x2 + x3) - x4 * x5 + x6 * x7 / x8),
    "400 outputs in a chain" = study() |> add_inputs(!!!normals(paste0("x", 1:3))) |>
      add_outputs(data.frame(name = names, formula = c("x1 + x2", sprintf("%s * 1.0001 + x3 - %d", names[-400], 2:400)))),
    "a sum of 2,000 terms" = study() |> add_inputs(!!!normals(terms)) |>
      add_outputs(data.frame(name = c("first", "total"), formula = c(sprintf("sum(%s)", paste(terms[1:1000], collapse = ", ")),
        sprintf("sum(first, %s)", paste(terms[1001:2000], collapse = ", "))))),
    "exp and log alone" = study() |> add_inputs(!!!normals(c("a", "b"), 9)) |>
      add_outputs(y = exp(-a) + log(b) + exp(-b / a) + log(a + b)))
}

# Milliseconds for 10,000 runs of each study, in this process.
evaluated <- function(runs = 1e4) {
  inside <- asNamespace("ensayo")
  vapply(studies(), function(study) {
    if (exists("evaluate_draws", inside)) {
      plan <- inside$draw_plan(runs, 1, "random", 1, NULL, 2)
      draws <- inside$draw_columns(study, plan, 0, runs)
      evaluate <- function() inside$evaluate_draws(study, draws, plan, 0, runs, NULL)
    } else {
      columns <- c(inside$draw_columns(study, runs, 1, "random"), lapply(Filter(Negate(inside$varies), study$inputs), inside$held_value))
      evaluate <- function() {
        evaluator <- inside$study_evaluator(study)
        made <- inside$evaluate_in_chunks(evaluator, columns, runs, NULL)
        inside$check_runs_alone(evaluator, columns, made$values, 1)
      }
    }
    once <- system.time(evaluate())[["elapsed"]]
    if (once > 2) return(1000 * once)
    times <- max(1, ceiling(0.2 / once))
    1000 * min(replicate(3, system.time(for (i in seq_len(times)) evaluate(), gcFirst = TRUE)[["elapsed"]])) / times
  }, 0)
}

if (identical(given[1], "--one")) {
  suppressMessages(library(ensayo))
  saveRDS(evaluated(), given[2])
} else {
  one <- function(library) {
    file <- tempfile(fileext = ".rds")
    system2("Rscript", c("bench/former.R", "--one", file), env = if (!is.null(library)) paste0("R_LIBS=", library))
    readRDS(file)
  }
  turns <- lapply(1:3, function(i) list(ours = one(NULL), former = one(given[1])))
  ratios <- vapply(turns, function(turn) turn$former / turn$ours, turns[[1]]$ours)
  print(data.frame(what = rownames(ratios), ratio = signif(apply(ratios, 1, stats::median), 2),
    ours_ms = signif(apply(vapply(turns, `[[`, ratios[, 1], "ours"), 1, stats::median), 2),
    former_ms = signif(apply(vapply(turns, `[[`, ratios[, 1], "former"), 1, stats::median), 2)), row.names = FALSE, right = FALSE)
}
