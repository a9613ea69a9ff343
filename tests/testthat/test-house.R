# Rules of the house that no single file can keep: read off the sources where they are at hand, as in a checkout.
code_of <- function(files) lapply(stats::setNames(files, basename(files)), function(file) {
  sub("#.*", "", readLines(file, encoding = "UTF-8"))
})

test_that("the core has no interface code, and one file raises errors", {
  files <- list.files(file.path(source_folder(), "R"), "[.]R$", full.names = TRUE)
  interface <- grepl("^(conditions-progress|plot-|print-|report|explore|cli-|RcppExports)", basename(files))
  for (name in names(core <- code_of(files[!interface]))) {
    expect_false(any(grepl("\\b(cli|ggplot2|htmltools|optparse)::|\\b(cat|print|message)\\(|getOption\\(",
      core[[name]])), label = name)
  }
  for (name in names(all <- code_of(files[basename(files) != "conditions.R"]))) {
    expect_false(any(grepl("\\b(rlang::abort|abort|stopifnot|warning)\\(|(?<!run_)\\bstop\\((?!e\\))", all[[name]],
      perl = TRUE)), label = name)
  }
})

test_that("every file has its room, and rooms call earlier rooms only", {
  root <- source_folder()
  rooms <- rooms_in_order(root)
  calls <- calls_between_files(root)
  expect_gt(nrow(calls), 2000)
  expect_identical(setdiff(room_of_file(c(calls$from, calls$to)), rooms), character())
  expect_identical(later_calls(calls, rooms), calls[0, ])
  expect_identical(names_given_twice(root), character())
  # and a call to a later room is seen
  copy <- withr::local_tempdir()
  file.copy(file.path(root, c("R", "docs")), copy, recursive = TRUE)
  cat("law_seen <- function(x) drivers(x)\n", file = file.path(copy, "R", "law.R"), append = TRUE)
  expect_identical(later_calls(calls_between_files(copy), rooms)$by, "law_seen")
})

test_that("native code is in two layers, and all of it is built", {
  source <- file.path(source_folder(), "src")
  core <- list.files(file.path(source, "core"), "[.](cpp|h)$", full.names = TRUE)
  for (name in names(lines <- code_of(core))) expect_false(any(grepl("include.*(R[.]h|Rcpp|Rinternals)",
    lines[[name]])), label = name)
  objects <- strsplit(sub("OBJECTS = ", "", grep("^OBJECTS", readLines(file.path(source, "Makevars")), value = TRUE)),
    " ")[[1]]
  there <- c(list.files(source, "[.]cpp$"), file.path("core", list.files(file.path(source, "core"), "[.]cpp$")))
  expect_setequal(objects, sub("[.]cpp$", ".o", there))
})

test_that("exports mask nothing that users attach", {
  withr::local_envvar(TZ = "UTC")
  exports <- getNamespaceExports("ensayo")
  packages <- c("base", "stats", "utils", "methods", "graphics", "grDevices", "datasets", "testthat", "dplyr",
    "ggplot2", "forcats", "tibble",
    "readr", "stringr", "tidyr", "purrr", "lubridate")
  for (package in Filter(function(name) requireNamespace(name, quietly = TRUE), packages)) {
    expect_identical(intersect(exports, getNamespaceExports(package)), character(), label = package)
  }
})

test_that("laws and figures are called what they are", {
  exports <- getNamespaceExports("ensayo")
  expect_setequal(grep("^law_", exports, value = TRUE),
    paste0("law_", c(law_family_names, "from_facts", setdiff(law_forms, c("rows", "occurrences")))))
  for (name in c(law_family_names, "scaled", "linked", "rows")) {
    record <- family_record(name)
    expect_true(all(c("title", "about", "kind", "parameters") %in% names(record)), label = name)
    # a law that is always made into another has that one's functions
    answers <- c("quantile", "cumulative", "density", "support")
    expect_true(all(answers %in% names(record)) || is.function(record$canonical) && !any(answers %in% names(record)),
      label = name)
  }
  # the constructor's arguments are the record's parameters, and nothing else
  for (name in law_family_names) {
    expect_setequal(names(formals(paste0("law_", name))), names(family_record(name)$parameters))
  }
})

test_that("examples of the help fit on its pages", {
  for (file in list.files(file.path(source_folder(), "man"), "[.]Rd$", full.names = TRUE)) {
    lines <- readLines(file, encoding = "UTF-8")
    at <- grep("^\\\\examples\\{", lines)
    examples <- if (length(at)) lines[at:(at + match("}", lines[-seq_len(at)]))]
    examples <- gsub("\\\\([%\\\\])", "\\1", examples)
    expect_true(all(nchar(examples) <= 100), label = sprintf("examples of %s of at most 100 characters a line", basename(file)))
  }
})
