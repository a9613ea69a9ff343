# Units of a study: those that it declares, what they say of its formulas, and formulas that convert.

#' Units of a study
#'
#' Units are texts of inputs and outputs, such as `"L/s"`, `"kg/m3"` or `"kEUR/a"`. Every formula is checked by them before any run:
#' [review()] names what does not belong together, and where. `add_units()` declares further ones. `convert_units()` has formulas convert
#' by themselves.
#'
#' @param .study,study A study.
#' @param ... Named units: `person = NULL` for something that is counted and has no other unit; or a text, what one is in other units:
#'   `truck = "12 m3"`.
#' @return The study with the units declared; with its formulas converting.
#' @section Units that are known: those of the International System with their prefixes (`mm`, `kPa`, `MW`, `ug`), `min`, `h`, `d`, `week`, `month`
#'   and `a` (year), `L`, `t`, `bar`, `ha`, `kWh`, `deg`, `%`, `ppm`, some of trade and older ones (`in`, `ft`, `lb`, `gal`, `psi`, `bbl`), currencies by
#'   their three letters with prefixes (`kEUR`), `dB` and `pH` (dimensions of their own). They are put together as `kg/m3`, `kg m-3`,
#'   `W/(m2 K)`, `m^2`, `m²`, `1/s`. Temperatures in `degC` and `degF` are points on a scale: their difference is in `K`, and a point is
#'   neither added to a point nor multiplied. Any other word is a unit of its own, such as `home`.
#' @section What is checked: the terms of sums, differences, minima, comparisons and branches must be of one dimension, and in one
#'   unit unless a number was multiplied in between, which may convert; a bare number beside a quantity that has a unit is named (0
#'   and infinity fit anything; in comparisons a number is in the other side's unit); `exp`, `log`, `sin` and the like take pure numbers; the
#'   unit that an output declares must be of its formula's dimension. A quantity without a unit may be anything. Nothing is converted, no
#'   number is changed, and a run takes no longer.
#' @section Converting: a formula that is written for quantities in any units, `demand / (pi * diameter^2 / 4)`, is made to convert by
#'   `convert_units()`: each quantity that it uses comes in units of the International System (money in its currency), and what it gives is
#'   turned into the unit that the output declares. The print shows the factors. A number in a formula then stands in these units: what
#'   converts already, such as `/ 1000`, is to be taken out first, and a warning names it. Functions, programs and steps take values as they
#'   are declared. Where nothing has to be converted the formula stays as it is, and so does every bit of its values.
#' @section Source: BIPM 2019, The International System of Units (SI Brochure), 9th edition, tables 4, 7 and 8.
#' @section Errors: `ensayo_error_argument` for a definition that is no unit (with the nearest one), and, when converting, a unit that
#'   is not known, or a formula whose dimensions do not agree; `ensayo_error_name` for a unit that is known already.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(demand = input(law_pert(28, 34, 48), unit = "L/s"),
#'     diameter = input(law_triangular(246, 250, 252), unit = "mm"),
#'     spring = input(law_normal(61.5, 0.4), unit = "m")) |>
#'   add_outputs(velocity = output(demand / (pi * diameter^2 / 4), unit = "m/s"),
#'     level = output(spring - 12, unit = "m"))
#' review(main)
#' convert_units(main)
#' study("Water") |>
#'   add_units(person = NULL, truck = "12 m3") |>
#'   add_inputs(people = input(law_normal(4200, 90), unit = "person"),
#'     use = input(law_pert(110, 130, 170), unit = "L/(person d)")) |>
#'   add_outputs(need = output(people * use, unit = "m3/d")) |>
#'   convert_units()
#' @export
add_units <- function(.study, ...) {
  check_study(.study)
  given <- rlang::dots_list(..., .homonyms = "error")
  for (name in names_of(given)) .study <- with_unit_declared(.study, name, given[[name]])
  .study
}

with_unit_declared <- function(study, name, definition, call = rlang::caller_env()) {
  name <- normal_name(name)
  if (!grepl("^[^][ /()^0-9*]+$", name)) {
    stop_ensayo("name", "A unit must be one word without numbers.", sprintf("You gave %s.", quoted(name)), name = name, call = call)
  }
  own <- own_units(study)
  if (!is.null(read_unit(name)) || name %in% names(own)) {
    stop_ensayo("name", "A declared unit must not be known yet.", sprintf("%s is.", quoted(name)), name = name, call = call)
  }
  text <- ""
  if (!is.null(definition) && !identical(definition, "")) {
    text <- check_string(definition, "...", call = call)
    if (is.null(read_unit(text, own))) stop_unknown_unit(text, own, sprintf("The unit %s", quoted(name)), call)
  }
  study$units[[name]] <- text
  study
}

stop_unknown_unit <- function(text, own, what, call = NULL) {
  part <- unknown_part(text, own)
  stop_ensayo("argument", sprintf("%s must be in a unit that is known.", what),
    if (part == text) sprintf("%s is none.", quoted(text)) else sprintf("In %s, %s is none.", quoted(text), quoted(part)),
    unit_mend(part, nearest_unit(text, own)), unit = text, call = call)
}

unit_mend <- function(part, near) {
  declare <- if (grepl("^[^][ /()^0-9*]+$", part)) sprintf("eclare it with `add_units(%s = NULL)`.", if (make.names(part) == part) part else quoted(part))
  paste(c(if (!is.null(near)) sprintf("Did you mean %s?", quoted(near)), if (!is.null(declare)) paste0(if (is.null(near)) "D" else "Else d", declare),
    if (is.null(near) && is.null(declare)) "Write it as `kg/m3` or `W/(m2 K)`."), collapse = " ")
}

