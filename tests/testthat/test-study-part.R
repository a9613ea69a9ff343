# A part made here alone: upkeep, yearly costs as formulas.
part_upkeep <- list(
  title = "Upkeep",
  formulas = function(study) study$upkeep,
  changed = function(study, change) {
    study$upkeep[] <- lapply(study$upkeep, change)
    study
  },
  record = function(study) lapply(study$upkeep, file_formula),
  read = function(study, record, file) {
    study$upkeep <- Map(function(text, name) read_formula(text, quantity_vocabulary(study), name), record, names(record))
    study
  },
  reviewed = function(study, asked) finding("hint", names(study$upkeep), "It recurs.", "Say for how many years."),
  table = function(study) new_table(list(upkeep = names(study$upkeep), formula = text_of(study$upkeep, function(f) f$text)))
)

test_that("a part is one record: files, prints, reports, reviews and changes of inputs know it from that", {
  parts <- study_parts()
  local_record("study_parts", function() append(parts, list(upkeep = part_upkeep), 4))
  s <- three_normals() |> add_outputs(y = a + b)
  s <- part_upkeep$read(s, list(painting = "a * 2", pumping = "c + 1"))
  expect_output(print(s), "Upkeep (2)", fixed = TRUE)
  expect_identical(rename_inputs(s, power = c)$upkeep$pumping$uses, "power")
  expect_fault(remove_inputs(s, c), "name", "`pumping`")
  expect_identical(review(s)$about[review(s)$seen == "It recurs."], c("painting", "pumping"))
  # what a part uses is of use
  expect_false("c" %in% review(s)$about[review(s)$seen == "No output uses it."])
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(s, file)
  expect_identical(read_study(file), s)
  expect_false(study_hash(s) == study_hash(rename_inputs(s, power = c)))
  page <- withr::local_tempfile(fileext = ".html")
  write_report(quietly(s, 50), page)
  expect_match(paste(readLines(page), collapse = ""), "<h2>Upkeep</h2>")
})

test_that("every part follows its inputs", {
  s <- three_normals() |> add_correlation(a, b, 0.3) |> add_inputs(copy = law_normal(~ a, 1)) |>
    add_outputs(y = a + b) |> add_specs(y > 0) |> add_readings(big = a > 2)
  for (part in study_parts()) expect_true(nzchar(part$title))
  renamed <- rename_inputs(s, first = a)
  expect_false(any(grepl("\\ba\\b", unlist(lapply(formulas_of(renamed), function(formula) formula$uses)))))
  expect_identical(renamed$correlations$a, "first")
  expect_identical(links_of(renamed$inputs$copy$law), "first")
  expect_setequal(users_of(s, "a"), c("y", "big", "copy"))
  # a chance that is read off needs its input as a spec does
  expect_fault(three_normals() |> add_readings(big = c > 2) |> remove_inputs(c), "name", "`big`")
  expect_identical(nrow(remove_inputs(three_normals() |> add_correlation(a, b, 0.3), b)$correlations), 0L)
  expect_output(print(quietly(remove_inputs(s, c), 50)), "big")
})
