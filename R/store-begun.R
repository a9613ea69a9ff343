# A simulation into a folder that is not done: what it is to hold, who works at it, and what is there already. All of it is
# on disk before it counts, so that the same call goes on where one stopped, whatever stopped it.
#   begun.json             what is simulated; it goes when the manifest comes
#   begun.lock             held by the session that works at it
#   runs/00001.parquet     whole pieces; runs/00001.csv their failed runs, runs/00001.txt their warnings
#   runs/begun/            chunks of the piece that is made now, under the number of their first run, likewise

begun_file <- "begun.json"
lock_file <- "begun.lock"

# The folder's lock, to be given back by unlock_folder(); it goes with its process, whatever ends that.
lock_folder <- function(dir, call = rlang::caller_env()) {
  lock <- cpp_take_lock(file.path(path.expand(dir), lock_file))
  if (lock != -1) return(lock)  # where a file system has no locks, one does without
  stop_ensayo("file", sprintf("%s must be used by one session at a time.", dir), "Another simulates into it now.",
    "Wait for it, or choose another folder.", file = dir, call = call)
}

unlock_folder <- function(dir, lock) {
  if (!file.exists(file.path(dir, begun_file))) unlink(file.path(dir, lock_file))
  cpp_give_lock(lock)
}

# Says on disk what is begun in a folder; what was begun before must be the same.
begin_in <- function(dir, study, plan, count, call = rlang::caller_env()) {
  now <- begun_record(study, plan, count)
  file <- file.path(dir, begun_file)
  before <- read_begun(dir)
  if (is.null(before)) {
    writeLines(jsonlite::toJSON(now, auto_unbox = TRUE, pretty = TRUE), paste0(file, ".part"), useBytes = TRUE)
    return(put_file(paste0(file, ".part"), file))
  }
  differs <- begun_differences(before, now)
  if (length(differs)) {
    stop_ensayo("file", sprintf("%s holds a simulation that is not done; only the same one can go on.", dir),
      sprintf("Different now: %s.", and_list(differs)),
      "To begin anew, replace it with `overwrite = TRUE` (`--force` on the command line).", file = dir, call = call)
  }
}

# The manifest is there: what was for going on goes.
end_begun <- function(dir) {
  unlink(file.path(dir, begun_file))
  unlink(begun_files(dir), recursive = TRUE)
}

# What belongs to a simulation that is not done, besides its pieces.
begun_files <- function(dir) {
  c(list.files(file.path(dir, runs_folder), "^[0-9]{5,}[.](csv|txt)([.]part)?$", full.names = TRUE), file.path(dir, runs_folder, "begun"))
}

read_begun <- function(dir) {
  file <- file.path(dir, begun_file)
  if (!file.exists(file)) return(NULL)
  rethrow_as(jsonlite::parse_json(read_file_text(file), simplifyVector = TRUE), "file",
    sprintf("%s must tell what was begun.", file), file = file, mend = "Begin anew with `overwrite = TRUE`.")
}

# Each input and output has its own digest, so that what differs can be named.
begun_record <- function(study, plan, count) {
  digests <- function(quantities) lapply(quantities, function(x) text_hash(canonical_text(unclass(x))))
  list(format = 1, study = study_hash(study), inputs = digests(study$inputs), outputs = digests(study$outputs),
    seed = if (is.character(plan$seed)) plan$seed else cpp_number_text(plan$seed), runs = cpp_number_text(plan$nsim),
    count = cpp_number_text(count), design = plan$design, replicates = cpp_number_text(plan$replicates),
    block = cpp_number_text(plan$block), ensayo = software_versions()$ensayo, r = software_versions()$r)
}

begun_differences <- function(before, now) {
  words <- c(seed = "the seed", runs = "the number of runs", count = "the number of runs", design = "the design",
    replicates = "the replicates", block = "the block", ensayo = "the version of Ensayo", r = "the version of R")
  settings <- unique(words[vapply(names(words), function(key) !identical(before[[key]], now[[key]]), NA)])
  if (identical(before$study, now$study)) return(settings)
  quantities <- unlist(lapply(c("inputs", "outputs"), function(part) {
    names <- union(names(before[[part]]), names(now[[part]]))
    names[vapply(names, function(name) !identical(before[[part]][[name]], now[[part]][[name]]), NA)]
  }))
  c(if (length(quantities)) quoted(utils::head(quantities, 5)) else "the study", settings)
}

# The seed of what is begun in a folder, for a call that says none.
begun_seed <- function(dir) {
  seed <- read_begun(dir)$seed
  if (is.null(seed)) NULL else if (is_number_text(seed)) as.double(seed) else seed
}

