# `ensayo results`

cli_results <- function(args) {
  call <- cli_parse(args, "results [FOLDER] [options]",
    "List the result folders that stand in a folder [default: the one you are in].",
    options = list(cli_option_json()), more = TRUE)
  if (is.null(call)) return(exit_codes[["done"]])
  if (length(call$more) > 1) stop_ensayo("call", "One folder is listed.", sprintf("You gave %s.", and_list(quoted(call$more))))
  folder <- c(call$more, ".")[1]
  if (!dir.exists(folder)) stop_ensayo("call", sprintf("%s must be a folder.", folder), "It is not there.")
  table <- results_table(folder)
  if (call$options$json) writeLines(to_json(list(results = table)))
  else if (nrow(table) == 0) say("No result stands in %s.", folder)
  else {
    cells <- drop_empty(as.list(table))
    writeLines(text_table(cells, numeric = names(cells) %in% c("runs", "failed")))
  }
  exit_codes[["done"]]
}

# A row for each folder with a manifest, or with what was begun.
results_table <- function(folder) {
  dirs <- list.dirs(folder, recursive = FALSE, full.names = TRUE)
  dirs <- c(if (is_result_folder(folder)) folder, Filter(is_result_folder, dirs))
  rows <- lapply(dirs, function(dir) {
    name <- if (identical(dir, folder)) basename(normalizePath(dir)) else basename(dir)
    manifest <- tryCatch(read_manifest(dir), ensayo_error = function(e) NULL)
    if (!is.null(manifest)) {
      return(rows_of(result = name, study = manifest$title, runs = format_given(manifest$preview %||% manifest$runs),
        failed = format_given(manifest$failed_runs %||% NA), seed = format_given(manifest$seed), set = settings_of(dir),
        started = manifest$started %||% "", state = if (length(changes_since(manifest, dir))) "changed since" else "whole"))
    }
    begun <- tryCatch(read_begun(dir), ensayo_error = function(e) NULL)
    rows_of(result = name, study = "", runs = begun$count %||% "", failed = "", seed = as.character(begun$seed %||% ""), set = "",
      started = "", state = "not done: the same run goes on")
  })
  stacked(rows) %||% data.frame(result = character())
}

is_result_folder <- function(dir) any(file.exists(file.path(dir, c("manifest.json", begun_file))))

# The settings of a result, as they were given.
settings_of <- function(dir) {
  file <- file.path(dir, "study.yml")
  study <- if (file.exists(file)) tryCatch(read_study(file), ensayo_error = function(e) NULL)
  if (length(study$settings) == 0) return("")
  paste(sprintf("%s=%s", study$settings, vapply(study$inputs[study$settings], function(input) constant_text(input$law), "")),
    collapse = ", ")
}
