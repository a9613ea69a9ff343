# Result folders: all of a result as files that other programs can read, and that read back as the same result.

result_files <- c(
  manifest.json = "seed, runs, design, versions, hash of the study, times",
  study.yml = "the study as run", runs.csv = "every run: inputs that vary, outputs",
  failures.csv = "failed runs and why", statistics.csv = "statistics of every output",
  statistics.json = "statistics, percentiles, chances, pass rates and drivers, for programs"
)

#' Result folders
#'
#' `write_result()` writes a result as files: `manifest.json`, `study.yml` (the study as run; `study.rds` instead
#' where a formula uses functions of your own), `runs.csv`, `failures.csv` (where a run failed), `statistics.csv` and
#' `statistics.json`. `read_result()` makes the same result of them again, to the last bit. The manifest is written
#' last: a folder without one holds no whole result.
#'
#' @param result A result.
#' @param dir Text: the folder. `write_result()` makes it where it is not there.
#' @param overwrite `TRUE` to replace a result that the folder holds; other files in it stay.
#' @param percentiles Numeric from 0 to 100: the percentiles in the statistics.
#' @return `write_result()`: `dir`, invisibly. `read_result()`: a result.
#' @section Errors: `ensayo_error_file` where the folder cannot be written or read, holds a result already, or holds
#'   none.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = flow / 0.049) |>
#'   simulate(nsim = 100, seed = 11)
#' dir <- tempfile("gravity-main-")
#' write_result(res, dir)
#' list.files(dir)
#' identical(summary(read_result(dir)), summary(res))
#' @export
write_result <- function(result, dir, overwrite = FALSE, percentiles = c(5, 10, 50, 90, 95)) {
  check_result(result)
  percentiles <- check_percentiles(percentiles)
  prepare_result_folder(check_string(dir), check_flag(overwrite))
  write_result_files(result, dir, list(percentiles = percentiles, chances = list()))
  invisible(dir)
}

# Asked before a simulation starts, so that no work is done for a folder that cannot take it.
prepare_result_folder <- function(dir, overwrite) {
  if (file.exists(dir) && !dir.exists(dir)) {
    stop_ensayo("file", sprintf("%s must be a folder.", dir), "It is a file.", file = dir)
  }
  if (!dir.exists(dir)) suppressWarnings(dir.create(dir, recursive = TRUE))
  # asking the file system is not enough: some say yes to a user who may do anything
  probe <- tempfile("ensayo-probe-", dir)
  written <- dir.exists(dir) && suppressWarnings(file.create(probe))
  if (!written) {
    stop_ensayo("file", sprintf("%s must be a folder that can be written.", dir), "It cannot be written.",
      "Choose another folder.", file = dir)
  }
  unlink(probe)
  held <- intersect(c(names(result_files), "study.rds"), list.files(dir))
  if (length(held) && !overwrite) {
    stop_ensayo("file", sprintf("%s must not hold a result yet.", dir),
      sprintf("It holds %s.", paste(held, collapse = ", ")),
      "Choose another folder, or replace it with `overwrite = TRUE` (`--force` on the command line).", file = dir)
  }
  unlink(file.path(dir, held))
}

write_result_files <- function(result, dir, readings) {
  into <- function(name) file.path(dir, name)
  if (uses_own_functions(result$study)) saveRDS(result$study, into("study.rds"))
  else write_file_lines(result_study_lines(result, readings), into("study.yml"))
  write_csv(unclass_table(as.data.frame(result)), into("runs.csv"))
  if (nrow(result$failures)) write_csv(result$failures, into("failures.csv"))
  write_csv(unclass_table(summary(result, percentiles = readings$percentiles)), into("statistics.csv"))
  write_file_lines(to_json(result_statistics(result, readings)), into("statistics.json"))
  write_file_lines(to_json(result_manifest(result, list.files(dir))), into("manifest.json"))
}

# Every reading a program may want, as plain tables.
result_statistics <- function(result, readings) {
  list(
    study = result$study$title, outputs = unclass_table(summary(result, percentiles = readings$percentiles)),
    percentiles = unclass_table(percentiles(result, readings$percentiles)),
    chances = unclass_table(chances_of(result, readings$chances)),
    pass_rates = if (length(result$study$specs)) unclass_table(pass_rate(result)) else list(),
    drivers = unclass_table(drivers(result)), correlations = correlation_table(result)
  )
}

# The chances a file asks for; an empty table where it asks for none.
chances_of <- function(result, conditions) {
  counts <- lapply(evaluate_conditions(result, conditions), count_met)
  new_table(c(list(condition = names(conditions) %||% character()), share_columns(counts, "chance")))
}

uses_own_functions <- function(study) {
  formulas <- c(lapply(study$outputs, function(output) output$formula), study$specs)
  any(vapply(formulas, function(formula) length(formula$functions) > 0, TRUE))
}

# The study with what this run was asked for, so that the file alone repeats it.
result_study_lines <- function(result, readings) {
  p <- result$provenance
  run <- list(runs = p$nsim, seed = p$seed, design = p$design)
  if (p$replicates > 1) run$replicates <- p$replicates
  if (p$block != block_size(p$nsim / p$replicates)) run$block <- p$block
  study_lines(result$study, run = run, readings = list(
    percentiles = readings$percentiles, chances = lapply(readings$chances, file_formula)
  ) |> Filter(f = length))
}