own_units <- function(study) {
  own <- list()
  for (name in names(study$units)) {
    text <- study$units[[name]]
    own[[name]] <- if (nzchar(text)) read_unit(text, own) else base_unit(name)
  }
  own
}

# The units of all quantities that have one; a word that is no unit is one of its own.
quantity_units <- function(study) {
  own <- own_units(study)
  quantities <- c(study$inputs, study$outputs)
  days <- date_outputs(study)
  texts <- text_of(quantities, function(quantity) quantity$unit)
  names <- names(quantities)
  known <- nzchar(texts) & !names %in% days
  units <- lapply(texts[known], function(text) read_unit(text, own) %||% c(base_unit(sub("s$", "", text))[1:4], list(text = text)))
  list2env(stats::setNames(units, names[known]), parent = emptyenv())
}

# Findings of units, in every formula: what they are about, and their codes with fields.
unit_findings <- function(study, units = quantity_units(study)) {
  if (length(ls(units)) == 0) return(list())
  formulas <- formulas_of(study)
  made <- c(aside_names(study), names(Filter(function(output) !is.null(output$own), study$outputs)))
  unlist(lapply(setdiff(unique(names(formulas)), made), function(name) {
    formula <- formulas[[name]]
    if (is.null(formula$expr)) return(NULL)
    found <- units_in(formula$expr, units)
    findings <- found$findings
    sure <- all(vapply(findings, function(one) one$code == "number", NA))
    if (sure && !is.null(units[[name]])) findings <- c(findings, declared_finding(found$unit, units[[name]], formula$expr))
    lapply(findings, function(one) c(list(about = name), one))
  }), recursive = FALSE)
}

declared_finding <- function(unit, declared, expr) {
  if (is.null(unit) || is_literal(unit)) return(NULL)
  if (!same_dims(unit, declared)) return(list(list(code = "declared", part = expr, left = unit_words(unit), right = declared$text)))
  if (unit$point != declared$point || !unit$free && abs(unit$factor / declared$factor - 1) > 1e-9) {
    return(list(list(code = "declared", part = expr, left = scale_words(unit), right = declared$text)))
  }
}

# What a formula gives, where its text says nothing of the scale.
scale_words <- function(unit) {
  if (nzchar(unit$text %||% "") || unit$factor == 1) return(unit_words(unit))
  sprintf("%s x %s", format(unit$factor, digits = 4), dims_text(unit))
}

review_units <- function(study) {
  rows <- lapply(unit_findings(study), function(one) {
    words <- unit_finding_words(one)
    finding(if (one$code == "number") "hint" else "warning", one$about, words[1], words[2])
  })
  own <- own_units(study)
  texts <- unique(text_of(c(study$inputs, study$outputs), function(quantity) quantity$unit))
  odd <- Filter(function(text) nzchar(text) && is.null(read_unit(text, own)), texts)
  # a word by itself is a unit of its own, unless it looks like a slip
  near <- lapply(odd, nearest_unit, own)
  slips <- lapply(which(lengths(near) > 0 | grepl("/", odd)), function(i) {
    about <- names(Filter(function(quantity) identical(quantity$unit, odd[i]), c(study$inputs, study$outputs)))
    part <- unknown_part(odd[i], own)
    finding("hint", paste(utils::head(about, 6), collapse = ", "), sprintf("Its unit %s is not known%s.", quoted(odd[i]),
      if (part == odd[i]) "" else sprintf(": %s is no unit", quoted(part))), unit_mend(part, near[[i]]))
  })
  do.call(rbind, unique(c(rows, slips)))
}

# What was seen, and what to do about it.
unit_finding_words <- function(one) {
  text <- function(expr) quoted(deparse1(expr))
  switch(one$code,
    dimensions = c(sprintf("It puts together %s [%s] and %s [%s].", text(one$a), one$left, text(one$b), one$right),
      "Convert one of them, or correct its unit."),
    scale = c(sprintf("It puts together %s [%s] and %s [%s] without converting.", text(one$a), one$left, text(one$b), one$right),
      "Convert one of them, or correct its unit."),
    number = c(sprintf("In %s, %s has no unit, and %s is in %s.", text(one$part), text(one$number), text(one$beside), one$unit),
      "Make the number an input with a unit of its own."),
    points = c(sprintf("In %s temperatures on a scale are %s.", text(one$part), one$words),
      "Take differences, which are in K, or convert the temperature to K first."),
    argument = c(sprintf("In %s, %s [%s] is no pure number.", text(one$part), text(one$argument), one$unit),
      "Divide it by a reference in the same unit."),
    angle = c(sprintf("In %s, %s is in %s, and `%s()` takes radians.", text(one$part), text(one$argument), one$unit, one$name),
      "Multiply by `pi / 180`, or give the angle in rad."),
    declared = c(sprintf("Its formula gives %s, and its unit is %s.", one$left, one$right), "Convert in the formula, or correct the unit."))
}

part_units <- list(
  title = "Units",
  hashed = FALSE,
  record = function(study) study$units,
  read = function(study, record, file) {
    if (is.null(record)) return(study)
    check_section(record, "units")
    for (name in names(record)) {
      text <- record[[name]]
      if (identical(text, "")) text <- NULL
      if (!is.null(text)) text <- read_text(text, sprintf("Unit %s", quoted(name)))
      study <- in_place(sprintf("Unit %s", quoted(name)), with_unit_declared(study, name, text))
    }
    study
  },
  reviewed = function(study, asked) review_units(study),
  table = function(study) new_table(list(unit = as.character(names(study$units)), is = as.character(unlist(study$units) %||% character())))
)
