test_that("every law of the library is written as text and read again to the last bit", {
  laws <- c(law_grid(), discrete_grid(), list(
    law_discrete(c("rock", "a \"b\""), c(1 / 3, 2 / 3)), law_normal(1 / 3, 1e-300), law_truncated(law_normal(0, 1),
      min = -1e-17),
    law_from_facts("triangular", P10 = 30, mode = 34, P90 = 45), law_around(34, "10 %", shape = "pert"),
    law_measured(20, 0.06, k = 2), law_observed(n = 3, mean = 1, sd = 0.1, of = "next")
  ))
  for (law in laws) expect_identical(law_from_text(law_text(law), "It"), law, label = format(law))
  expect_identical(law_from_text("pert(28, 34, 48)", "It"), law_pert(28, 34, 48))
  expect_identical(law_from_text("-(2 * normal(0, 1)) / 4 - 1", "It"), -(2 * law_normal(0, 1)) / 4 - 1)
  expect_error(law_text(law_custom(quantile = identity)) |> law_from_text("It"))
})

test_that("a law's text is data", {
  for (text in c("system('true')", "pert(28, system('true'), 48)", "base::system('true')", "normal(0, 1); 2", "28",
    "demand",
    "normal(x[1], 2)", "function(x) x", "quit()")) expect_fault(law_from_text(text, "The law"), "file")
  expect_fault(law_from_text("prt(28, 34, 48)", "The law"), "file", "Did you mean `pert`?")
  expect_fault(law_from_text("pert(28, mod = 34, 48)", "The law"), "file", "`mod` is none", "`mode`")
  expect_fault(law_from_text("pert(28, 54, 48)", "The law"), "argument", "The law: `mode` must lie")
})

test_that("the reference file uses every law, reads back, and runs", {
  file <- system.file("studies", "reference.yml", package = "ensayo", mustWork = TRUE)
  reference <- read_study(file)
  text <- paste(readLines(file), collapse = "\n")
  for (name in setdiff(c(law_family_names, law_forms), c("custom", "rows"))) {
    expect_match(text, paste0("(law: |[\" ,(]|: )", name, "[,(]"), label = name)
  }
  copy <- withr::local_tempfile(fileext = ".yml")
  write_study(reference, copy)
  expect_identical(read_study(copy), reference)
  expect_identical(nrow(failures(quietly(reference, 300))), 0L)
})
