# The formula language: which functions a formula may call, and how. A study file's formulas may call these and nothing
# else; formulas written in R may call functions of the user's own besides (formula-function.R).

# Functions that give each run its value from that run's arguments alone, as base R has them.
elementwise_functions <- c(
  "(", "+", "-", "*", "/", "^", "%%", "%/%", "==", "!=", "<", "<=", ">", ">=", "!", "&", "|", "xor",
  "abs", "sign", "sqrt", "exp", "expm1", "log", "log2", "log10", "log1p",
  "cos", "sin", "tan", "acos", "asin", "atan", "atan2", "cosh", "sinh", "tanh", "acosh", "asinh", "atanh",
  "cospi", "sinpi", "tanpi", "floor", "ceiling", "trunc", "round", "signif",
  "gamma", "lgamma", "digamma", "trigamma", "beta", "lbeta", "choose", "lchoose", "factorial", "lfactorial",
  "is.na", "is.nan", "is.finite", "is.infinite", "pmin", "pmax"
)

# Likewise, of package stats, for formulas written in R: densities, probabilities and quantiles.
elementwise_stats <- as.vector(outer(
  c("d", "p", "q"),
  c("norm", "lnorm", "unif", "beta", "gamma", "exp", "weibull", "logis", "cauchy", "t", "chisq", "f",
    "binom", "pois", "geom", "nbinom", "hyper"),
  paste0
))

# Functions whose value in one run depends on the other runs: silently wrong in a formula, whole or run by run.
across_run_functions <- c(
  "cumsum", "cumprod", "cummax", "cummin", "rank", "order", "sort", "rev", "quantile", "median", "var", "sd", "mad",
  "IQR", "scale", "diff", "range", "table", "tabulate", "ave", "ecdf", "duplicated", "unique", "which", "which.min",
  "which.max", "head", "tail", "cor", "cov", "fivenum", "cut", "rle", "filter", "convolve", "fft", "embed", "rowsum",
  "tapply", "aggregate", "split", "density", "weighted.mean"
)

random_functions <- c(
  "sample", "sample.int", "set.seed",
  paste0("r", c("norm", "unif", "lnorm", "beta", "gamma", "exp", "weibull", "logis", "cauchy", "t", "chisq", "f",
    "binom",
    "pois", "geom", "nbinom", "hyper", "multinom", "signrank", "wilcox"))
)

clock_functions <- c("Sys.time", "Sys.Date", "date", "proc.time", "system.time")

# Bodies that hold one of these seldom mean for a whole column what they mean for one number.
one_run_functions <- c("min", "max", "sum", "prod", "mean", "any", "all", "if", "while", "repeat", "for", "switch",
  "&&",
  "||", "integrate", "uniroot", "optimize", "optimise", "optim", "nlm", "nlminb")

# Why a function may not stand in a formula or in a function it calls, or NULL where it may.
function_fault <- function(name) {
  if (name %in% across_run_functions) {
    return(list(cause = "across_runs", why = sprintf("`%s()` acts across runs.", name),
      mend = "A formula is evaluated within each run. To read a figure across runs, ask the result."))
  }
  if (name %in% random_functions) {
    return(list(cause = "formula", why = sprintf("`%s()` draws random numbers.", name),
      mend = "Describe what is random as an input with a law."))
  }
  if (name %in% clock_functions) {
    return(list(cause = "formula", why = sprintf("`%s()` reads the clock.", name),
      mend = "Give the time as an input, so that a run can be repeated."))
  }
  if (name %in% c("<<-", "assign")) {
    return(list(cause = "formula", why = sprintf("`%s` changes values outside the run.", name),
      mend = "Return what is wanted, and make it an output."))
  }
  NULL
}

stop_function_fault <- function(fault, what, inside = NULL) {
  stop_ensayo(fault$cause, sprintf("%s must depend on one run at a time and nothing else.", what),
    if (is.null(inside)) fault$why else sprintf("In %s: %s", quoted(inside), fault$why), fault$mend)
}
