# Readers: where an output stands in what a program wrote.

#' Where an output stands in what a program wrote
#'
#' Readers for the outputs of [add_program()]: each takes one number, or a series, from a file of the run's folder or from
#' what the program printed.
#'
#' @param line Whole number: the line, counted from the first; from the last where it is negative.
#' @param column Whole number or text. In a line: which of the parts between white space (or `separator`); negative ones are
#'   counted from the last. `from = 21, to = 28` takes a part by its places instead. In CSV: the column's name or number.
#' @param file Text: a file in the run's folder; `NULL` for standard output.
#' @param after Text: lines are counted from the one after the first line that holds this text.
#' @param separator Text between the parts of a line; white space when `NULL`. Of CSV: one character.
#' @param from,to Whole numbers: the first and the last place of the number in its line, for formats of fixed columns.
#' @param text Text: what stands before the number; or with `regex` a regular expression (Perl's) whose first group is the
#'   number.
#' @param match Whole number: which of the places where the text stands; negative ones are counted from the last. `NULL`
#'   takes all of them as a series.
#' @param regex `TRUE` where `text` is a regular expression.
#' @param row Whole number: the row below the header; negative ones are counted from the last. `NULL` takes all rows as a
#'   series.
#' @param header `FALSE` where the first line is a row like the others; columns have numbers then.
#' @param pointer Text: a JSON pointer such as `"/tap/pressure"` or `"/levels/0"` (RFC 6901); one to a list of numbers
#'   gives a series. `""` is the whole.
#' @return A reader, for [add_program()].
#' @details Numbers may be written as `1.5e3`, `1.5E+03`, or with Fortran's `D`; `TRUE`, `true`, `yes` and their opposites
#'   are 1 and 0, and a date as 2027-03-01 is a day. Anything else is a failure of the run.
#' @section Errors: `ensayo_error_argument` for arguments that are not of the stated kind.
#' @examples
#' from_text("Pressure at the last tap:")
#' from_line(3, column = 2, file = "listing.txt", after = "NODES")
#' from_csv("level", row = -1, file = "levels.csv")
#' from_json("/tap/pressure")
#' @export
from_line <- function(line, column = 1, file = NULL, after = NULL, separator = NULL, from = NULL, to = NULL) {
  places <- is.null(from) + is.null(to)
  if (places == 1) stop_argument("from", "given together with `to`", from)
  new_reader("line", file, line = check_place(line), column = check_place(column), after = check_string(after, null = TRUE),
    separator = check_string(separator, null = TRUE),
    from = if (!is.null(from)) check_count(from), to = if (!is.null(to)) check_count(to, at_least = from))
}

#' @rdname from_line
#' @export
from_text <- function(text, match = 1, file = NULL, regex = FALSE) {
  check_string(text)
  if (!nzchar(text)) stop_argument("text", "a text that stands before the number", text)
  if (check_flag(regex)) {
    groups <- tryCatch(attr(regexpr(text, "", perl = TRUE), "capture.start"), error = function(e) NULL,
      warning = function(w) NULL)
    if (is.null(groups)) {
      stop_argument("text", "a regular expression with a group, in brackets, for the number", text)
    }
  }
  new_reader("text", file, text = text, match = check_place(match, null = TRUE), regex = regex)
}

#' @rdname from_line
#' @export
from_csv <- function(column, row = 1, file = NULL, separator = ",", header = TRUE) {
  if (!is.character(column)) column <- check_count(column) else check_string(column)
  if (is.character(column) && !check_flag(header)) stop_argument("column", "a number where there is no header", column)
  if (nchar(check_string(separator)) != 1) stop_argument("separator", "one character", separator)
  new_reader("csv", file, column = column, row = check_place(row, null = TRUE), separator = separator,
    header = check_flag(header))
}

#' @rdname from_line
#' @export
from_json <- function(pointer, file = NULL) {
  check_string(pointer)
  if (!grepl("^(/([^~]|~[01])*)?$", pointer)) {
    stop_argument("pointer", "a JSON pointer, which begins with `/`", pointer, "Such as \"/tap/pressure\" or \"/levels/0\".")
  }
  new_reader("json", file, pointer = pointer)
}

check_place <- function(x, null = FALSE, call = rlang::caller_env()) {
  if (null && is.null(x)) return(NULL)
  name <- rlang::as_label(rlang::enexpr(x))
  if (!rlang::is_scalar_integerish(x, finite = TRUE) || x == 0) {
    stop_argument(name, "a whole number other than 0", x, "Negative ones are counted from the last.", call)
  }
  as.double(x)
}

new_reader <- function(kind, file, ...) {
  if (!is.null(check_string(file, null = TRUE, arg = "file"))) check_run_file(file)
  structure(c(list(kind = kind), Filter(Negate(is.null), list(file = file, ...))), class = "ensayo_reader")
}

is_reader <- function(x) inherits(x, "ensayo_reader") || is.function(x)

# A file of a run stands in its folder.
check_run_file <- function(file, arg = "file", call = rlang::caller_env()) {
  if (!nzchar(file) || grepl("^([/\\\\~]|[A-Za-z]:)|(^|[/\\\\])[.][.]([/\\\\]|$)|[[:cntrl:]]", file)) {
    stop_argument(arg, "the path of a file in the run's folder", file, "Such as \"listing.txt\" or \"out/levels.csv\".", call)
  }
  file
}
