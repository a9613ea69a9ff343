# Families and groups in formulas: `sum(zone)` is written out as the sum of its members when the formula is read.

family_named <- function(symbol, found) {
  # a part of a family may be one, too: `events[cost]`
  if (rlang::is_call(symbol, "[", n = 2)) {
    return(attr(found$known, "groups")[[sprintf("%s[%s]", as.character(symbol[[2]])[1], as.character(symbol[[3]])[1])]])
  }
  if (!is.symbol(symbol)) return(NULL)
  name <- normal_name(symbol)
  if (is_known(name, found)) return(NULL)
  attr(found$known, "groups")[[name]]
}

# Arguments that name a family become its members.
expand_families <- function(expr, found) {
  arguments <- lapply(as.list(expr)[-1], function(argument) {
    members <- family_named(argument, found)
    if (is.null(members)) return(list(argument))
    found$families <- TRUE
    lapply(members, as.symbol)
  })
  as.call(c(expr[[1]], unlist(arguments, recursive = FALSE)))
}

# The sum of a family that is a quantity of its own, such as `sum(events)`, so that it holds what is added to the family later.
sum_known <- function(argument, found) {
  if (!is.symbol(argument) && !rlang::is_call(argument, "[", n = 2)) return(NULL)
  name <- sprintf("sum(%s)", gsub("`", "", deparse1(argument), fixed = TRUE))
  if (is_known(name, found)) as.symbol(name)
}

is_sum_known <- function(argument, found) {
  is.symbol(argument) && startsWith(as.character(argument), "sum(") && is_known(as.character(argument), found)
}

with_sums <- function(expr, found) {
  expr[-1] <- lapply(as.list(expr)[-1], function(argument) {
    known <- sum_known(argument, found)
    if (!is.null(known)) found$families <- TRUE
    known %||% argument
  })
  expr
}

# `happened(burst)` is the yes or no of an event.
read_happened <- function(expr, found) {
  argument <- if (length(expr) == 2) expr[[2]]
  name <- if (is.symbol(argument) || is.character(argument)) sprintf("%s[happened]", normal_name(as.character(argument)))
  if (is.null(name) || !is_known(name, found)) {
    events <- sub("\\[happened\\]$", "", grep("\\[happened\\]$", found$known, value = TRUE))
    stop_ensayo("formula", sprintf("%s: `happened()` takes the name of an event.", found$what), sprintf("It reads %s.",
      quoted(deparse1(expr))), if (length(events)) suggestion(deparse1(argument), events))
  }
  read_symbol(as.symbol(name), found)
}

task_verbs <- c("start", "finish", "duration", "float", "critical", "cost")

# `finish(dig)` is a quantity of a task or a group of tasks.
task_quantity <- function(head, expr, found) {
  if (!head %in% task_verbs || length(expr) != 2) return(NULL)
  argument <- expr[[2]]
  if (!is.symbol(argument) && !is.character(argument)) return(NULL)
  name <- sprintf("%s[%s]", normal_name(as.character(argument)), head)
  if (is_known(name, found)) return(as.symbol(name))
  ending <- sprintf("\\[%s\\]$", head)
  if (as.character(argument) %in% attr(found$known, "tasks")) {
    stop_ensayo("name", sprintf("%s must use dates of tasks that are kept.", found$what), sprintf("%s is not.", quoted(argument)),
      "Name it in the schedule's `keep` (`add_tasks(.keep = )`).", name = as.character(argument))
  }
  tasks <- sub(ending, "", grep(ending, found$known, value = TRUE))
  if (length(tasks) == 0) return(NULL)
  stop_ensayo("formula", sprintf("%s: `%s()` takes the name of a task or of a group of tasks.", found$what, head), sprintf("It reads %s.",
    quoted(deparse1(expr))), suggestion(as.character(argument), tasks))
}

# `zone[2]` where it is the name of an input.
family_member <- function(expr, found) {
  if (!rlang::is_call(expr, "[", n = 2) || !is.symbol(expr[[2]])) return(NULL)
  name <- normal_name(sprintf("%s[%s]", as.character(expr[[2]]), paste(as.character(expr[[3]]), collapse = "")))
  if (is_known(name, found)) return(as.symbol(name))
  if (is.null(family_named(expr[[2]], found))) return(NULL)
  if (!is_known(name, found)) {
    stop_unknown_name(name, family_named(expr[[2]], found), sprintf("a member of the family %s", quoted(expr[[2]])))
  }
  found$families <- TRUE
  as.symbol(name)
}

stop_bare_family <- function(name, members, found) {
  stop_ensayo("formula", sprintf("%s must use a family inside a function of several.", found$what),
    sprintf("%s stands for %s.", quoted(name), count_of(length(members), "input")),
    sprintf("Write `sum(%s)`, `mean(%s)`, `max(%s)`, `weighted_sum(%s, ...)`, or one member as `%s`.", name, name, name,
      name, members[1]), name = name)
}

# `weighted_sum(zone, weights)`: each member times its own weight, which are constants or another family.
read_weighted_sum <- function(expr, found) {
  members <- if (length(expr) == 3) family_named(expr[[2]], found)
  if (is.null(members)) {
    stop_ensayo("formula", sprintf("%s: `weighted_sum()` takes a family or group, and its weights.", found$what),
      sprintf("It reads %s.", quoted(deparse1(expr))), suggestion(deparse1(expr[[2]]),
        names(attr(found$known, "groups"))))
  }
  weights <- family_named(expr[[3]], found)
  weights <- if (!is.null(weights)) lapply(weights, as.symbol) else constant_weights(expr[[3]], found)
  if (length(weights) != length(members)) {
    stop_ensayo("formula", sprintf("%s: `weighted_sum()` takes a weight for each member.", found$what),
      sprintf("%s has %d members; there are %d weights.", quoted(expr[[2]]), length(members), length(weights)))
  }
  found$families <- TRUE
  terms <- Map(function(weight, member) call("*", weight, as.symbol(member)), weights, members)
  read_arguments(as.call(c(quote(sum), unname(terms))), found)
}

constant_weights <- function(expr, found) {
  value <- if (is.null(found$env)) literal_choices(expr) else {
    found$from_session <- found$from_session || length(free_names(expr)) > 0
    tryCatch(eval(expr, found$env), error = function(e) NULL)
  }
  if (is.null(found$env) && is.null(value) && rlang::is_call(expr, "c")) {
    value <- unlist(lapply(as.list(expr)[-1], signed_number))
  }
  if (is.numeric(value) && !anyNA(value)) return(as.list(as.double(value)))
  stop_ensayo("formula", sprintf("%s: the weights must be numbers or another family.", found$what),
    sprintf("They are %s.", quoted(deparse1(expr))))
}

signed_number <- function(expr) {
  if (is.numeric(expr)) expr else if (rlang::is_call(expr, "-", n = 1) && is.numeric(expr[[2]])) -expr[[2]] else NA
}
