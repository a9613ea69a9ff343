# Runs made elsewhere, as a result.

#' Read runs that were made elsewhere
#'
#' Makes a result of a table of inputs and outputs, whoever made it: all readings, drivers and figures work on it. Without a
#' `study` the inputs' laws are what the table holds. With one, the table holds what came back for draws that were given
#' out ([draw_inputs()] writes them): runs are matched by their number, and inputs that differ from what was drawn are an
#' error.
#'
#' @param file Text: the path of a CSV or Parquet file with a row for each run and a header; or a data frame.
#' @param inputs Names of the columns that are inputs. With a `study`, its own.
#' @param outputs Names of the columns that are outputs, or a named list of [output()]s without formulas, which say unit,
#'   label and kind; all other columns (besides `run`, `replicate` and `failed`) when left out.
#' @param ... Not used; anything here is an error.
#' @param study A study: the inputs that were drawn. Its own outputs, if any, are left out.
#' @param nsim,seed,design,replicates As they were drawn.
#' @param title Text: the title of a study that is made of the table; the file's name when left out.
#' @return A result. A value that is missing or not finite is a failed run; so is a run that did not come back, with a
#'   warning of class `ensayo_warning_missing_runs`. It has no base case.
#' @section Errors: `ensayo_error_file` where the file cannot be read; `ensayo_error_name` for columns that are not there;
#'   `ensayo_error_argument` for runs that are doubled or have other inputs than were drawn, and columns that are no numbers.
#' @examples
#' made <- data.frame(speed = c(900, 1100, 1300, 1500), load = c(2, 3, 2, 4),
#'   wear = c(1.1, 1.9, 2.2, 4.8))
#' read_runs(made, inputs = c("speed", "load"))
#'
#' pump <- study("Pump") |> add_inputs(speed = law_uniform(900, 1500), load = law_uniform(2, 4))
#' given <- draw_inputs(pump, nsim = 50, seed = 11)   # for somebody else to run
#' given$wear <- given$speed * given$load / 1000
#' res <- read_runs(given, outputs = list(wear = output(unit = "mm")), study = pump, nsim = 50,
#'   seed = 11)
#' drivers(res)
#' @export
read_runs <- function(file, inputs = NULL, outputs = NULL, ..., study = NULL, nsim = NULL, seed = NULL, design = "latin",
                      replicates = 1, title = NULL) {
  check_no_dots(..., .options = c("study", "nsim", "seed", "design", "replicates", "title"))
  table <- runs_table(file)
  if (nrow(table) == 0) stop_ensayo("file", "The table must hold runs.", "It has no row.")
  title <- check_string(title, null = TRUE) %||% if (is.data.frame(file)) "Runs" else sub("[.][^.]*$", "", basename(file))
  if (is.null(study)) {
    inputs <- known_columns(inputs, table, "inputs")
    study <- study_of_runs(table[inputs], title)
    plan <- draw_plan(nrow(table), 1, "random", 1, NULL, NULL)
    draws <- lapply(table[varying_names(study)], function(x) if (is.character(x)) x else as.double(x))
    at <- seq_len(nrow(table))
  } else {
    check_study(study)
    validate_inputs(study)
    if (!is.null(inputs)) stop_argument("inputs", "left out with a `study`", inputs)
    numbers <- run_numbers_of(table)
    plan <- draw_plan(nsim %||% max(numbers), seed %||% stop_argument("seed", "the seed of the draws", seed), design, replicates,
      NULL, NULL)
    draws <- draw_columns(study, plan, 0, plan$nsim)
    flat <- flat_draws(study, draws, plan$nsim, plan)
    check_drawn(table, flat, numbers, plan$nsim)
    at <- match(seq_len(plan$nsim), numbers)
    inputs <- names(study$inputs)
    outputs <- outputs %||% setdiff(names(table), names(flat))
  }
  study <- with_outputs_of_runs(study, outputs, table, inputs)
  result_of_runs(study, plan, draws, table, at)
}

runs_table <- function(file) {
  if (is.data.frame(file)) return(as.data.frame(file))
  check_string(file)
  if (!grepl("[.]parquet$", file)) {
    table <- read_table_file(file)
    table[] <- lapply(table, typed_texts)
    return(table)
  }
  if (!file.exists(file)) stop_ensayo("file", sprintf("%s must be there.", file), "It is not.", file = file)
  rethrow_as(as.data.frame(nanoparquet::read_parquet(file)), "file", sprintf("%s must be a Parquet file.", file), file = file)
}

# Texts of a column as what all of them are, empty ones aside; else they stay.
typed_texts <- function(x) {
  missing <- x %in% c("", "NA")
  values <- if (all(missing)) NA_real_ else value_of_text(x[!missing])
  if (anyNA(values) && !all(missing)) return(x)
  typed <- rep(values[NA_integer_], length(x))
  typed[!missing] <- values
  typed
}

known_columns <- function(names, table, arg, call = rlang::caller_env()) {
  if (!is.character(names) || length(names) == 0) {
    stop_argument(arg, "names of columns of the table", names, sprintf("It has %s.", and_list(quoted(names(table)))), call)
  }
  unknown <- setdiff(names, names(table))
  if (length(unknown)) stop_unknown_name(unknown[1], names(table), "a column of the table", call = call)
  names
}

