# Formulas made at random, over values where arithmetic is awkward: compiled code must give what R's own evaluation gives.

awkward_columns <- function(n) {
  odd <- c(NA, NaN, Inf, -Inf, 0, -0, 1, -1, 2, 0.5, 1e-320, 1e308, -1e308, 2^53, 2^53 + 2, 2147483647, 1e16, -7.5, 3, 1 / 3)
  numbers <- function() ifelse(stats::runif(n) < 0.3, sample(odd, n, TRUE), round(stats::rnorm(n, 2, 4), sample(0:6, 1)))
  series <- matrix(ifelse(stats::runif(4 * n) < 0.05, NaN, stats::rnorm(4 * n)), n, dimnames = list(NULL, c("1", "2", "5", "9")))
  list(a = numbers(), b = numbers(), c = stats::rnorm(n, 5), k = sample(c(-3:9, NA), n, TRUE),
    l = sample(c(TRUE, FALSE, NA), n, TRUE), soil = sample(c("rock", "clay", "sand"), n, TRUE), held = 2.5, s = series)
}

formula_names <- function() {
  known <- c("a", "b", "c", "k", "l", "soil", "held", "s")
  curve <- new_lookup_table(data.frame(x = c(-2, 0, 1, 4), y = c(3, 1, 2, 10)), "curve")
  map <- new_lookup_table(matrix(c(1, 4, 2, 8, 5, 7), 2, dimnames = list(c("-5", "5"), c("0", "2", "6"))), "map")
  structure(known, set = set_of(known), series = list(s = c(1, 2, 5, 9)), tables = list(curve = curve, map = map))
}

awkward_formula <- function(depth, over_steps = FALSE) {
  pick <- function(...) sample(c(...), 1)
  inner <- function(over = over_steps) awkward_formula(depth - 1, over)
  if (depth == 0 || stats::runif(1) < 0.1) {
    leaf <- pick("a", "b", "c", "c", "k", "l", "held", "2", "0.5", "3L", "TRUE", "-1", "1e300", "pi", "0")
    return(if (over_steps && stats::runif(1) < 0.6) "s" else leaf)
  }
  condition <- function() pick(sprintf("%s %s %s", inner(), pick("<", "<=", ">", ">=", "==", "!="), inner()), "l",
    "soil == \"rock\"", "soil %in% c(\"clay\", \"sand\")", sprintf("!(%s > %s)", inner(), inner()),
    sprintf("is.na(%s)", inner()), sprintf("%s %%in%% c(1, 2, 3)", inner()), sprintf("(%s > 0) && (%s > 1)", inner(), inner()),
    sprintf("(%s > 0) || l", inner()), sprintf("xor(%s > 1, l)", inner()), sprintf("is.finite(%s)", inner()))
  made <- switch(sample(if (over_steps) 9 else 12, 1),
    sprintf("(%s %s %s)", inner(), pick("+", "-", "*", "/"), inner()),
    sprintf("(%s %s %s)", inner(), pick("^", "%%", "%/%", "+", "*"), inner()),
    sprintf("%s(%s)", pick("abs", "sqrt", "exp", "log", "sign", "floor", "ceiling", "trunc", "sin", "cos", "tan", "atan",
      "tanh", "log1p", "expm1", "log2", "log10", "acos", "sinh", "acosh", "round", "signif"), inner()),
    sprintf("%s(%s, %s, %s)", pick("min", "max", "sum", "mean", "prod"), inner(), inner(), inner()),
    sprintf("if (%s) %s else %s", condition(), inner(), inner()) |> sprintf(fmt = "(%s)"),
    sprintf("%s(%s, %s)", pick("atan2", "pmin", "pmax", "any", "all"), inner(), inner()),
    sprintf("%s(%s, %d)", pick("round", "signif", "log"), inner(), sample(2:5, 1)),
    sprintf("-%s", inner()), sprintf("(%s)", condition()),
    sprintf("lookup(curve, %s)", inner()), sprintf("lookup(map, %s, %s)", inner(), inner()),
    switch(sample(4, 1), sprintf("%s(%s)", pick("max", "min", "sum", "mean"), awkward_formula(1, TRUE) |> sprintf(fmt = "(%s + s)")),
      pick("at(s, 5)", "last(s)"), sprintf("first_step(s > %s, never = 99)", pick("0", "c", "1e9")),
      sprintf(pick("highest_step(%s + s)", "lowest_step(%s + s)", "longest_stay(s > %s)", "deepest_fall(s - %s)",
        "recovery(s - %s, never = 99)"), awkward_formula(1, TRUE))))
  made
}

# The formula as R evaluates it and as it is compiled, of the same columns.
formula_differences <- function(text, columns) {
  n <- length(columns$a)
  formula <- list(y = read_formula_text(text, formula_names(), "Output `y`"))
  columns <- columns[formula$y$uses]
  interpreted <- new_evaluator(formula, step = interpreted_step)(columns, seq_len(n))
  compiled <- new_evaluator(formula)(columns, seq_len(n))
  bits <- function(x) {
    x <- as.double(x)
    # where all runs take one branch of an `if`, R takes its kind for the kind of both, and a whole number has no -0
    signed <- 1 / x < 0 & !grepl("if (", text, fixed = TRUE)
    ifelse(is.na(x), "lost", paste(sprintf("%a", abs(x)), x < 0 | signed))
  }
  differ <- which(bits(interpreted$values$y) != bits(compiled$values$y))
  # what went wrong on the way has the same words; where a value was lost is said by compiled code alone
  words <- function(failures) sub(" in `.*", "", paste(failures$run, failures$reason))
  reasons <- function(failures) grep("NaN|NA\\)|Inf\\)", words(failures[order(failures$run), ]), invert = TRUE, value = TRUE)
  c(if (is.null(attr(compiled_step(formula, "y", 1), "compiled")$evaluate(columns, n))) "left to R",
    if (length(differ)) sprintf("run %d: %a in R, %a compiled", differ[1], interpreted$values$y[differ[1]],
      compiled$values$y[differ[1]]),
    if (!setequal(interpreted$failures$run, compiled$failures$run)) "other runs fail",
    if (!identical(reasons(interpreted$failures), reasons(compiled$failures))) "other reasons")
}

faulty_formulas <- function(seeds, n = 60) {
  faults <- lapply(seeds, function(seed) {
    set.seed(seed)
    columns <- awkward_columns(n)
    text <- awkward_formula(sample(1:5, 1))
    if (nchar(text) > 9000) return(NULL)
    differences <- function() tryCatch(formula_differences(text, columns), error = function(e) paste("error:", conditionMessage(e)))
    found <- differences()
    # where all runs take a branch of whole numbers, R divides whole numbers by 0 to NA; with numbers alone it must agree
    if (length(found) && grepl("if (", text, fixed = TRUE) && grepl("%/%|%%", text)) {
      columns$k <- as.double(columns$k)
      found <- differences()
    }
    if (length(found)) sprintf("seed %d, %s: %s", seed, text, paste(found, collapse = "; "))
  })
  unlist(faults)
}
