# Correlations from files and data, and whole rows of a data set in their place.

#' Matrices of correlations in files, and from data
#'
#' `write_correlation()` writes the matrix of a study's inputs that vary, blank where nothing is given, to be filled
#' in with any spreadsheet; `read_correlation()` reads it back, for [add_correlation()]. `estimate_correlation()`
#' makes such a matrix from observations.
#'
#' @param study A study.
#' @param file Text: the path of a CSV file with names along both sides. Blank cells are 0; one triangle is enough.
#' @param inputs Names of inputs; all that vary when left out.
#' @param overwrite `TRUE` to replace a file that is there.
#' @param data A data frame with a column for each input, of numbers; rows with a missing cell are left out.
#' @param kind `"rank"` or `"score"`, as in [add_correlation()].
#' @return `read_correlation()` and `estimate_correlation()`: a symmetric matrix with names. `write_correlation()`:
#'   `file`, invisibly.
#' @section Errors: `ensayo_error_file` where the file is not such a matrix, with the cell; `ensayo_error_argument`
#'   where the data are not columns of numbers, or there are fewer than three whole rows.
#' @section Source: rank correlations are Spearman's rho with mean ranks for ties; scores are
#'   \eqn{\Phi^{-1}(rank/(n+1))}.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(demand = law_pert(28, 34, 48), friction = law_lognormal(mean = 0.021, sd = 0.003))
#' file <- tempfile(fileext = ".csv")
#' write_correlation(main, file)
#' cat(readLines(file), sep = "\n")
#' main |> add_correlation(read_correlation(file))
#' observed <- data.frame(demand = c(30, 35, 33, 41), friction = c(0.019, 0.022, 0.020, 0.023))
#' main |> add_correlation(estimate_correlation(observed))
#' @export
write_correlation <- function(study, file, inputs = NULL, overwrite = FALSE) {
  check_study(study)
  inputs <- resolve_names(rlang::enquo(inputs), varying_names(study), "an input of the study that varies")
  refuse_existing(check_string(file), check_flag(overwrite))
  m <- correlation_matrix(study, inputs)
  cells <- ifelse(m == 0, "", cpp_number_text(m))
  dim(cells) <- dim(m)
  cells[upper.tri(cells)] <- ""
  table <- data.frame(inputs, cells)
  names(table) <- c("", inputs)
  write_csv(table, file)
  invisible(file)
}

#' @rdname write_correlation
#' @export
read_correlation <- function(file) {
  table <- read_table_file(check_string(file))
  rows <- normal_name(table[[1]])
  columns <- names(table)[-1]
  name <- basename(file)
  if (!setequal(rows, columns) || anyDuplicated(rows) || length(rows) != length(columns)) {
    odd <- c(setdiff(rows, columns), setdiff(columns, rows), rows[duplicated(rows)])[1]
    stop_ensayo("file", sprintf("%s must have the same names along both sides, each once.", name),
      sprintf("%s does not stand on both.", quoted(odd)), name = odd, file = file)
  }
  cells <- vapply(table[-1], trimws, character(length(rows)))
  m <- matrix(cpp_read_numbers(cells), length(rows), dimnames = list(rows, columns))
  m[!nzchar(cells)] <- 0
  for (at in which(is.na(m))) {
    place <- sprintf("%s, row %s, column %s", name, quoted(rows[row(m)[at]]), quoted(columns[col(m)[at]]))
    m[at] <- read_number(cells[at], place)
  }
  m <- m[, rows, drop = FALSE]
  differ <- which(m != t(m) & m != 0 & t(m) != 0, arr.ind = TRUE)
  if (nrow(differ)) {
    pair <- rows[differ[1, ]]
    stop_ensayo("file", sprintf("%s must say the same on both sides of its diagonal.", name),
      sprintf("Of %s and %s it says %s and %s.", quoted(pair[1]), quoted(pair[2]), format(m[pair[1], pair[2]]),
        format(m[pair[2], pair[1]])), file = file)
  }
  m <- ifelse(m == 0, t(m), m)
  diag(m)[diag(m) == 0] <- 1
  m
}

