test_that("a result folder reads back as the same result", {
  s <- gravity_main() |> add_outputs(root = sqrt(pressure - 38), fast = velocity > 0.7, `o, "q"` = pressure)
  res <- quietly(s, 300, seed = 2^53 - 1)
  dir <- withr::local_tempdir()
  write_result(res, dir)
  expect_setequal(list.files(dir),
    c("manifest.json", "study.yml", "runs.csv", "failures.csv", "statistics.csv", "statistics.json"))
  back <- read_result(dir)
  for (part in c("draws", "outputs", "failures", "base", "correlations", "provenance")) expect_identical(back[[part]],
    res[[part]])
  expect_identical(summary(back), summary(res))
  manifest <- jsonlite::fromJSON(file.path(dir, "manifest.json"))
  expect_identical(manifest$hash, provenance(res)$hash)
  expect_identical(study_hash(study_of(back)), manifest$hash)
  expect_equal(manifest$failed_runs, length(unique(res$failures$run)))
  statistics <- jsonlite::fromJSON(file.path(dir, "statistics.json"))
  expect_equal(statistics$outputs$mean, summary(res)$mean)
  expect_equal(read.csv(file.path(dir, "statistics.csv"))$P50, summary(res)$P50)
})

test_that("a study with functions of the user's own is kept as an R value", {
  own <- function(x) x^2
  res <- quietly(three_normals() |> add_outputs(y = own(a)))
  dir <- withr::local_tempdir()
  write_result(res, dir)
  expect_true("study.rds" %in% list.files(dir))
  back <- read_result(dir)
  expect_identical(back$outputs, res$outputs)
  expect_identical(quietly(study_of(back))$outputs, res$outputs)
})

test_that("folders that cannot take or give a result are refused", {
  res <- quietly(gravity_main(), 50)
  dir <- withr::local_tempdir()
  expect_fault(read_result(dir), "file", "manifest.json")
  expect_fault(read_result(file.path(dir, "none")), "file", "no such folder")
  writeLines("mine", file.path(dir, "mine.txt"))
  write_result(res, dir)
  expect_fault(write_result(res, dir), "file", "must not hold a result", "overwrite = TRUE", "--force")
  expect_silent(write_result(res, dir, overwrite = TRUE))
  expect_true(file.exists(file.path(dir, "mine.txt")))
  expect_fault(write_result(res, file.path(dir, "mine.txt")), "file", "must be a folder")
  expect_fault(write_result(res, file.path(dir, "mine.txt", "below")), "file", "cannot be written")
  runs <- readLines(file.path(dir, "runs.csv"))
  writeLines(runs[-51], file.path(dir, "runs.csv"))
  expect_fault(read_result(dir), "file", "as it was written", "runs.csv was changed", "changed = TRUE")
  expect_fault(read_result(dir, changed = TRUE), "file", "50 rows", "It has 49")
  writeLines(sub("pressure", "presure", runs), file.path(dir, "runs.csv"))
  expect_fault(read_result(dir, changed = TRUE), "file", "no column `pressure`")
  unlink(file.path(dir, "manifest.json"))
  expect_fault(read_result(dir), "file", "manifest")
})

test_that("what was changed in a folder is seen, and said where it is read all the same", {
  res <- quietly(gravity_main(), 50)
  dir <- withr::local_tempdir()
  changed <- function(file, how, ...) {
    write_result(res, dir, overwrite = TRUE)
    lines <- readLines(file.path(dir, file))
    writeLines(how(lines), file.path(dir, file))
    expect_fault(read_result(dir), "file", "as it was written", ...)
  }
  changed("runs.csv", function(lines) lines[c(1, 3, 2, 4:51)], "runs.csv was changed")
  changed("runs.csv", function(lines) sub("[0-9]$", "1", lines), "runs.csv was changed")
  expect_true(any(grepl("CHANGED", format(read_result(dir, changed = TRUE)))))
  changed("study.yml", function(lines) sub("spring - 12", "spring - 11", lines), "study.yml was changed")
  changed("manifest.json", function(lines) sub("\"seed\": 1", "\"seed\": 2", lines), "manifest.json was changed")
  changed("manifest.json", function(lines) sub("\"replicates\": 1", "\"replicates\": 5", lines), "manifest.json was")
  write_result(res, dir, overwrite = TRUE)
  manifest <- file.path(dir, "manifest.json")
  good <- readLines(manifest)
  for (bad in list(c("\"replicates\": 1", "\"replicates\": \"many\""), c("\"block\": [0-9]+", "\"block\": \"a\""),
    c("\"design\": \"latin\"", "\"design\": 3"))) {
    writeLines(sub(bad[1], bad[2], good), manifest)
    expect_fault(read_result(dir, changed = TRUE), "file", "must be a manifest")
  }
  # a manifest that is one address in quotation marks is a text, and nothing is fetched
  writeLines("\"http://127.0.0.1:9/manifest.json\"", manifest)
  expect_fault(read_result(dir), "file", "must be a manifest")
})