# Laws that are what the table holds.
study_of_runs <- function(inputs, title) {
  laws <- lapply(names(inputs), function(name) {
    x <- inputs[[name]]
    if (is.factor(x)) x <- as.character(x)
    if (anyNA(x)) stop_argument(name, "a column without missing values, for it is an input", NA)
    if (is.character(x)) {
      counts <- table(x)
      return(if (length(counts) > 1) law_discrete(names(counts), as.vector(counts) / length(x))
        else stop_argument(name, "a column of numbers, or of several categories", x[1]))
    }
    x <- as.double(x)
    if (length(unique(x)) == 1) x[1] else law_empirical(x)
  })
  add_inputs(study(title), stats::setNames(laws, names(inputs)))
}

run_numbers_of <- function(table, call = rlang::caller_env()) {
  numbers <- table[["run"]] %||% seq_len(nrow(table))
  if (!is.numeric(numbers) || anyNA(numbers) || any(numbers < 1 | numbers != floor(numbers))) {
    stop_argument("run", "a column of run numbers", numbers, call = call)
  }
  numbers
}

# What came back must be for what was given out.
check_drawn <- function(table, draws, numbers, nsim, call = rlang::caller_env()) {
  report <- function(expected, runs, more = "") {
    stop_ensayo("argument", expected, sprintf("%s: %s%s.", if (length(runs) == 1) "Run" else "Runs",
      paste(utils::head(format(runs, trim = TRUE, scientific = FALSE), 5), collapse = ", "), more), runs = runs, call = call)
  }
  doubled <- unique(numbers[duplicated(numbers)])
  if (length(doubled)) report("Each run must stand once in the table; these stand more often.", doubled)
  beyond <- numbers[numbers > nsim]
  if (length(beyond)) report(sprintf("Runs must have numbers up to %s, as many as were drawn.", format_given(nsim)), beyond)
  for (name in intersect(names(draws), names(table))) {
    drawn <- draws[[name]][numbers]
    came <- table[[name]]
    if (is.factor(came)) came <- as.character(came)
    # ten digits are what files of others keep at least
    differs <- if (is.character(drawn)) came != drawn else abs(as.double(came) - drawn) > 1e-6 * pmax(abs(drawn), 1e-300)
    bad <- which(differs | is.na(differs))
    if (length(bad)) {
      report(sprintf("Inputs must be those that were drawn; %s differs.", quoted(name)), numbers[bad],
        sprintf(" (%s in the first, drawn %s)", format(came[bad[1]], digits = 8), format(drawn[bad[1]], digits = 8)))
    }
  }
}

with_outputs_of_runs <- function(study, outputs, table, inputs, call = rlang::caller_env()) {
  outputs <- outputs %||% names(table)
  if (is.character(outputs)) outputs <- setdiff(outputs, c(inputs, "run", "replicate", "failed", "index"))
  if (length(outputs) == 0) stop_argument("outputs", "names of columns that are no inputs", outputs, call = call)
  declared <- declared_outputs(outputs, call)
  known_columns(names(declared), table, "outputs", call)
  given <- Map(function(output, name) {
    output <- output %||% new_output(NULL)
    if (inherits(table[[name]], "Date")) output$kind <- "date"
    if (is.character(table[[name]]) && !all(is.na(value_of_text(table[[name]])))) return(output)  # some are numbers
    if (!is_output_value(table[[name]]) && !all(is.na(table[[name]]))) {
      stop_argument(name, "a column of numbers, dates or TRUE and FALSE", table[[name]], call = call)
    }
    output
  }, declared, names(declared))
  study$outputs <- list()
  names(given) <- check_new_names(given, "output", names(study$inputs))
  with_model(study, "elsewhere", list(kind = "elsewhere", name = "elsewhere", uses = stats::setNames(nm = inputs),
    gives = names(given), steps = lapply(given, function(output) NULL)), given)
}

result_of_runs <- function(study, plan, draws, table, at) {
  names <- names(study$outputs)
  as_given <- function(name) table[[match(name, names(table))]]
  values <- lapply(stats::setNames(nm = names), function(name) {
    x <- as_given(name)[at]
    if (is.character(x)) value_of_text(ifelse(is.na(x), "", x)) else if (is.logical(x) && !all(is.na(x))) x else as.double(x)
  })
  absent <- which(is.na(at))
  rows <- lapply(names, function(name) {
    bad <- which(!is.finite(values[[name]]))
    rows_of(run = as.double(bad), output = rep(name, length(bad)), folder = rep("", length(bad)),
      step = rep("", length(bad)), reason = ifelse(bad %in% absent, "it did not come back",
        broken_or_text(values[[name]][bad], as_given(name)[at[bad]])))[
        names(no_failures)]
  })
  failures <- stacked(rows)
  values <- lapply(values, function(x) replace(x, !is.finite(x), NA))
  if (length(absent)) {
    warn_ensayo(c(sprintf("%s did not come back.", count_of(length(absent), "run")), x = sprintf("The first is run %s.",
      format_given(absent[1])), i = "They count as failed, and are in the list of failures (`failures()`)."), "missing_runs", runs = absent)
  }
  columns <- c(lapply(draws, kept_column), values)
  base <- list(inputs = base_values(study), outputs = lapply(values, function(x) NA_real_),
    failures = data.frame(output = names, reason = "runs that were made elsewhere have no base case"))
  new_result(study, memory_store(columns, column_kinds(study, columns)), failures[order(failures$run), ], no_warnings, base,
    new_provenance(study, plan, Sys.time()))
}

broken_or_text <- function(value, given) {
  words <- broken_words(value)
  text <- is.character(given) & is.na(value) & !given %in% c("", "NA", NA)
  words[text] <- sprintf("\"%s\" is no number", substr(given[text], 1, 40))
  words
}
