# Days in formulas. A day is a number of days since 1970-01-01 wherever runs are calculated; which formulas give days is
# told from their shape, so that readings can show them on a calendar and a day is never compared with a plain number.

# Whether a formula's value is a day. `dates`: the quantities that are. A comparison of a day with a number, or two days
# added up, is an error.
is_date_formula <- function(formula, dates, what, call = rlang::caller_env()) {
  known <- c(dates, names(Filter(function(x) inherits(x, "Date"), formula$constants)))
  names <- all.vars(formula$expr)
  if (!"date" %in% all.names(formula$expr) && !any(c(names, step_of(names)) %in% known)) return(FALSE)
  date_kind(formula$expr, known, what, call) == "date"
}

# Among the names of days, a series whose steps are days is marked so.
step_of <- function(series) sprintf("step of %s", series)

# "date", "number", "text", or "open" where the shape does not tell (a function of the user's own).
date_kind <- function(expr, dates, what, call) {
  if (is.symbol(expr)) return(if (as.character(expr) %in% dates) "date" else "number")
  if (!is.call(expr)) return(if (is.character(expr)) "text" else "number")
  head <- call_head(expr)
  if (head == "date") return("date")
  if (head == "lookup" || head == "%in%") return("number")
  if (head %in% c("highest_step", "lowest_step")) return(if (any(step_of(all.vars(expr)) %in% dates)) "date" else "number")
  if (is_operation(expr) && is_operation(expr[[2]])) return(sum_kind(expr, dates, what, call))
  kinds <- vapply(as.list(expr)[-1], date_kind, "", dates = dates, what = what, call = call)
  operation_kind(head, kinds, expr, what, call)
}

# The kind of a call from those of its arguments.
operation_kind <- function(head, kinds, expr, what, call) {
  if (head %in% comparisons) return(compared_kind(kinds, expr, what, call))
  if (head %in% c("+", "-")) return(moved_kind(head, kinds, expr, what, call))
  if (head %in% c("if", "ifelse")) return(same_kind(kinds[-1], expr, what, call))
  if (head %in% c("min", "max", "mean", "pmin", "pmax")) return(same_kind(kinds, expr, what, call))
  if (head %in% c("(", "floor", "ceiling", "round", "trunc", "at", "last")) return(kinds[1])
  if (head == "first_step") return(kinds[2])
  if (head %in% c(elementwise_functions, names(formula_verbs))) "number" else "open"
}

# Long sums lean to the left: from their innermost term outwards.
sum_kind <- function(expr, dates, what, call) {
  spine <- list()
  while (is_operation(expr)) {
    spine <- c(list(expr), spine)
    expr <- expr[[2]]
  }
  kind <- date_kind(expr, dates, what, call)
  for (node in spine) {
    kind <- operation_kind(call_head(node), c(kind, date_kind(node[[3]], dates, what, call)), node, what, call)
  }
  kind
}

compared_kind <- function(kinds, expr, what, call) {
  same_kind(kinds, expr, what, call)
  "number"
}

# A day and a number of days are a day; the difference of two days is a number of days.
moved_kind <- function(head, kinds, expr, what, call) {
  if (sum(kinds == "date") == 2 && head == "+") {
    stop_ensayo("formula", sprintf("%s must not add two dates.", what), sprintf("It holds %s.", quoted(deparse1(expr))),
      "Add a number of days to a date.", call = call)
  }
  if (identical(kinds, c("date", "date")) || !"date" %in% kinds) return(if ("open" %in% kinds) "open" else "number")
  "date"
}

same_kind <- function(kinds, expr, what, call) {
  known <- setdiff(kinds, "open")
  if ("date" %in% known && length(unique(known)) > 1) {
    stop_ensayo("formula", sprintf("%s must put dates beside dates.", what),
      sprintf("%s has a date beside a %s.", quoted(deparse1(expr)), setdiff(known, "date")[1]),
      sprintf("Write the date as `date(\"%s\")`.",
        (Filter(is.character, as.list(expr)) |> unlist() %||% "2027-05-01")[1]),
      call = call)
  }
  if (length(known)) known[1] else "open"
}

# Comparisons of days are of whole days: what is done in the course of a day is done on it.
days_compared <- function(formula, dates) {
  known <- c(dates, names(Filter(function(x) inherits(x, "Date"), formula$constants)))
  if (!any(c("date", known) %in% all.names(formula$expr))) return(formula)
  whole <- whole_days(formula$expr, known)
  if (identical(whole, formula$expr)) return(formula)
  formula$written <- formula$written %||%
    deparse1(with_constants(formula$expr, formula$constants), width.cutoff = 500L)
  formula$expr <- whole
  formula
}

whole_days <- function(expr, known) {
  if (!is.call(expr)) return(expr)
  kinds <- if (call_head(expr) %in% comparisons) {
    vapply(as.list(expr)[-1], date_kind, "", dates = known, what = "", call = NULL)
  }
  if (!"date" %in% kinds) return(map_arguments(expr, function(argument) whole_days(argument, known)))
  is_whole <- function(side) rlang::is_call(side, c("date", "floor"))
  for (i in 2:3) if (!is_whole(expr[[i]])) expr[[i]] <- call("floor", expr[[i]])
  expr
}

comparisons <- c("<", "<=", ">", ">=", "==", "!=")