result_manifest <- function(result, files) {
  p <- result$provenance
  list(format = 1, title = result$study$title, seed = if (is.character(p$seed)) p$seed else json_number(p$seed),
    runs = json_number(p$nsim), design = p$design, replicates = json_number(p$replicates), block = json_number(p$block),
    hash = p$hash, ensayo = p$ensayo, r = p$r, platform = p$platform, maths = p$maths, cpu = p$cpu, started = p$started,
    seconds = json_number(p$seconds), failed_runs = length(unique(result$failures$run)), warnings = result$warnings,
    files = sort(files))
}

# JSON with every digit: the library stops at 15.
json_number <- function(x) structure(cpp_number_text(x), class = "json")

to_json <- function(x) jsonlite::toJSON(x, auto_unbox = TRUE, digits = NA, na = "null", null = "null", pretty = TRUE,
  json_verbatim = TRUE)

#' @rdname write_result
#' @export
read_result <- function(dir) read_result_folder(dir)$result

# The folder's result, and the readings it was written with.
read_result_folder <- function(dir) {
  manifest <- read_manifest(check_string(dir))
  saved <- if (file.exists(file.path(dir, "study.yml"))) read_study_file(file.path(dir, "study.yml"))
    else list(study = read_saved_study(file.path(dir, "study.rds")),
      readings = list(percentiles = c(5, 10, 50, 90, 95)))
  study <- saved$study
  table <- read_csv_text(file.path(dir, "runs.csv"))
  check_run_columns(table, study, manifest, file.path(dir, "runs.csv"))
  draws <- lapply(stats::setNames(nm = varying_names(study)),
    function(name) read_draws(table[[name]], study$inputs[[name]]))
  outputs <- lapply(stats::setNames(nm = output_order(study$outputs)), function(name) read_output_column(table[[name]]))
  result <- new_result(
    study = study, draws = draws, outputs = outputs, failures = read_failures(file.path(dir, "failures.csv")),
    warnings = read_warnings(manifest$warnings), base = base_case_of(study, study_evaluator(study)),
    provenance = manifest_provenance(manifest)
  )
  list(result = result, readings = saved$readings)
}

read_manifest <- function(dir) {
  file <- file.path(dir, "manifest.json")
  if (!file.exists(file)) {
    stop_ensayo("file", sprintf("%s must be a result folder.", dir),
      if (dir.exists(dir)) "It holds no manifest.json." else "There is no such folder.",
      "`ensayo run` and `write_result()` make one.", file = dir)
  }
  manifest <- rethrow_as(jsonlite::fromJSON(read_file_text(file)), "file", sprintf("%s must be a manifest.", file),
    file = file)
  missing <- setdiff(c("format", "seed", "runs", "design", "replicates", "block", "hash"), names(manifest))
  if (length(missing)) {
    stop_ensayo("file", sprintf("%s must be a manifest.", file), sprintf("It has no key %s.", quoted(missing[1])),
      file = file)
  }
  manifest
}

read_saved_study <- function(file) {
  study <- rethrow_as(suppressWarnings(readRDS(file)), "file", sprintf("%s must hold the study.", file), file = file)
  check_study(study)
  study
}

check_run_columns <- function(table, study, manifest, file) {
  missing <- setdiff(c("run", varying_names(study), names(study$outputs)), names(table))
  if (length(missing)) {
    stop_ensayo("file", sprintf("%s must have a column for each input that varies and each output.", file),
      sprintf("It has no column %s.", quoted(missing[1])), name = missing[1], file = file)
  }
  if (nrow(table) != manifest$runs) {
    stop_ensayo("file", sprintf("%s must have %s, as the manifest says.", file, count_of(manifest$runs, "row")),
      sprintf("It has %d.", nrow(table)), "Was it cut off or edited?", file = file)
  }
}

read_draws <- function(texts, input) if (is_categorical(input$law)) texts else cpp_read_numbers(texts)

read_output_column <- function(texts) {
  if (any(texts %in% c("TRUE", "FALSE"))) as.logical(texts) else cpp_read_numbers(texts)
}

read_failures <- function(file) {
  if (!file.exists(file)) return(data.frame(run = numeric(), output = character(), reason = character()))
  table <- read_csv_text(file)
  data.frame(run = cpp_read_numbers(table$run), output = table$output, reason = table$reason)
}

read_warnings <- function(warnings) {
  if (is.data.frame(warnings)) warnings else data.frame(output = character(), message = character())
}

manifest_provenance <- function(manifest) {
  list(seed = if (is.character(manifest$seed)) manifest$seed else as.double(manifest$seed),
    nsim = as.double(manifest$runs), design = manifest$design, replicates = as.double(manifest$replicates),
    block = as.double(manifest$block), hash = manifest$hash, ensayo = manifest$ensayo, r = manifest$r,
    platform = manifest$platform, maths = manifest$maths, cpu = manifest$cpu, started = manifest$started,
    seconds = as.double(manifest$seconds))
}
