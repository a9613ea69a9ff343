# A kind of model made here alone: gives each input's square, by a rule that is a text.
kind_rule <- list(
  dear = FALSE,
  outside = FALSE,
  prepare = function(model, setting) {
    function(values, runs, log) {
      for (i in seq_along(model$gives)) {
        x <- rep_len(values[[model$uses[[i]]]], length(runs))
        bad <- which(x < model$least)
        if (length(bad)) log$add(model$gives[i], runs[bad], "below the least")
        assign(model$gives[i], replace(x^2, bad, NA), envir = values)
      }
    }
  },
  alone = function(model, setting) {
    list(list(uses = model$uses, gives = model$gives, runs = 32,
      evaluate = evaluator_of(list(kind_rule$prepare(model, setting)), model$gives)))
  }
)

test_that("a kind of model is one record", {
  kinds <- model_kinds()
  local_record("model_kinds", function() c(kinds, list(rule = kind_rule)))
  model <- list(kind = "rule", uses = c("a", "twice"), gives = c("a2", "twice2"), least = -2)
  s <- three_normals() |> add_outputs(twice = 2 * b) |>
    with_model("squares", model, list(a2 = new_output(NULL), twice2 = new_output(NULL, list(unit = "m2")))) |>
    add_outputs(total = a2 + twice2) |> add_specs(total < 4)
  res <- quietly(s, 500)
  x <- as.data.frame(res)
  fails <- x$a < -2 | 2 * x$b < -2
  expect_equal(x$total[!fails], (x$a^2 + 4 * x$b^2)[!fails])
  expect_identical(which(is.na(x$total)), which(fails))
  expect_setequal(failures(res)$reason, c("below the least", "`a2` failed", "`twice2` failed"))
  expect_identical(failures(res)$run, sort(failures(res)$run))
  expect_output(print(s), "squares  rule", fixed = TRUE)
  expect_output(print(res), "a2 failed in", fixed = TRUE)
  expect_gt(pass_rate(res)$pass_rate, 0.3)
  page <- withr::local_tempfile(fileext = ".html")
  write_report(res, page)
  expect_match(paste(readLines(page), collapse = ""), "<h2>Models</h2>")
})

test_that("formulas and models are calculated in the order of what they need", {
  s <- three_normals() |>
    add_model(function(a) list(p = a + 1, q = a - 1), name = "first") |>
    add_outputs(mixed = p * b) |>
    add_model(function(mixed, q) mixed + q, name = "second") |>
    add_outputs(end = second + p)
  x <- as.data.frame(quietly(s, 50))
  expect_equal(x$end, (x$a + 1) * x$b + x$a - 1 + x$a + 1)
  expect_identical(lapply(models_in_order(s), function(model) model$kind),
    list("function", "formulas", "function", "formulas"))
  expect_identical(reach_of(s)("end"), c("a", "b"))
  expect_fault(replace_outputs(s, p = a), "name", "given by the model `first`")
  # removing, renaming and fixing know models
  expect_fault(remove_inputs(s, a), "name", "`first`")
  renamed <- quietly(rename_inputs(s, start = a), 50)
  expect_identical(renamed$end, x$end)
  expect_false(study_hash(s) == study_hash(rename_inputs(s, start = a)))
})
