# Units through a formula: what unit an expression has by those of its quantities, and where it puts together what does not
# belong together. Nothing is evaluated. The unit of an expression is
#   NULL               not known: a quantity without a unit, a look-up table, a function of the user's own
#   a unit (format-unit.R)    with `free`, TRUE where a bare number was multiplied with it, so that its scale may be another; and
#                      `literal`, the number, of a number that stands by itself
# Findings are codes with the part of the formula where they arose:
#   dimensions   two terms of different dimension
#   scale        two terms of one dimension in different units, without a conversion
#   number       a bare number beside a quantity that has a unit
#   points       temperatures in degC or degF added or multiplied
#   argument     something with a unit where a function takes a pure number; `angle` where it takes radians
#   declared     the formula's unit and the declared one
units_in <- function(expr, units) {
  found <- list2env(list(list = list(), units = units), parent = emptyenv())
  unit <- unit_of_node(expr, found)
  list(unit = unit, findings = found$list)
}

note_unit <- function(found, code, part, ...) {
  found$list[[length(found$list) + 1]] <- list(code = code, part = part, ...)
  NULL
}

unit_of_node <- function(expr, found) {
  if (is.symbol(expr)) {
    name <- as.character(expr)
    if (name == "pi") return(c(pure_unit, list(free = FALSE, literal = pi)))
    unit <- found$units[[name]]
    return(if (!is.null(unit)) c(unit, list(free = FALSE)))
  }
  if (is.numeric(expr) && !is.object(expr)) return(c(pure_unit, list(free = FALSE, literal = expr)))
  if (!is.call(expr)) return(NULL)
  head <- call_head(expr)
  if (head %in% c("+", "-") && length(expr) == 3 || head == "*" || head == "/") return(unit_of_chain(expr, found))
  rule <- unit_rules[[head]]
  if (!is.null(rule)) return(rule(expr, found))
  for (part in as.list(expr)[-1]) if (!rlang::is_missing(part)) unit_of_node(part, found)
  NULL
}

# Sums and products lean to the left and may be long: their spine is walked in a loop.
unit_of_chain <- function(expr, found) {
  spine <- list()
  while (is.call(expr) && length(expr) == 3 && call_head(expr) %in% c("+", "-", "*", "/")) {
    spine <- c(list(expr), spine)
    expr <- expr[[2]]
  }
  unit <- unit_of_node(expr, found)
  for (node in spine) {
    right <- unit_of_node(node[[3]], found)
    unit <- switch(call_head(node), `+` = , `-` = unit_of_sum(node, unit, right, found), `*` = unit_times(node, unit, right, 1, found),
      `/` = unit_times(node, unit, right, -1, found))
  }
  unit
}

is_literal <- function(unit) !is.null(unit$literal)

# 0 and infinity are the same in every unit.
fits_any <- function(unit) is_literal(unit) && (unit$literal == 0 || is.infinite(unit$literal))

unit_of_sum <- function(node, left, right, found) {
  if (is.null(left) || is.null(right)) return(NULL)
  minus <- call_head(node) == "-"
  if (left$point || right$point) return(sum_of_points(node, left, right, minus, found))
  unit <- joined_units(list(left, right), list(node[[2]], node[[3]]), node, found)
  if (is_literal(left) && is_literal(right)) unit$literal <- if (minus) left$literal - right$literal else left$literal + right$literal
  unit
}

# A point less a point is a difference, a point and a difference are a point.
sum_of_points <- function(node, left, right, minus, found) {
  difference <- c(new_unit(c(K = 1), left$factor), list(free = FALSE))
  if (left$point && right$point) {
    if (!minus) return(note_unit(found, "points", node, words = "added"))
    if (left$factor != right$factor) note_unit(found, "scale", node, left = left$text, right = right$text, a = node[[2]], b = node[[3]])
    return(difference)
  }
  point <- if (left$point) left else right
  other <- if (left$point) right else left
  part <- if (left$point) node[[3]] else node[[2]]
  if (minus && right$point) return(note_unit(found, "points", node, words = "taken from a difference"))
  if (is_literal(other)) {
    if (!fits_any(other)) note_unit(found, "number", node, number = part, beside = if (left$point) node[[2]] else node[[3]], unit = point$text)
  } else if (!same_dims(point, other)) {
    note_unit(found, "dimensions", node, a = node[[2]], b = node[[3]], left = unit_words(left), right = unit_words(right))
  } else if (!other$free && abs(other$factor / point$factor - 1) > 1e-9) {
    note_unit(found, "scale", node, left = unit_words(left), right = unit_words(right), a = node[[2]], b = node[[3]])
  }
  c(point[c("dims", "factor", "offset", "point", "text")], list(free = FALSE))
}

