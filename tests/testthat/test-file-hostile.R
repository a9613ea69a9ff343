# Files with a bad will, or spoilt by a slip of the hand.

hostile <- function(...) {
  file <- withr::local_tempfile(fileext = ".yml", .local_envir = parent.frame())
  writeLines(c(...), file, useBytes = TRUE)
  file
}

test_that("a study file reaches nothing outside its folder", {
  outside <- withr::local_tempfile(fileext = ".csv")
  writeLines(c("name,law", "secret,normal(1, 2)"), outside)
  for (path in c("http://127.0.0.1:9/a.csv", "https://127.0.0.1:9/a.csv", "file:///etc/passwd", outside,
    "../outside.csv", "sub/../../outside.csv", "~/a.csv", "C:/a.csv", "..")) {
    for (lines in list(c(sprintf("inputs: {file: \"%s\"}", path), "outputs: {y: secret}"),
      c("inputs: {a: 1}", sprintf("tables: {t: {file: \"%s\"}}", path), "outputs: {y: a}"),
      c("inputs: {a: 1}", sprintf("correlations: {file: \"%s\"}", path), "outputs: {y: a}"))) {
      error <- tryCatch(read_study(hostile("study: x", lines)), error = function(e) e)
      expect_s3_class(error, "ensayo_error")
      expect_false(grepl("secret", conditionMessage(error)))
    }
  }
  dir <- withr::local_tempdir()
  file.symlink(outside, file.path(dir, "link.csv"))
  writeLines(c("study: x", "inputs: {file: link.csv}", "outputs: {y: secret}"), file.path(dir, "s.yml"))
  expect_fault(read_study(file.path(dir, "s.yml")), "file", "must stand in its folder")
})

test_that("characters that steer a terminal are refused, raw or as a code", {
  rest <- c("inputs: {a: 1}", "outputs: {y: a}")
  expect_fault(read_study(hostile("study: \033[32mPASS", rest)), "file", "control characters", "U+001B")
  expect_fault(read_study(hostile("study: \"\\e[32mPASS\"", rest)), "file", "control characters")
  expect_fault(read_study(hostile("study: \"\\u202e x\"", rest)), "file", "control characters")
  expect_fault(study("a\033[2J"), "argument", "control characters")
  expect_fault(input(1, label = "a\007"), "argument", "control characters")
  expect_fault(study() |> add_inputs(`a\033` = 1), "name", "control character")
})

test_that("deep nesting, anchors and long names are one clear error", {
  rest <- c("inputs: {a: 1}", "outputs: {y: a}")
  expect_fault(read_study(hostile(paste0("study: ", strrep("[", 50000)), rest)), "file", "nested")
  expect_fault(read_study(hostile(vapply(1:600, function(i) paste0(strrep(" ", i), "a:"), ""))), "file", "nested")
  expect_fault(read_study(hostile("study: &a x", "question: *a", rest)), "file", "anchor", "write the value out")
  expect_fault(study() |> add_inputs(!!strrep("x", 5000) := 1), "name", "200 are the most")
  many <- paste0("mixture(list(", paste(rep("normal(0, 1)", 4000), collapse = ", "), "))")
  expect_fault(read_study(hostile("study: x", sprintf("inputs: {a: \"%s\"}", many), "outputs: {y: a}")), "file",
    "at most 1000 laws")
})

test_that("nothing is made of the pairs of many names before the names are known", {
  between <- paste(sprintf("n%d", 1:30000), collapse = ", ")
  file <- hostile("study: x", "inputs: {a: \"normal(0, 1)\"}", sprintf("correlations: [{between: [%s], rank: 0.1}]", between),
    "outputs: {y: a}")
  gc(reset = TRUE)
  expect_fault(read_study(file), "name", "`n1`")
  expect_lt(gc()[2, 6], 500)  # megabytes at the most; the pairs alone would be gigabytes
  twice <- hostile("study: x", "inputs: {a: \"normal(0, 1)\", b: \"normal(0, 1)\"}",
    "correlations: [{between: [a, b, a], rank: 0.1}]", "outputs: {y: a}")
  expect_fault(read_study(twice), "file", "`a` stands twice")
  product <- paste(rep(c("a", "k"), 220), collapse = " * ")
  s <- study() |> add_inputs(a = law_normal(0, 1), k = law_poisson(2)) |>
    add_outputs(data.frame(name = "y", formula = sprintf("1 + sqrt(%s)", product)))
  gc(reset = TRUE)
  expect_match(review(s)$seen, "multiplies the count `k` by one draw of `a`", all = FALSE)
  expect_lt(gc()[2, 6], 500)
})

test_that("files changed at random are read, or refused with one classed error, in time", {
  # `make test-long` reads 24,000 of them
  expect_identical(mutation_faults(1:60), NULL)
})
