# Formulas that convert by themselves, and quantities in other units.

#' @rdname add_units
#' @export
convert_units <- function(study) {
  check_study(study)
  own <- own_units(study)
  quantities <- c(study$inputs, study$outputs)
  for (name in names(quantities)) {
    text <- quantities[[name]]$unit
    if (!is.null(text) && nzchar(text) && is.null(read_unit(text, own))) {
      stop_unknown_unit(text, own, quoted(name), rlang::current_env())
    }
  }
  refuse_unlike(study, rlang::current_env())
  units <- quantity_units(study)
  tell_conversions(study)
  changed <- Filter(function(output) !is.null(output$formula$expr) && is.null(output$own), study$outputs)
  for (name in setdiff(names(changed), c(aside_names(study), date_outputs(study)))) {
    study$outputs[[name]]$formula <- converting_formula(study$outputs[[name]]$formula, units, units[[name]])
  }
  study
}

# Converted, a temperature on a scale is one in K, and may stand anywhere; a difference is none on a scale.
refuse_unlike <- function(study, call) {
  units <- quantity_units(study)
  plain <- lapply(as.list(units), function(unit) utils::modifyList(unit, list(point = FALSE, offset = 0)))
  wrong <- Filter(function(one) one$code %in% c("dimensions", "argument") ||
    one$code == "declared" && !same_dims(units_in(study$outputs[[one$about]]$formula$expr, plain)$unit, plain[[one$about]]),
    unit_findings(study, list2env(plain, parent = emptyenv())))
  differences <- Filter(function(one) one$code == "declared" && one$part_is_difference, lapply(unit_findings(study), function(one) {
    c(one, list(part_is_difference = one$code == "declared" && isTRUE(units[[one$about]]$point) && !units_in(one$part, units)$unit$point))
  }))
  wrong <- c(wrong, differences)
  if (length(wrong) == 0) return(invisible())
  words <- unit_finding_words(wrong[[1]])
  stop_ensayo("argument", sprintf("%s must have a formula whose dimensions agree, to be converted.", quoted(wrong[[1]]$about)), words[1], words[2],
    name = wrong[[1]]$about, call = call)
}

# Numbers that convert already, by their looks.
usual_factors <- c(10^c(2:9), 10^-(2:9), 60, 3600, 24, 86400, 1440, 7, 365, 365.25, 8760, 12)

tell_conversions <- function(study) {
  seen <- unlist(lapply(names(study$outputs), function(name) {
    numbers <- literal_factors(study$outputs[[name]]$formula$expr)
    numbers <- numbers[vapply(numbers, function(x) any(abs(x / usual_factors - 1) < 1e-12), NA)]
    if (length(numbers)) sprintf("%s (%s)", quoted(name), paste(vapply(unique(numbers), format_given, ""), collapse = ", "))
  }))
  if (length(seen)) {
    warn_ensayo(c("Formulas that convert must not convert twice.", x = sprintf("These hold numbers that look like conversions: %s.", few_listed(seen)),
      i = "Take them out with `replace_outputs()`, before `convert_units()`."), "units")
  }
}

literal_factors <- function(expr) {
  if (!is.call(expr)) return(numeric())
  own <- if (call_head(expr) %in% c("*", "/")) unlist(Filter(is.numeric, as.list(expr)[-1]))
  c(own, unlist(lapply(as.list(expr)[-1], function(part) if (!rlang::is_missing(part)) literal_factors(part))))
}

# The formula with its quantities in the bases' units, and its value in its own.
converting_formula <- function(formula, units, own) {
  expr <- map_symbols(formula$expr, function(symbol) {
    unit <- units[[as.character(symbol)]]
    if (is.null(unit)) symbol else converted_expr(symbol, list(times = unit$factor, plus = unit$offset))
  })
  if (!is.null(own)) expr <- converted_expr(expr, list(times = 1 / own$factor, plus = -own$offset / own$factor, over = own$factor, less = own$offset))
  with_expr(formula, expr)
}

with_expr <- function(formula, expr) {
  if (identical(expr, formula$expr)) return(formula)
  formula$expr <- expr
  formula$written <- NULL
  formula$text <- deparse1(expr, width.cutoff = 500L)
  formula
}

# An expression times a number and plus another, of 15 digits, as texts have them. A factor below 1 divides by its inverse, which
# has the rounder digits.
converted_expr <- function(expr, rule) {
  if (rule$times == 1 && rule$plus == 0) return(expr)
  within <- function(x) if (is.symbol(x) || is.numeric(x)) x else call("(", x)
  if (!is.null(rule$over)) {
    made <- if (rule$less != 0) call("-", within(expr), signif(rule$less, 15)) else expr
    return(if (rule$over == 1) made else scaled_expr(within(made), 1 / rule$over))
  }
  made <- if (rule$times == 1) expr else scaled_expr(within(expr), rule$times)
  if (rule$plus == 0) call("(", made) else call("(", call(if (rule$plus > 0) "+" else "-", made, signif(abs(rule$plus), 15)))
}

scaled_expr <- function(expr, times) {
  inverse <- 1 / times
  if (times < 1 && abs(inverse - round(inverse)) < 1e-9 * inverse) call("/", expr, round(inverse)) else call("*", expr, signif(times, 15))
}

# How values of an output become values in another unit.
unit_rule <- function(study, name, text, own, call) {
  declared <- quantity_unit(study, name)
  if (is.null(declared) || !nzchar(declared)) {
    stop_ensayo("argument", sprintf("%s must have a unit, to be converted.", quoted(name)), "It has none.",
      "Say it in the study: `output(..., unit = \"m\")`.", name = name, call = call)
  }
  from <- read_unit(declared, own)
  if (is.null(from)) stop_unknown_unit(declared, own, quoted(name), call)
  to <- read_unit(text, own)
  if (is.null(to)) stop_unknown_unit(text, own, quoted(name), call)
  if (!same_dims(from, to) || from$point != to$point) {
    stop_ensayo("argument", sprintf("%s must be converted into a unit of its dimension.", quoted(name)),
      sprintf("It is in %s (%s); %s is %s.", declared, dims_text(from), quoted(text), dims_text(to)), name = name, call = call)
  }
  conversion(from, to)
}

# The part of a study that gives an output, with the output in another unit.
study_in_unit <- function(study, name, text, call = rlang::caller_env()) {
  rule <- unit_rule(study, name, text, own_units(study), call)
  study <- study_for(study, needed_outputs(study, name))
  study$specs <- list()
  study$readings$chances <- list()
  output <- study$outputs[[name]]
  if (is.null(output$formula$expr)) {
    stop_ensayo("argument", sprintf("%s must have a formula, to be stated in another unit.", quoted(name)), sprintf("It is given by %s.", quoted(output$model)),
      "Add an output that converts it.", name = name, call = call)
  }
  output$formula <- with_expr(output$formula, converted_expr(output$formula$expr, rule))
  output$unit <- text
  study$outputs[[name]] <- output
  study
}
