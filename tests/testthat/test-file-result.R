test_that("a result folder reads back as the same result", {
  s <- gravity_main() |> add_outputs(root = sqrt(pressure - 38), fast = velocity > 0.7, `o, "q"` = pressure)
  res <- quietly(s, 300, seed = 2^53 - 1)
  dir <- withr::local_tempdir()
  write_result(res, dir)
  expect_setequal(list.files(dir),
    c("manifest.json", "study.yml", "runs", "base.csv", "failures.csv", "statistics.csv",
      "statistics.json"))
  back <- read_result(dir)
  expect_identical(as.data.frame(back), as.data.frame(res))
  for (read in list(failures, base_case, provenance, correlations)) expect_identical(read(back), read(res))
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
  file <- file.path(dir, "runs", "00001.parquet")
  runs <- nanoparquet::read_parquet(file)
  nanoparquet::write_parquet(runs[-50, ], file)
  expect_fault(read_result(dir), "file", "as it was written", "00001.parquet was changed", "changed = TRUE")
  expect_fault(read_result(dir, changed = TRUE), "file", "50 rows, as the manifest says", "It has 49")
  nanoparquet::write_parquet(stats::setNames(runs, sub("pressure", "presure", names(runs))), file)
  expect_fault(read_result(dir, changed = TRUE), "file", "no column `pressure`")
  writeLines("no runs", file)
  expect_fault(read_result(dir, changed = TRUE), "file", "must hold the runs")
  unlink(file)
  expect_fault(read_result(dir), "file", "00001.parquet is missing")
  expect_fault(read_result(dir, changed = TRUE), "file", "00001.parquet is missing")
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
  write_result(res, dir)
  file <- file.path(dir, "runs", "00001.parquet")
  runs <- nanoparquet::read_parquet(file)
  nanoparquet::write_parquet(runs[c(2, 1, 3:50), ], file, compression = "uncompressed", encoding = "PLAIN")
  expect_fault(read_result(dir), "file", "as it was written", "00001.parquet was changed")
  expect_identical(output_values(read_result(dir, changed = TRUE), pressure)[1:2], rev(res$pressure[1:2]))
  changed("base.csv", function(lines) sub("[0-9]\\b", "1", lines), "base.csv was changed")
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

test_that("a study simulated into a folder is the one simulated in memory, however many pieces it takes", {
  local_record("store_piece_runs", 3000)
  local_record("memory_at_most", 1e5)
  s <- gravity_main() |> add_outputs(root = sqrt(pressure - 38), fast = velocity > 0.7, n = floor(demand))
  dir <- withr::local_tempdir()
  into <- simulate_into(s, file.path(dir, "a"), 20000, 5, progress = NULL)
  whole <- quietly(s, 20000, 5)
  expect_identical(length(list.files(file.path(dir, "a", "runs"))) > 2, TRUE)
  kept <- read_result(file.path(dir, "a"))
  for (res in list(into, kept)) {
    expect_identical(res$store$kind, "folder")
    expect_identical(as.data.frame(res), as.data.frame(whole))
    for (read in list(summary, percentiles, drivers, pass_rate, failures, base_case, correlations,
      function(x) chance(x, pressure < 39 & fast), function(x) summary(given(x, fast)),
      function(x) sub(", [0-9.]+ s$", "", format(x)))) {
      expect_identical(read(res), read(whole))
    }
  }
  # copied from folder to folder and added to
  write_result(kept, file.path(dir, "b"), csv = TRUE)
  expect_identical(as.data.frame(read_result(file.path(dir, "b"))), as.data.frame(whole))
  expect_equal(read.csv(file.path(dir, "b", "runs.csv"))$pressure, whole$pressure, tolerance = 1e-15)
  expect_identical(add_runs(kept, 20000, progress = NULL)$pressure, add_runs(whole, 20000, progress = NULL)$pressure)
  expect_fault(simulate_into(s, file.path(dir, "a"), 100, 5), "file", "must not hold a result")
  first <- simulate_into(s, file.path(dir, "p"), 20000, 5, preview = 500, progress = NULL)
  expect_identical(read_result(file.path(dir, "p"))$pressure, whole$pressure[1:500])
})

test_that("a folder whose simulation was broken off is no result", {
  dir <- withr::local_tempdir()
  local_record("store_piece_runs", 1000)
  s <- three_normals() |> add_outputs(y = a)
  stopper <- function(done, all) if (done >= 2000) stop("pulled the plug")
  expect_error(simulate_into(s, file.path(dir, "a"), 5000, 1, progress = stopper), "plug")
  expect_fault(read_result(file.path(dir, "a")), "file", "must be a result folder")
  expect_identical(length(list.files(file.path(dir, "a", "runs"))), 1L)
})

test_that("files of somebody's own in the folder of runs stay, and the manifest's counts are held against the files", {
  dir <- withr::local_tempdir()
  dir.create(file.path(dir, "runs"))
  own <- file.path(dir, "runs", c("notes.txt", "other.parquet"))
  for (file in own) writeLines("mine", file)
  res <- quietly(gravity_main(), 50)
  write_result(res, dir)
  write_result(res, dir, overwrite = TRUE)
  simulate_into(gravity_main(), dir, 60, 1, overwrite = TRUE, progress = NULL)
  expect_true(all(file.exists(own)))
  expect_equal(nrow(as.data.frame(read_result(dir))), 60)
  manifest <- file.path(dir, "manifest.json")
  good <- readLines(manifest)
  writeLines(sub("\"pieces\": 60", "\"pieces\": 1e15", sub("\"runs\": 60", "\"runs\": 1e15", good)), manifest)
  expect_fault(read_result(dir, changed = TRUE), "file", "as the manifest says", "It has 60")
  writeLines(sub("\"format\": 2", "\"format\": 1", good), manifest)
  expect_fault(read_result(dir), "file", "must be a manifest", "Another version")
  writeLines(good, manifest)
  base <- readLines(file.path(dir, "base.csv"))
  writeLines(base[c(1, 2, 2:length(base))], file.path(dir, "base.csv"))
  expect_fault(read_result(dir, changed = TRUE), "file", "a row for each step")
})

test_that("a stretch of failed runs changes no quantity's kind, wherever pieces end", {
  local_record("store_piece_runs", 100)
  local_record("memory_at_most", 10)
  late <- function(u) {
    if (u < 0.5) stop("not yet")
    list(yes = u > 0.7, n = 3, path = data.frame(step = 1:2, on = c(TRUE, u > 0.8)))
  }
  s <- study() |> add_inputs(u = law_uniform(0, 1)) |> add_model(late, outputs = c("yes", "n", "on"))
  res <- quietly(s, 400)
  into <- simulate_into(s, withr::local_tempfile(), 400, 1, progress = NULL)
  for (x in list(res, into)) {
    expect_identical(x$store$kinds[c("yes", "n", "on")], c(yes = "yes/no", n = "whole", on = "yes/no"))
    expect_type(run_column(x, "yes"), "logical")
    expect_type(run_column(x, "on"), "logical")
  }
  expect_identical(as.data.frame(into), as.data.frame(res))
  kinds <- list(c(a = NA, b = "whole", c = "yes/no"), c(a = "yes/no", b = NA, c = "number"))
  expect_identical(joined_kinds(kinds[[1]], kinds[[2]]), c(a = "yes/no", b = "whole", c = "number"))
  parts <- list(list(y = c(NA, NA)), list(y = c(TRUE, FALSE)))
  store <- memory_store(joined_columns(parts), c(y = "yes/no"))
  expect_identical(store_column(store, "y"), c(NA, NA, TRUE, FALSE))
  never <- suppressWarnings(quietly(add_model(three_normals(), function(a) if (a < 99) stop("no") else a, name = "y",
    outputs = "y"), 20))
  expect_identical(never$store$kinds[["y"]], "number")
  expect_type(never$y, "double")
})

test_that("results of studies that were changed are read from their folders", {
  main <- read_study(system.file("studies", "gravity-main.yml", package = "ensayo"))
  changed <- list(
    replaced = replace_inputs(main, friction = law_lognormal(mean = 0.018, sd = 0.0025)), fixed = fix_inputs(main, spring = 61),
    renamed = rename_inputs(main, water = spring), lined = study_of(simulate(alternatives(main, lined = list(friction = law_uniform(0.015, 0.02))), nsim = 10, seed = 1)$lined),
    spread = spread_inputs(main, spring, .low = 0.9, .high = 1.1, .shape = "pert", .shared = FALSE))
  for (name in names(changed)) {
    folder <- file.path(withr::local_tempdir(), name)
    res <- simulate(changed[[name]], nsim = 50, seed = 1)
    write_result(res, folder)
    expect_identical(as.data.frame(read_result(folder)), as.data.frame(res), label = name)
    write_study(changed[[name]], file <- tempfile(fileext = ".yml"))
    expect_identical(read_study(file), changed[[name]], label = name)
  }
})
