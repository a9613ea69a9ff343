# Result folders: all of a result as files that other programs can read, and that read back as the same result.

result_files <- c(
  manifest.json = "seed, runs, design, versions, hash of the study, times",
  study.yml = "the study as run", runs = "every run, inputs that vary and outputs: Parquet files",
  runs.csv = "the same as one table, where it was asked for",
  base.csv = "the base case", failures.csv = "failed runs and why",
  failed = "folders of a program's failed runs", statistics.csv = "statistics of every output",
  statistics.json = "statistics, percentiles, chances, pass rates and drivers, for programs"
)

#' Result folders
#'
#' `write_result()` writes a result as files: `manifest.json`, `study.yml` (the study as run; `study.rds` instead
#' where it uses functions of your own), the folder `runs` (every run, as Parquet files), `failures.csv` (where a run
#' failed), `statistics.csv` and `statistics.json`. `read_result()` makes the same result of them again, to the last
#' bit. `simulate_into()` simulates into a folder: runs are written while they are done, and are never all in memory.
#' The manifest is written last: a folder without one holds no whole result. It carries a digest of each file and of
#' itself, by which `read_result()` sees whether anything was changed since.
#'
#' @section Memory: of a folder whose runs take more than 200 MB, columns are read when they are asked for, one or a few
#'   at a time; readings and figures work on it as on any result. Ten million runs take 80 MB a column. Statistics,
#'   percentiles and chances of columns of more than 400 MB (fifty million runs) are found in passes over the files, a
#'   piece in memory at a time, percentiles exactly, the most likely value from the first million runs; drivers and
#'   figures hold the columns that they are about.
#' @param result A result.
#' @param dir Text: the folder. `write_result()` makes it where it is not there.
#' @param overwrite `TRUE` to replace a result that the folder holds; other files in it stay.
#' @param csv `TRUE` to write all runs as one table `runs.csv` besides, for programs that do not read Parquet. A series
#'   has a column for each step.
#' @param percentiles Numeric from 0 to 100: the percentiles in the statistics; `NULL` for the study's
#'   ([add_readings()]).
#' @param changed `TRUE` to read a folder that was changed after it was written, or made elsewhere: the result says so
#'   wherever it is shown.
#' @return `write_result()`: `dir`, invisibly. `read_result()` and `simulate_into()`: a result.
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
write_result <- function(result, dir, overwrite = FALSE, percentiles = NULL, csv = FALSE) {
  check_result(result)
  check_whole(result, "Writing a folder")
  if (!is.null(percentiles)) check_percentiles(percentiles)
  check_flag(csv)
  prepare_result_folder(check_string(dir), check_flag(overwrite))
  store <- write_runs(result, dir)
  write_result_files(result, dir, store$counts, csv, asked_of(result, percentiles = percentiles))
  invisible(dir)
}

# The runs of a result in the folder's own store.
write_runs <- function(result, dir) {
  writer <- folder_writer(dir)
  pieces <- store_pieces(result$store)
  for (i in seq_len(nrow(pieces))) {
    columns <- store_piece(result$store, result$store$names, pieces$first[i], pieces$count[i])
    writer$put(columns, result$store$kinds)
  }
  writer$done()
}

# All besides the runs; the manifest last.
write_result_files <- function(result, dir, pieces, csv = FALSE, asked = asked_of(result)) {
  into <- function(name) file.path(dir, name)
  if (uses_own_functions(result$study)) saveRDS(result$study, into("study.rds"))
  else write_file_lines(result_study_lines(result), into("study.yml"))
  if (csv) write_runs_csv(result, into("runs.csv"))
  write_csv(base_frame(result), into("base.csv"))
  if (nrow(result$failures)) write_csv(failures_in(result$failures, dir), into("failures.csv"))
  if (length(output_names(result))) write_csv(unclass_table(reading_statistics$table(result, asked)), into("statistics.csv"))
  write_file_lines(to_json(result_statistics(result, asked)), into("statistics.json"))
  write_file_lines(to_json(result_manifest(result, dir, pieces)), into("manifest.json"))
}

# One table of all runs, piece by piece.
write_runs_csv <- function(result, file) {
  pieces <- store_pieces(result$store)
  for (i in seq_len(nrow(pieces))) {
    columns <- store_piece(result$store, result$store$names, pieces$first[i], pieces$count[i])
    run <- run_numbers(result)[pieces$first[i] + seq_len(pieces$count[i])]
    write_csv(runs_frame(result, run, columns), file, append = i > 1)
  }
}

# Every reading a program may want, as plain tables; statistics are called outputs.
result_statistics <- function(result, asked = asked_of(result)) {
  tables <- reading_tables("json", result, asked)
  names(tables)[names(tables) == "statistics"] <- "outputs"
  c(list(study = result$study$title, sense = asked$sense), tables)
}

uses_own_functions <- function(study) {
  if (!all(vapply(study$models, is_model_of_files, TRUE))) return(TRUE)
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
  result <- new_result(
    study = study, store = read_store(dir, study, manifest), failures = read_failures(dir),
    warnings = read_warnings(manifest$warnings), base = read_base(dir, study),
    provenance = manifest_provenance(manifest)
  )
  if (length(faults)) result$provenance$changed <- TRUE
  result
}

