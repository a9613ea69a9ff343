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
#' last: a folder without one holds no whole result. It carries a digest of each file and of itself, by which
#' `read_result()` sees whether anything was changed since.
#'
#' @param result A result.
#' @param dir Text: the folder. `write_result()` makes it where it is not there.
#' @param overwrite `TRUE` to replace a result that the folder holds; other files in it stay.
#' @param percentiles Numeric from 0 to 100: the percentiles in the statistics; `NULL` for the study's
#'   ([add_readings()]).
#' @param changed `TRUE` to read a folder that was changed after it was written, or made elsewhere: the result says so
#'   wherever it is shown.
#' @return `write_result()`: `dir`, invisibly. `read_result()`: a result.
#' @section Errors: `ensayo_error_file` where the folder cannot be written or read, holds a result already, or holds
#'   none, and where a file is not as it was written (unless `changed`). A folder whose study has functions of your own
#'   holds `study.rds`, a value of R: read such a folder only from people you trust.
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
write_result <- function(result, dir, overwrite = FALSE, percentiles = NULL) {
  check_result(result)
  check_whole(result, "Writing a folder")
  if (!is.null(percentiles)) result$study <- add_readings(result$study, .percentiles = percentiles)
  prepare_result_folder(check_string(dir), check_flag(overwrite))
  write_result_files(result, dir)
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

write_result_files <- function(result, dir) {
  into <- function(name) file.path(dir, name)
  if (uses_own_functions(result$study)) saveRDS(result$study, into("study.rds"))
  else write_file_lines(result_study_lines(result), into("study.yml"))
  write_csv(run_table(result), into("runs.csv"))
  if (nrow(result$failures)) write_csv(result$failures, into("failures.csv"))
  write_csv(unclass_table(summary(result)), into("statistics.csv"))
  write_file_lines(to_json(result_statistics(result)), into("statistics.json"))
  write_file_lines(to_json(result_manifest(result, dir)), into("manifest.json"))
}

# Every reading a program may want, as plain tables.
result_statistics <- function(result) {
  list(
    study = result$study$title, sense = result$study$readings$sense, outputs = unclass_table(summary(result)),
    percentiles = unclass_table(percentiles(result)), contingency = unclass_table(contingency(result)),
    chances = unclass_table(study_chances(result)),
    pass_rates = if (length(result$study$specs)) unclass_table(pass_rate(result)) else list(),
    drivers = unclass_table(drivers(result)), correlations = correlation_table(result)
  )
}

uses_own_functions <- function(study) {
  formulas <- c(lapply(study$outputs, function(output) output$formula), study$specs, study$readings$chances)
  any(vapply(formulas, function(formula) length(formula$functions) > 0, TRUE))
}

# The study with what this run was asked for, so that the file alone repeats it.
result_study_lines <- function(result) {
  p <- result$provenance
  run <- list(runs = p$nsim, seed = p$seed, design = p$design)
  if (p$replicates > 1) run$replicates <- p$replicates
  if (p$block != block_size(p$nsim / p$replicates)) run$block <- p$block
  study_lines(result$study, run)
}

result_manifest <- function(result, dir) {
  p <- result$provenance
  files <- sort(intersect(list.files(dir), c(names(result_files), "study.rds")))
  manifest <- list(format = 1, title = result$study$title,
    seed = if (is.character(p$seed)) p$seed else json_number(p$seed),
    runs = json_number(p$nsim), preview = if (!is.null(p$preview)) json_number(p$preview), design = p$design,
    replicates = json_number(p$replicates), block = json_number(p$block), hash = p$hash, ensayo = p$ensayo, r = p$r,
    platform = p$platform, maths = p$maths, cpu = p$cpu, started = p$started, seconds = json_number(p$seconds),
    failed_runs = length(unique(result$failures$run)), warnings = result$warnings,
    files = as.list(file_digests(dir, files)), until = p$until) |> Filter(f = Negate(is.null))
  c(manifest, digest = manifest_digest(manifest))
}

file_digests <- function(dir, files) stats::setNames(unname(tools::md5sum(file.path(dir, files))), files)

# Of everything a manifest says that a result rests on, as it reads back.
manifest_digest <- function(manifest) {
  said <- manifest[intersect(c("format", "title", "seed", "runs", "preview", "design", "replicates", "block", "hash",
    "files"), names(manifest))]
  text_hash(canonical_text(lapply(said, function(x) if (is.list(x)) unlist(x) else as.character(x))))
}

# JSON with every digit: the library stops at 15.
json_number <- function(x) structure(cpp_number_text(x), class = "json")

to_json <- function(x) jsonlite::toJSON(x, auto_unbox = TRUE, digits = NA, na = "null", null = "null", pretty = TRUE,
  json_verbatim = TRUE)

#' @rdname write_result
#' @export
read_result <- function(dir, changed = FALSE) {
  check_flag(changed)
  manifest <- read_manifest(check_string(dir))
  faults <- changes_since(manifest, dir)
  if (length(faults) && !changed) stop_changed(dir, faults)
  study <- if (file.exists(file.path(dir, "study.yml"))) read_study_file(file.path(dir, "study.yml"))$study
    else read_saved_study(file.path(dir, "study.rds"))
  if (study_hash(study) != manifest$hash) {
    if (!changed) stop_changed(dir, "the study is another than the one that was run")
    faults <- c(faults, "study")
  }
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
  if (length(faults)) result$provenance$changed <- TRUE
  result
}

# What in a folder is not as it was written.
changes_since <- function(manifest, dir) {
  if (is.null(manifest$digest) || is.null(manifest$files)) return("the manifest has no digests")
  said <- unlist(manifest$files)
  now <- file_digests(dir, names(said))
  c(if (!identical(manifest$digest, manifest_digest(manifest))) "manifest.json was changed",
    sprintf("%s is missing", names(said)[is.na(now)]),
    sprintf("%s was changed", names(said)[!is.na(now) & now != said]))
}

stop_changed <- function(dir, faults) {
  stop_ensayo("file", sprintf("%s must be as it was written.", dir), sprintf("Found: %s.", and_list(faults)),
    "Simulate again, or read it as it is: `read_result(dir, changed = TRUE)` (`--changed` on the command line).", file = dir)
}

read_manifest <- function(dir) {
  file <- file.path(dir, "manifest.json")
  if (!file.exists(file)) {
    stop_ensayo("file", sprintf("%s must be a result folder.", dir),
      if (dir.exists(dir)) "It holds no manifest.json." else "There is no such folder.",
      "`ensayo run` and `write_result()` make one.", file = dir)
  }
  # of a text: a reader that takes an address would fetch what a file says
  manifest <- rethrow_as(jsonlite::parse_json(read_file_text(file), simplifyVector = TRUE), "file",
    sprintf("%s must be a manifest.", file), file = file)
  check_manifest(manifest, file)
  manifest
}

# Every value a result is made of, by its type.
check_manifest <- function(manifest, file) {
  number <- function(x) is.numeric(x) && length(x) == 1 && is.finite(x)
  count <- function(x) number(x) && x >= 1 && x == floor(x)
  text <- function(x) rlang::is_string(x)
  asked <- list(format = function(x) identical(as.double(x), 1), title = text, seed = function(x) text(x) || number(x),
    runs = count, design = function(x) text(x) && x %in% designs, replicates = count, block = count, hash = text)
  may <- list(preview = count, ensayo = text, r = text, platform = text, maths = text, cpu = text, started = text,
    seconds = number, digest = text, files = is.list, until = is.data.frame, failed_runs = number,
    warnings = function(x) is.data.frame(x) || length(x) == 0)
  if (!is.list(manifest)) manifest <- list()
  checks <- c(asked, may[intersect(names(may), names(manifest))])
  for (key in names(checks)) {
    if (is.null(manifest[[key]]) || !isTRUE(checks[[key]](manifest[[key]]))) {
      came <- if (is.null(manifest[[key]])) sprintf("It has no key %s.", quoted(key))
        else sprintf("Its %s is %s.", quoted(key), shown_value(manifest[[key]]))
      stop_ensayo("file", sprintf("%s must be a manifest.", file), came, file = file)
    }
  }
}

read_saved_study <- function(file) {
  study <- rethrow_as(suppressWarnings(readRDS(file)), "file", sprintf("%s must hold the study.", file), file = file)
  check_study(study)
  study$readings <- study$readings %||% default_readings  # of a study saved before it had any
  study
}

check_run_columns <- function(table, study, manifest, file) {
  missing <- setdiff(c("run", varying_names(study), names(study$outputs)), names(table))
  if (length(missing)) {
    stop_ensayo("file", sprintf("%s must have a column for each input that varies and each output.", file),
      sprintf("It has no column %s.", quoted(missing[1])), name = missing[1], file = file)
  }
  runs <- as.double(manifest$preview %||% manifest$runs)
  if (nrow(table) != runs) {
    stop_ensayo("file", sprintf("%s must have %s, as the manifest says.", file, count_of(runs, "row")),
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
    nsim = as.double(manifest$runs), preview = if (!is.null(manifest$preview)) as.double(manifest$preview),
    until = manifest$until, design = manifest$design, replicates = as.double(manifest$replicates),
    block = as.double(manifest$block), hash = manifest$hash, ensayo = manifest$ensayo, r = manifest$r,
    platform = manifest$platform, maths = manifest$maths, cpu = manifest$cpu, started = manifest$started,
    seconds = as.double(manifest$seconds)) |> Filter(f = Negate(is.null))
}