# The one unit of several terms; `where` is the part of the formula in which they stand together.
joined_units <- function(units, parts, where, found, numbers = TRUE) {
  known <- !vapply(units, is.null, NA)
  if (!any(known)) return(NULL)
  loose <- known & vapply(units, fits_any, NA)
  literal <- known & vapply(units, is_literal, NA)
  first <- c(which(known & !literal), which(known & !loose), which(known))[1]
  unit <- units[[first]]
  for (i in which(known & !loose & seq_along(units) != first)) {
    other <- units[[i]]
    if (literal[i] && (!is_pure(unit) || unit$point || unit$factor != 1 && !unit$free)) {
      if (numbers) note_unit(found, "number", where, number = parts[[i]], beside = parts[[first]], unit = unit_words(unit))
    } else if (!same_dims(unit, other)) {
      note_unit(found, "dimensions", where, a = parts[[first]], b = parts[[i]], left = unit_words(unit), right = unit_words(other))
    } else if (unit$point != other$point || !unit$free && !other$free && !literal[i] && !literal[first] &&
      abs(unit$factor / other$factor - 1) > 1e-9) {
      note_unit(found, "scale", where, a = parts[[first]], b = parts[[i]], left = unit_words(unit), right = unit_words(other))
    }
  }
  if (!all(known)) return(NULL)
  unit$free <- any(vapply(units, function(one) isTRUE(one$free), NA))
  unit$literal <- NULL
  unit
}

# As it was written, else what it is made of.
unit_words <- function(unit) if (nzchar(unit$text %||% "")) unit$text else dims_text(unit)

unit_times <- function(node, left, right, power, found) {
  for (side in list(left, right)) {
    if (!is.null(side) && side$point) {
      other <- if (identical(side, left)) right else left
      if (is_literal(other) && other$literal == 1) next
      return(note_unit(found, "points", node, words = if (power > 0) "multiplied" else "divided"))
    }
  }
  if (is.null(left) || is.null(right)) return(NULL)
  unit <- unit_product(left, right, power)
  free <- left$free || right$free || is_literal(left) != is_literal(right) && !is_one(if (is_literal(left)) left else right)
  literal <- if (is_literal(left) && is_literal(right)) left$literal * right$literal^power
  # an expression that is one quantity still has its written unit
  if (is_one(right) || is_one(left) && power > 0) unit$text <- if (is_one(right)) left$text else right$text
  c(unit, list(free = free), if (!is.null(literal)) list(literal = literal))
}

is_one <- function(unit) is_literal(unit) && unit$literal == 1

unit_of_power <- function(expr, found) {
  base <- unit_of_node(expr[[2]], found)
  exponent <- unit_of_node(expr[[3]], found)
  if (!is.null(base) && base$point) return(note_unit(found, "points", expr, words = "raised to a power"))
  if (!is.null(exponent) && !is_pure(exponent)) note_unit(found, "argument", expr, name = "^", argument = expr[[3]], unit = unit_words(exponent))
  if (is.null(base)) return(NULL)
  power <- if (is_literal(exponent)) exponent$literal
  if (is_literal(base) && !is.null(power)) return(c(pure_unit, list(free = FALSE, literal = base$literal^power)))
  if (is_pure(base)) return(c(pure_unit, list(free = base$free)))
  if (is.null(power)) {
    if (!is.null(exponent)) note_unit(found, "argument", expr, name = "^", argument = expr[[2]], unit = unit_words(base))
    return(NULL)
  }
  c(unit_power(base, power), list(free = base$free))
}

