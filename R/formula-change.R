# Formulas with other names or values in them.

# The same formula with a quantity under another name.
rename_in_formula <- function(formula, old, new) {
  if (!old %in% formula$uses) return(formula)
  formula$uses[formula$uses == old] <- new
  if (is.null(formula$expr)) return(formula)
  formula$expr <- rename_symbol(formula$expr, old, new)
  formula$written <- NULL
  formula$text <- deparse1(formula$expr, width.cutoff = 500L)
  formula
}

rename_symbol <- function(expr, old, new) {
  map_symbols(expr, function(symbol) if (identical(as.character(symbol), old)) as.symbol(new) else symbol)
}

map_symbols <- function(expr, change) {
  if (is.symbol(expr)) return(change(expr))
  if (is.call(expr)) map_arguments(expr, function(argument) map_symbols(argument, change)) else expr
}

with_constants <- function(expr, constants) {
  map_symbols(expr, function(symbol) {
    value <- constants[[as.character(symbol)]]
    if (inherits(value, "Date")) call("date", format(as_day(value))) else value %||% symbol
  })
}
