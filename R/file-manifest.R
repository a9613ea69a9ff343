# The manifest of a result folder: where its runs came from, and the digest of each file.

# `pieces`: the runs in each file.
result_manifest <- function(result, dir, pieces = NULL) {
  p <- result$provenance
  files <- c(intersect(list.files(dir), c(setdiff(names(result_files), c(runs_folder, left_folder)), "study.rds")),
    run_file(seq_along(pieces)))
  files <- sort(files, method = "radix")
  manifest <- list(format = 2, title = result$study$title,
    seed = if (is.character(p$seed)) p$seed else json_number(p$seed),
    runs = json_number(p$nsim), preview = if (!is.null(p$preview)) json_number(p$preview), design = p$design,
    replicates = json_number(p$replicates), block = json_number(p$block), hash = p$hash, ensayo = p$ensayo, r = p$r,
    platform = p$platform, maths = p$maths, cpu = p$cpu, started = p$started, seconds = json_number(p$seconds),
    failed_runs = length(unique(result$failures$run)), warnings = result$warnings,
    pieces = pieces, kinds = as.list(result$store$kinds),
    files = as.list(file_digests(dir, files)), until = p$until) |> Filter(f = Negate(is.null))
  c(manifest, digest = manifest_digest(manifest))
}

file_digests <- function(dir, files) stats::setNames(unname(tools::md5sum(file.path(dir, files))), files)

# Of everything a manifest says that a result rests on, as it reads back.
manifest_digest <- function(manifest) {
  said <- manifest[intersect(c("format", "title", "seed", "runs", "preview", "design", "replicates", "block", "hash",
    "pieces", "kinds", "files"), names(manifest))]
  text_hash(canonical_text(lapply(said, function(x) {
    if (is.list(x)) unlist(x) else if (is.numeric(x)) cpp_number_text(as.double(x)) else as.character(x)
  })))
}

# JSON with every digit: the library stops at 15.
json_number <- function(x) structure(cpp_number_text(x), class = "json")

to_json <- function(x) jsonlite::toJSON(x, auto_unbox = TRUE, digits = NA, na = "null", null = "null", pretty = TRUE,
  json_verbatim = TRUE)

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
  counts <- function(x) is.numeric(x) && length(x) > 0 && all(vapply(x, count, TRUE))
  kinds <- function(x) is.list(x) && all(unlist(x) %in% quantity_kinds)
  text <- function(x) rlang::is_string(x)
  asked <- list(format = function(x) identical(as.double(x), 2), title = text, seed = function(x) text(x) || number(x),
    runs = count, pieces = counts, kinds = kinds, design = function(x) text(x) && x %in% designs, replicates = count,
    block = count, hash = text)
  may <- list(preview = count, ensayo = text, r = text, platform = text, maths = text, cpu = text, started = text,
    seconds = number, digest = text, files = is.list, until = is.data.frame, failed_runs = number,
    warnings = function(x) is.data.frame(x) || length(x) == 0)
  if (!is.list(manifest)) manifest <- list()
  checks <- c(asked, may[intersect(names(may), names(manifest))])
  for (key in names(checks)) {
    if (is.null(manifest[[key]]) || !isTRUE(checks[[key]](manifest[[key]]))) {
      came <- if (is.null(manifest[[key]])) sprintf("It has no key %s.", quoted(key))
        else sprintf("Its %s is %s.", quoted(key), shown_value(manifest[[key]]))
      stop_ensayo("file", sprintf("%s must be a manifest.", file), came,
        if (key == "format") "Another version of Ensayo wrote it: simulate again.", file = file)
    }
  }
}
