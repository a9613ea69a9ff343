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
  bodies <- named_in_files(root)
  expect_gt(length(unlist(bodies, recursive = FALSE)), 2000)
  expect_identical(setdiff(room_of_file(names(bodies)), rooms), character())
  expect_identical(later_calls(bodies, rooms)$by, character())
  expect_identical(names_given_twice(bodies), character())
  # and a call to a later room is seen
  drivers <- bodies["driver.R"]
  seen <- c(list(law.R = list(law_seen = quote(function(x) drivers(x)))), drivers)
  expect_identical(later_calls(seen, rooms)$by, "law_seen")
  expect_identical(names_given_twice(c(drivers, drivers)), names(drivers[[1]]))
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

# The blocks of a document that are set as they stand.
blocks_of <- function(file) {
  lines <- readLines(file, encoding = "UTF-8")
  fences <- grep("^```", lines)
  lapply(seq(1, length(fences), 2), function(i) lines[seq(fences[i] + 1, length.out = fences[i + 1] - fences[i] - 1)])
}

test_that("the pictures of the architecture are those of the code", {
  root <- source_folder()
  blocks <- blocks_of(file.path(root, "ARCHITECTURE.md"))
  rooms <- sub("^ [a-z]+( [a-z]+)*  +", "", blocks[[1]][seq_len(match(TRUE, grepl("---", blocks[[1]])) - 1)])
  expect_identical(unlist(strsplit(trimws(rooms), " +")), rooms_in_order(root))
  expect_setequal(unique(room_of_file(setdiff(list.files(file.path(root, "R")), c("RcppExports.R", "ensayo-package.R")))), rooms_in_order(root))
  way <- blocks[[2]]
  names <- sub("^ *([a-z_.]+) .*", "\\1", way)
  files <- sub(".*R/", "", way)
  depth <- nchar(sub("[^ ].*", "", way)) / 2
  bodies <- named_in_files(root)
  for (i in seq_along(way)) {
    expect_true(names[i] %in% names(bodies[[files[i]]]), label = sprintf("%s in %s", names[i], files[i]))
    above <- utils::tail(which(depth[seq_len(i - 1)] == depth[i] - 1), 1)
    if (depth[i] == 0) next
    used <- codetools::findGlobals(eval(call("function", NULL, bodies[[files[above]]][[names[above]]]), new.env(parent = baseenv())))
    expect_true(names[i] %in% used, label = sprintf("%s called by %s", names[i], names[above]))
  }
})

test_that("documents name files, calls and make targets that there are, and their links lead somewhere", {
  root <- source_folder()
  documents <- c("README.md", "ARCHITECTURE.md", "CONTRIBUTING.md", "NEWS.md",
    file.path("docs", list.files(file.path(root, "docs"), "[.]md$")), file.path("vignettes", list.files(file.path(root, "vignettes"), "[.]Rmd$", recursive = TRUE)))
  guides <- sub("[.]Rmd$", "", list.files(file.path(root, "vignettes"), "[.]Rmd$"))
  targets <- sub(":.*", "", grep("^[a-z-]+:", readLines(file.path(root, "Makefile")), value = TRUE))
  for (document in documents) {
    text <- paste(readLines(file.path(root, document), encoding = "UTF-8"), collapse = "\n")
    found <- function(pattern) unique(regmatches(text, gregexpr(pattern, text, perl = TRUE))[[1]])
    links <- sub("#.*", "", sub("^\\]\\((.*)\\)$", "\\1", found("\\]\\((?!https?:)[^) ]+\\)")))
    for (link in links[nzchar(links)]) {
      expect_true(file.exists(file.path(root, dirname(document), link)), label = sprintf("%s of %s", link, document))
    }
    paths <- gsub("`", "", found("`(R|src|tests|inst|bench|tools|docs|vignettes)/[A-Za-z0-9_./-]+`"))
    for (path in paths[!grepl("NAME|docs/site", paths)]) expect_true(file.exists(file.path(root, path)), label = sprintf("%s of %s", path, document))
    for (guide in sub(".*\"(.*)\".*", "\\1", found("vignette\\(\"[a-z-]+\"\\)"))) expect_true(guide %in% guides, label = sprintf("%s of %s", guide, document))
    for (target in sub("`make ", "", gsub("`$", "", found("`make [a-z-]+`")))) expect_true(target %in% targets, label = sprintf("make %s of %s", target, document))
  }
  # what the guide for contributors calls by name is there
  calls <- unlist(lapply(c("CONTRIBUTING.md", "ARCHITECTURE.md"), function(document) {
    text <- paste(readLines(file.path(root, document), encoding = "UTF-8"), collapse = "\n")
    regmatches(text, gregexpr("(?<=`)[a-z_.]+(?=\\(\\)`)", text, perl = TRUE))[[1]]
  }))
  for (name in setdiff(calls, c("test_file"))) expect_true(exists(name, asNamespace("ensayo")), label = name)
  # every picture is to be found from the README
  readme <- paste(readLines(file.path(root, "README.md"), encoding = "UTF-8"), collapse = "\n")
  for (picture in list.files(file.path(root, "docs", "screenshots"))) expect_match(readme, paste0("docs/screenshots/", picture), fixed = TRUE)
  # every figure is in the gallery
  gallery <- paste(readLines(file.path(root, "vignettes", "articles", "gallery.Rmd"), encoding = "UTF-8"), collapse = "\n")
  for (figure in grep("^plot_", getNamespaceExports("ensayo"), value = TRUE)) expect_match(gallery, paste0("\n", figure, "("), fixed = TRUE)
})

test_that("the review's advice serves a study file as well: it names no calls of R", {
  files <- list.files(file.path(source_folder(), "R"), "^study-review.*[.]R$", full.names = TRUE)
  expect_gt(length(files), 2)
  for (lines in code_of(files)) expect_identical(grep("`[a-z_.]+\\(", lines, value = TRUE), character())
})

test_that("errors name what the caller knows: a check of an expression is told what it is called", {
  defined <- list()
  walk <- function(x, visit) if (is.call(x)) {
    visit(x)
    for (part in as.list(x)) if (!rlang::is_missing(part)) walk(part, visit)
  }
  expressions <- lapply(list.files(file.path(source_folder(), "R"), "[.]R$", full.names = TRUE), parse)
  for (file in expressions) for (line in file) {
    if (!rlang::is_call(line, "<-") || !rlang::is_call(line[[3]], "function")) next
    if (any(vapply(as.list(line[[3]][[2]]), rlang::is_call, NA, name = "caller_arg"))) {
      defined[[as.character(line[[2]])]] <- rlang::new_function(line[[3]][[2]], NULL)
    }
  }
  expect_gt(length(defined), 8)
  unnamed <- character()
  for (file in expressions) for (line in file) walk(line, function(call) {
    checks <- if (is.symbol(call[[1]])) defined[[as.character(call[[1]])]]
    if (is.null(checks)) return()
    given <- as.list(match.call(checks, as.call(Filter(function(part) !identical(part, quote(...)), as.list(call)))))
    if (!is.symbol(given[[2]]) && is.null(given$arg)) unnamed <<- c(unnamed, deparse(call)[1])
  })
  expect_identical(unnamed, character())
})
