# A law is one value, though R sees a list: what would take the list apart says what to do instead.

#' Laws as values
#'
#' A number may be added to a law or multiply it, which shifts and stretches it: `2 * law + 1`, `law / 1000`, `-law`.
#' Laws are not combined with each other this way: name them as inputs and write the formula with [add_outputs()], so
#' that it is evaluated run by run.
#'
#' `law$mean` reads one parameter by its full name.
#'
#' @param e1,e2 A law and a number.
#' @return A law.
#' @section Errors: `ensayo_error_argument` for any other operation.
#' @examples
#' law_normal(15, 2) * 1.8 + 32
#' parameters(law_pert(1, 2, 4) / 1000)
#' @name law_arithmetic
NULL

#' @rdname law_arithmetic
#' @export
Ops.ensayo_law <- function(e1, e2) {
  unary <- nargs() == 1
  if (unary && .Generic == "-") return(scale_law(e1, -1))
  if (unary && .Generic == "+") return(e1)
  law_first <- is_law(e1)
  if (unary || (law_first && is_law(e2))) stop_law_operation(.Generic)
  law <- if (law_first) e1 else e2
  number <- check_number(if (law_first) e2 else e1, sprintf("the number in `law %s number`", .Generic))
  switch(.Generic,
    "+" = scale_law(law, 1, number),
    "-" = if (law_first) scale_law(law, 1, -number) else scale_law(law, -1, number),
    "*" = scale_law(law, number),
    "/" = if (law_first && number != 0) scale_law(law, 1 / number) else stop_law_operation(.Generic),
    stop_law_operation(.Generic)
  )
}

stop_law_operation <- function(operation, call = rlang::caller_env(2)) {
  stop_ensayo("argument", "A number may be added to a law or multiply it, and nothing more.",
    sprintf("%s was asked of a law.", quoted(operation)),
    "Make the laws inputs and write the formula in `add_outputs()`: it is evaluated run by run.",
    operation = operation, call = call)
}

#' @export
Math.ensayo_law <- function(x, ...) stop_law_operation(.Generic)

#' @export
Summary.ensayo_law <- function(..., na.rm = FALSE) {
  stop_ensayo("argument", sprintf("%s does not apply to a law.", quoted(.Generic)), NULL,
    "The smallest and largest possible value are `support(law)`.", operation = .Generic)
}

#' @export
c.ensayo_law <- function(...) {
  stop_ensayo("argument", "Laws are not joined by `c()`.", NULL, "Collect them with `list()`.", operation = "c")
}

#' @export
rep.ensayo_law <- function(x, ...) {
  stop_ensayo("argument", "A law is not repeated by `rep()`.", NULL, "Collect copies with `rep(list(law), n)`.",
    operation = "rep")
}

#' @export
is.na.ensayo_law <- function(x) FALSE

#' @export
length.ensayo_law <- function(x) 1L

#' @export
`$.ensayo_law` <- function(x, name) {
  if (!name %in% names(parameters_of(x))) {
    stop_unknown_name(name, names(parameters_of(x)), "a parameter of this law, written in full")
  }
  parameters_of(x)[[name]]
}

#' @export
as.data.frame.ensayo_law <- function(x, ...) {
  stop_ensayo("argument", "A law is not a table.", NULL,
    "`summary(law)` gives a table of one row; `parameters(law)` its parameters.", operation = "as.data.frame")
}

#' @export
as.character.ensayo_law <- function(x, ...) format(x)