#' @rdname write_correlation
#' @export
estimate_correlation <- function(data, kind = "rank") {
  kind <- check_choice(kind, correlation_kinds)
  data <- check_data_columns(data)
  whole <- stats::complete.cases(data)
  if (sum(whole) < 3) stop_argument("data", "at least three rows without a missing cell", sum(whole))
  ranks <- do.call(cbind, mid_ranks(data[whole, , drop = FALSE]))
  constant <- names(data)[apply(ranks, 2, function(x) min(x) == max(x))]
  if (length(constant)) {
    stop_argument("data", "columns that vary", constant[1], "A column of one value has no correlation.")
  }
  m <- stats::cor(if (kind == "score") stats::qnorm(ranks / (sum(whole) + 1)) else ranks)
  diag(m) <- 1
  (m + t(m)) / 2
}

check_data_columns <- function(data, call = rlang::caller_env()) {
  if (!is.data.frame(data) || ncol(data) < 2 || !all(vapply(data, is.numeric, TRUE))) {
    stop_argument("data", "a data frame of two or more columns of numbers", data, call = call)
  }
  if (any(vapply(data, function(column) any(is.infinite(column)), TRUE))) {
    stop_argument("data", "finite numbers", Inf, call = call)
  }
  data
}

#' Inputs drawn as whole rows of a data set
#'
#' Adds an input for each column of a data set, which in each run have the values of one row: whatever dependence the
#' columns have is kept. Each row is equally likely.
#'
#' @param .study A study.
#' @param data A data frame of two or more columns of finite numbers, in the inputs' units, without missing cells; the
#'   columns' names become the inputs'.
#' @param .unit Texts named by column, or `NULL`: the inputs' units.
#' @param .steps,.block As `steps` and `block` of [input()]: a row is drawn anew at each step, or a stretch of rows as recorded.
#' @return The study with the inputs added. They share one uncertainty, that of the first, and cannot be correlated
#'   with others of the data set.
#' @section Errors: `ensayo_error_argument` where the data are not such columns; `ensayo_error_name` for a name that
#'   is taken.
#' @examples
#' summer <- data.frame(rain = c(0, 0, 12, 3, 30), demand = c(44, 46, 35, 40, 29))
#' study("Tank") |>
#'   add_rows(summer, .unit = c(rain = "mm", demand = "L/s")) |>
#'   add_outputs(need = demand - rain / 10) |>
#'   simulate(nsim = 1000, seed = 11)
#' @export
add_rows <- function(.study, data, .unit = NULL, .steps = NULL, .block = NULL) {
  check_study(.study)
  data <- check_data_columns(data)
  if (anyNA(data)) stop_argument("data", "without missing cells", NA, "Leave such rows out first.")
  names <- check_new_names(stats::setNames(as.list(data), names(data)), "input", quantity_names(.study))
  unknown <- setdiff(names(.unit), names)
  if (length(unknown)) stop_unknown_name(unknown[1], names, "a column of the data")
  for (i in seq_along(names)) {
    column <- as.double(data[[i]])
    # a column that never varies is a constant
    if (min(column) == max(column)) {
      .study <- add_inputs(.study, !!names[i] := input(column[1], unit = unit_of_column(.unit, names[i])))
      next
    }
    new <- stepped_input(input(new_law("rows", list(data = column)), unit = unit_of_column(.unit, names[i])), .steps, 0, .block)
    leader <- intersect(names[seq_len(i - 1)], varying_names(.study))
    if (length(leader)) new$shares <- leader[1]
    .study <- add_inputs(.study, !!names[i] := new)
  }
  .study
}

unit_of_column <- function(units, name) if (name %in% names(units)) units[[name]]

# Like the empirical law, but drawn by the row a value stands in (draw_from()).
family_rows <- list(
  title = "Rows",
  about = "A column of a data set whose rows are drawn whole.",
  kind = "data",
  discrete = function(par) TRUE,
  parameters = c(data = "numbers"),
  canonical = function(par) family_empirical$canonical(list(data = par$data, interpolate = FALSE))
)

law_rows <- function(data) new_law("rows", list(data = check_numbers(data, "data", 1, rlang::current_env())))