# Functions that take a pure number and give one.
unit_of_pure <- function(expr, found) {
  name <- call_head(expr)
  for (part in as.list(expr)[-1]) {
    unit <- unit_of_node(part, found)
    if (is.null(unit)) next
    if (!is_pure(unit)) note_unit(found, "argument", expr, name = name, argument = part, unit = unit_words(unit))
    else if (name %in% c("sin", "cos", "tan") && !unit$free && unit$factor != 1) note_unit(found, "angle", expr, name = name, argument = part, unit = unit_words(unit))
  }
  c(pure_unit, list(free = FALSE))
}

unit_of_same <- function(expr, found) {
  parts <- as.list(expr)[-1]
  units <- lapply(parts, unit_of_node, found)
  joined_units(units, parts, expr, found)
}

unit_of_first <- function(expr, found) {
  units <- lapply(as.list(expr)[-1], unit_of_node, found)
  unit <- units[[1]]
  if (is.null(unit)) return(NULL)
  unit$literal <- NULL
  unit
}

unit_of_comparison <- function(expr, found) {
  parts <- as.list(expr)[-1]
  # a bare number in a comparison is in the unit of what it is compared with
  joined_units(lapply(parts, unit_of_node, found), parts, expr, found, numbers = FALSE)
  NULL
}

unit_of_choice <- function(expr, found) {
  unit_of_node(expr[[2]], found)
  parts <- as.list(expr)[-(1:2)]
  joined_units(lapply(parts, unit_of_node, found), parts, expr, found)
}

# What yes and no are counted as, nobody knows: days, pieces.
unit_of_logic <- function(expr, found) {
  for (part in as.list(expr)[-1]) unit_of_node(part, found)
  NULL
}

unit_of_root <- function(expr, found) {
  unit <- unit_of_node(expr[[2]], found)
  if (is.null(unit)) return(NULL)
  if (unit$point) return(note_unit(found, "points", expr, words = "put under a root"))
  if (is_literal(unit)) return(c(pure_unit, list(free = FALSE, literal = sqrt(max(unit$literal, 0)))))
  c(unit_power(unit, 0.5), list(free = unit$free))
}

# A sign before a term, or around it nothing but brackets.
unit_of_sign <- function(expr, found) {
  unit <- unit_of_node(expr[[2]], found)
  if (!is.null(unit$literal) && call_head(expr) == "-") unit$literal <- -unit$literal
  unit
}

unit_of_product <- function(expr, found) {
  units <- lapply(as.list(expr)[-1], unit_of_node, found)
  if (any(vapply(units, is.null, NA))) return(NULL)
  Reduce(function(a, b) unit_times(expr, a, b, 1, found), units)
}

unit_of_atan2 <- function(expr, found) {
  unit_of_same(expr, found)
  c(pure_unit, list(free = FALSE))
}

unit_rules <- local({
  rules <- list()
  rules[c("(", "+", "-")] <- list(unit_of_sign)
  rules[["^"]] <- unit_of_power
  rules[c("exp", "expm1", "log", "log2", "log10", "log1p", "sin", "cos", "tan", "asin", "acos", "atan", "sinh", "cosh", "tanh", "asinh", "acosh", "atanh", "sinpi",
    "cospi", "tanpi", "gamma", "lgamma", "digamma", "trigamma", "factorial", "lfactorial", "beta", "lbeta", "choose", "lchoose")] <- list(unit_of_pure)
  rules[c("min", "max", "pmin", "pmax", "sum", "mean", "%%")] <- list(unit_of_same)
  rules[c("abs", "floor", "ceiling", "trunc", "round", "signif", "at", "last", "before", "deepest_fall")] <- list(unit_of_first)
  rules[c("<", "<=", ">", ">=", "==", "!=")] <- list(unit_of_comparison)
  rules[c("if", "ifelse")] <- list(unit_of_choice)
  rules[c("!", "&", "|", "&&", "||", "xor", "any", "all", "is.na", "is.finite", "sign", "happened")] <- list(unit_of_logic)
  rules[["sqrt"]] <- unit_of_root
  rules[["prod"]] <- unit_of_product
  rules[["atan2"]] <- unit_of_atan2
  rules[["%/%"]] <- unit_of_atan2
  rules
})