# Chunks of one piece, whose runs are `count` after the first `first`: `known` parts, as evaluations give them, with their
# place; `put()` takes further ones and has them on disk at the latest after some ten seconds, and `flush()` at once.
new_journal <- function(dir, first, count, study) {
  folder <- file.path(dir, runs_folder, "begun")
  buffer <- list()
  last <- proc.time()[["elapsed"]]
  flush <- function() {
    if (length(buffer) == 0) return(invisible())
    dir.create(folder, recursive = TRUE, showWarnings = FALSE)
    for (part in neighbours_joined(buffer)) write_chunk(part, file.path(folder, sprintf("%.0f", first + part$first + 1)))
    buffer <<- list()
    last <<- proc.time()[["elapsed"]]
  }
  put <- function(at, runs) {
    buffer[[length(buffer) + 1]] <<- list(first = at, runs = runs)
    if (proc.time()[["elapsed"]] - last > chunk_seconds()) flush()
  }
  list(known = known_chunks(folder, first, count, study), put = put, flush = flush)
}

# Seconds between them; a shorter time is for tests.
chunk_seconds <- function() as.double(Sys.getenv("ENSAYO_CHUNK_SECONDS", "10"))

# Parts that follow each other as one.
neighbours_joined <- function(parts) {
  parts <- parts[order(vapply(parts, function(part) part$first, 0))]
  size <- vapply(parts, runs_of_part, 0)
  first <- vapply(parts, function(part) part$first, 0)
  group <- cumsum(c(TRUE, first[-1] != (first + size)[-length(first)]))
  lapply(unname(split(parts, group)), function(group) {
    list(first = group[[1]]$first, runs = runs_in_order(group))
  })
}

# Failures and warnings come first: a chunk is there when its values are.
write_chunk <- function(part, file) {
  write_told(part$runs, file)
  write_piece(part$runs$values, paste0(file, ".parquet"))
}

write_told <- function(runs, file) {
  unlink(paste0(file, c(".csv", ".txt")))
  if (nrow(runs$failures)) {
    write_csv(runs$failures, paste0(file, ".csv.part"))
    put_file(paste0(file, ".csv.part"), paste0(file, ".csv"))
  }
  if (nrow(runs$warnings)) {
    writeLines(jsonlite::toJSON(runs$warnings), paste0(file, ".txt.part"), useBytes = TRUE)
    put_file(paste0(file, ".txt.part"), paste0(file, ".txt"))
  }
}

read_told <- function(file) {
  failures <- if (file.exists(paste0(file, ".csv"))) {
    table <- read_csv_text(paste0(file, ".csv"))
    data.frame(run = cpp_read_numbers(table$run), table[c("output", "reason", "folder", "step")])
  } else no_failures
  warnings <- if (file.exists(paste0(file, ".txt"))) jsonlite::parse_json(read_file_text(paste0(file, ".txt")), simplifyVector = TRUE)
    else no_warnings
  list(failures = failures, warnings = warnings)
}

# Those that are whole and do not overlap; what is not is made again.
known_chunks <- function(folder, first, count, study) {
  files <- list.files(folder, "^[0-9]+[.]parquet$", full.names = TRUE)
  at <- as.double(sub("[.]parquet$", "", basename(files))) - 1 - first
  parts <- list()
  until <- 0
  for (i in order(at)) {
    if (at[i] < until || at[i] >= count) next
    values <- tryCatch(read_run_file(files[i]), error = function(e) NULL)
    if (is.null(values) || length(values) == 0 || at[i] + length(values[[1]]) > count) next
    until <- at[i] + length(values[[1]])
    parts[[length(parts) + 1]] <- list(first = at[i], runs = c(list(values = unflat_columns(values, study)),
      read_told(sub("[.]parquet$", "", files[i]))))
  }
  parts
}

# Columns of files as columns of runs: a series' steps together again.
unflat_columns <- function(values, study) {
  lapply(stats::setNames(nm = output_order(study$outputs)), function(name) {
    steps <- study$outputs[[name]]$steps
    if (is.null(steps)) return(values[[name]])
    keys <- step_keys(steps)
    matrix(unlist(values[step_columns(name, keys)], use.names = FALSE), ncol = length(keys), dimnames = list(NULL, keys))
  })
}

# What calculates, as a record of where runs come from says it.
software_versions <- function() {
  list(ensayo = getNamespaceVersion("ensayo")[["version"]], r = paste(R.version$major, R.version$minor, sep = "."))
}