# The folder's store, in memory where it is small.
read_store <- function(dir, study, manifest) {
  columns <- c(varying_names(study), output_order(study$outputs))
  kinds <- unlist(manifest$kinds)[columns]
  counts <- as.double(unlist(manifest$pieces))
  files <- run_file(seq_along(counts))
  missing <- files[!file.exists(file.path(dir, files))]
  if (length(missing)) {
    stop_ensayo("file", sprintf("%s must hold the runs that the manifest says.", dir),
      sprintf("%s is missing.", missing[1]), file = dir)
  }
  store <- folder_store(dir, files, counts, columns, kinds)
  check_store(store, study, as.double(manifest$preview %||% manifest$runs))
  if (8 * length(store$columns) * store$count > memory_at_most) return(store)
  memory_store(store_piece(store, columns, 0, store$count), kinds)
}

# Bytes up to which a folder's runs are read at once.
memory_at_most <- 2e8

# What a manifest says of the runs is held against the files before anything is made of it.
check_store <- function(store, study, runs) {
  wanted <- unlist(lapply(store$names, function(name) {
    steps <- study$outputs[[name]]$steps
    if (is.null(steps)) name else step_columns(name, step_keys(steps))
  }))
  missing <- setdiff(wanted, store$columns)
  place <- file.path(store$dir, runs_folder)
  if (length(missing)) {
    stop_ensayo("file", sprintf("%s must have a column for each input that varies and each output.", place),
      sprintf("It has no column %s.", quoted(missing[1])), name = missing[1], file = place)
  }
  if (anyNA(store$kinds)) {
    name <- store$names[is.na(store$kinds)][1]
    stop_ensayo("file", "The manifest must say of what kind each quantity is.", sprintf("It does not of %s.", quoted(name)),
      name = name, file = place)
  }
  rows <- vapply(seq_along(store$files), file_rows, 0, store = store)
  if (sum(rows) != runs || any(rows != store$counts)) {
    stop_ensayo("file", sprintf("%s must have %s, as the manifest says.", place, count_of(runs, "row")),
      sprintf("It has %s.", format_given(sum(rows))), "Was it cut off or edited?", file = place)
  }
}

# The base case as a table, so that no model is run when a folder is read: a series has a row for each step.
base_frame <- function(result) {
  base <- result$base
  values <- c(base$inputs, base$outputs)
  rows <- lengths(values)
  steps <- unlist(lapply(names(values), function(name) {
    steps <- result$study$outputs[[name]]$steps
    if (is.null(steps)) "" else step_keys(steps)
  }))
  texts <- unlist(lapply(unname(values), function(x) if (is.double(x)) cpp_number_text(x) else as.character(x)))
  name <- rep(names(values), rows)
  data.frame(name = name, kind = rep(c("input", "output"), c(length(unlist(base$inputs)), length(unlist(base$outputs)))),
    step = steps, value = texts, failure = ifelse(name %in% base$failures$output, base$failures$reason[match(name, base$failures$output)], ""))
}

read_base <- function(dir, study) {
  file <- file.path(dir, "base.csv")
  table <- read_csv_text(file)
  wanted <- c(names(study$inputs), output_order(study$outputs))
  missing <- setdiff(c("name", "kind", "step", "value", "failure"), names(table))
  rows <- vapply(wanted, function(name) sum(table$name == name), 0L)
  due <- vapply(wanted, function(name) max(1L, length(study$outputs[[name]]$steps)), 0L)
  wrong <- c(missing, wanted[rows != due])
  if (length(wrong)) {
    stop_ensayo("file", sprintf("%s must hold the base case of every input and output, a row for each step.", file),
      sprintf("It does not of %s.", quoted(wrong[1])), file = file)
  }
  read <- function(names) lapply(stats::setNames(nm = names), function(name) {
    texts <- table$value[table$name == name]
    input <- study$inputs[[name]]
    if (!is.null(input) && is_law(input$law) && is_categorical(input$law)) texts
    else if (all(texts %in% c("TRUE", "FALSE", "NA")) && any(texts != "NA")) as.logical(texts)
    else cpp_read_numbers(texts)
  })
  failed <- table[nzchar(table$failure) & !duplicated(table$name), ]
  list(inputs = read(names(study$inputs)), outputs = read(output_order(study$outputs)),
    failures = data.frame(output = failed$name, reason = failed$failure))
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
    "Simulate again, or read it as it is with `changed = TRUE`, on the command line with `--changed`.", file = dir)
}

read_saved_study <- function(file) {
  study <- rethrow_as(suppressWarnings(readRDS(file)), "file", sprintf("%s must hold the study.", file), file = file)
  check_study(study)
  study$readings <- study$readings %||% default_readings  # of a study saved before it had any
  study
}

# Folders of failed runs that stand in the result's own go along with it.
failures_in <- function(failures, dir) {
  failures <- failures[c("run", "output", "reason", Filter(function(name) any(nzchar(failures[[name]])), c("folder", "step")))]
  if (is.null(failures$folder)) return(failures)
  own <- paste0(normalizePath(dir), "/")
  inside <- startsWith(failures$folder, own)
  failures$folder[inside] <- substring(failures$folder[inside], nchar(own) + 1)
  failures
}

read_failures <- function(dir) {
  file <- file.path(dir, "failures.csv")
  if (!file.exists(file)) return(no_failures)
  table <- read_csv_text(file)
  folder <- table$folder %||% rep("", nrow(table))
  inside <- startsWith(folder, left_folder)
  folder[inside] <- file.path(normalizePath(dir), folder[inside])
  data.frame(run = cpp_read_numbers(table$run), output = table$output, reason = table$reason, folder = folder,
    step = table$step %||% rep("", nrow(table)))
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
