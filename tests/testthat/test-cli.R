test_that("the program runs as a process, from demo to report", {
  program <- system.file("exec", "ensayo", package = "ensayo")
  dir <- withr::local_tempdir()
  run <- function(...) {
    errors <- tempfile()
    output <- suppressWarnings(system2(file.path(R.home("bin"), "Rscript"), c(program, ...), stdout = TRUE,
      stderr = errors,
      env = paste0("R_LIBS=", paste(.libPaths(), collapse = ":"))))
    list(code = attr(output, "status") %||% 0L, output = output, said = readLines(errors))
  }
  demo <- run("demo", "--out", file.path(dir, "demo"))
  expect_identical(demo$code, 0L)
  expect_match(demo$output, "What the single number hid", all = FALSE)
  expect_match(demo$said, "report.html", all = FALSE)
  for (name in c("manifest.json", "runs/00001.parquet", "study.yml", "statistics.csv", "statistics.json",
    "distribution-pressure.png",
    "tornado-pressure.png", "report.html", "gravity-main.yml")) {
    expect_gt(file.size(file.path(dir, "demo", name)), 100)
  }
  network <- run("demo", "network", "--out", file.path(dir, "network"))
  expect_identical(network$code, 0L)
  expect_match(network$output, "failed in [0-9]+ runs: it took", all = FALSE)
  expect_identical(run("check", file.path(dir, "network", "network.yml"))$code, 0L)
  expect_match(run("demo", "net")$said, "`main`, `network`", all = FALSE)
  summer <- file.path(dir, "summer")
  tank <- run("demo", "tank", "--out", summer)
  expect_identical(tank$code, 0L)
  story <- gsub("\\s+", " ", paste(tank$output, collapse = " "))
  result <- read_result(summer)
  expect_match(story, sprintf("the tank runs empty in %s of summers", format_share(1 - pass_rate(result)$pass_rate)), fixed = TRUE)
  expect_match(story, "below 2 % the cheapest calls below 50 m3 and asks for 80 m3", fixed = TRUE)
  expect_gt(file.size(file.path(summer, "rule.png")), 1000)
  at <- call_cli("show", summer, "--step", "2026-08-01", "--outputs", "level")$output
  expect_match(at, "series at step 2026-08-01", all = FALSE)
  expect_no_match(at, "never_empty")
  expect_equal(jsonlite::fromJSON(call_cli("show", summer, "--step", "last", "--outputs", "level", "--json")$output)$outputs$mean,
    mean(output_values(result, level, "last")))
  expect_match(call_cli("show", summer, "--step", "2027-01-01")$said, "goes from 2026-06-15", all = FALSE)
  for (kind in list(c("chance-by-step", "--condition", "level < 50"), c("chance-by-step"), c("drivers-by-step", "level"),
    c("series", "level", "--step", "last"), c("distribution", "level", "--step", "2026-08-01"))) {
    picture <- file.path(dir, "picture.png")
    expect_identical(call_cli("plot", summer, kind, "--out", picture, "--force")$code, 0L)
    expect_gt(file.size(picture), 5000)
  }
  wrong <- run("run", "--rns", "3")
  expect_identical(wrong$code, 2L)
  expect_length(wrong$output, 0)
  expect_match(wrong$said, "rns", all = FALSE)
  missing <- run("check", "nowhere.yml")
  expect_identical(missing$code, 1L)
  expect_match(missing$said, "nowhere.yml must exist", all = FALSE)
  expect_identical(run("run", small_file(dir), "--out", file.path(dir, "r"), "--json", "--no-plots")$code, 0L)
})

test_that("check says what is in a file without running it", {
  dir <- withr::local_tempdir()
  done <- call_cli("check", small_file(dir))
  expect_identical(done$code, 0L)
  expect_match(done$output, "normal\\(mean = 3, sd = 1\\)", all = FALSE)
  expect_match(done$output, "Base case", all = FALSE)
  expect_equal(list.files(dir), "small.yml")
  json <- jsonlite::fromJSON(call_cli("check", small_file(dir), "--json")$output)
  expect_equal(json$base_case$y, 4)
  expect_identical(call_cli("check", small_file(dir, "b + 1"))$code, 1L)
})

test_that("run writes a folder once, with the options asked for", {
  dir <- withr::local_tempdir()
  file <- small_file(dir)
  out <- file.path(dir, "out")
  expect_identical(call_cli("run", file, "--runs", "50", "--seed", "7", "--design", "random", "--out", out)$code, 0L)
  expect_setequal(list.files(out, "png$"), c("distribution-y.png", "tornado-y.png"))
  for (own in c("sketch.png", "distribution-of-rain.png")) writeLines("mine", file.path(out, own))
  p <- provenance(read_result(out))
  expect_identical(p[c("nsim", "seed", "design")], list(nsim = 50, seed = 7, design = "random"))
  before <- tools::md5sum(file.path(out, "runs/00001.parquet"))
  refused <- call_cli("run", file, "--out", out)
  expect_identical(refused$code, 1L)
  expect_match(refused$said, "--force", all = FALSE)
  expect_identical(tools::md5sum(file.path(out, "runs/00001.parquet")), before)
  expect_length(list.files(out, "png$"), 4)
  # plots of the former result go with it
  expect_identical(call_cli("run", file, "--out", out, "--force", "--no-plots")$code, 0L)
  expect_setequal(list.files(out, "png$"), c("distribution-of-rain.png", "sketch.png"))
  expect_identical(provenance(read_result(out))$nsim, 100)
  json <- jsonlite::fromJSON(call_cli("run", file, "--out", out, "--force", "--json", "--no-plots")$output)
  expect_equal(json$manifest$seed, 5)
  expect_equal(json$outputs$mean, summary(read_result(out))$mean)
  expect_identical(call_cli("run", file)$code, 0L)
  expect_true(dir.exists(file.path(dir, "small-result")))
  # the study as run repeats the run by itself
  expect_identical(call_cli("run", file.path(out, "study.yml"), "--out", file.path(dir, "again"), "--no-plots")$code, 0L)
  expect_identical(tools::md5sum(file.path(dir, "again", "runs/00001.parquet"))[[1]],
    tools::md5sum(file.path(out, "runs/00001.parquet"))[[1]])
  expect_identical(call_cli("report", out)$code, 0L)
  expect_true(file.exists(file.path(out, "report.html")))
  expect_identical(call_cli("run", file, "--csv", "--out", file.path(dir, "c"), "--no-plots")$code, 0L)
  expect_identical(read.csv(file.path(dir, "c", "runs.csv"))$y, read_result(file.path(dir, "c"))$y)
  expect_identical(call_cli("run", small_file(dir, "1 / (a - a)"), "--out", file.path(dir, "f"))$code, 1L)
  expect_true(file.exists(file.path(dir, "f", "runs/00001.parquet")))
})

test_that("wrong calls and missing things have their own exit codes", {
  dir <- withr::local_tempdir()
  for (args in list(character(), "rn", c("run"), c("run", "a", "b"), c("run", small_file(dir), "--runs", "many"),
    c("run", small_file(dir), "--design", "latn"), c("run", small_file(dir), "--seed"), c("demo", "x"))) {
    expect_identical(call_cli(args)$code, 2L, label = paste(args, collapse = " "))
  }
  expect_match(call_cli("rn")$said, "Did you mean `run`?", fixed = TRUE, all = FALSE)
  expect_identical(call_cli("report", dir)$code, 1L)
  expect_identical(call_cli("run", small_file(dir), "--out", file.path(small_file(dir), "x"))$code, 1L)
  for (command in names(cli_commands)) {
    help <- call_cli(command, "--help")
    expect_identical(help$code, 0L)
    expect_match(help$output, paste("Usage: ensayo", command), all = FALSE)
  }
  expect_match(call_cli("--version")$output, "^ensayo [0-9.]+$")
  expect_identical(call_cli("--help")$code, 0L)
})

test_that("laws are listed and told of from the command line", {
  all <- call_cli("laws")
  expect_identical(all$code, 0L)
  for (name in law_family_names) expect_match(all$output, paste0("^  ", name, " "), all = FALSE)
  expect_match(all$output, family_weibull$about, all = FALSE, fixed = TRUE)
  expect_match(call_cli("laws", "pert")$output, "min, mode, max, weight = 4", all = FALSE)
  expect_identical(nrow(jsonlite::fromJSON(call_cli("laws", "--json")$output)), length(law_family_names))
  wrong <- call_cli("laws", "prt")
  expect_identical(wrong$code, 1L)
  expect_match(wrong$said, "Did you mean \"pert\"?", all = FALSE, fixed = TRUE)
})

test_that("check reviews, and --strict fails on warnings", {
  dir <- withr::local_tempdir()
  clean <- small_file(dir)
  writeLines(sub("runs: 100", "runs: 1000", readLines(clean)), clean)
  expect_match(call_cli("check", clean)$output, "Nothing found", all = FALSE)
  expect_match(call_cli("check", demo_file())$output, "hint, pressure: In `spring - 12`, `12` has no unit", all = FALSE)
  expect_identical(call_cli("check", demo_file(), "--strict")$code, 0L)
  idle <- small_file(dir, "3 * 2")
  checked <- call_cli("check", idle)
  expect_identical(checked$code, 0L)
  expect_match(checked$output, "warning, a: No output uses it", all = FALSE)
  expect_identical(call_cli("check", idle, "--strict")$code, 1L)
  expect_identical(jsonlite::fromJSON(call_cli("check", idle, "--json")$output)$review$about[1:2], c("a", "y"))
})

test_that("laws are fitted to a column of a file", {
  dir <- withr::local_tempdir()
  file <- file.path(dir, "costs.csv")
  costs <- quantile(law_gamma(2, 300), ppoints(40))
  writeLines(c("day,cost", paste0(1:40, ",", format(costs, digits = 12, trim = TRUE)), "41,"), file)
  fit <- call_cli("fit", file, "--column", "cost", "--laws", "gamma,normal", "--plot", file.path(dir, "fit.png"))
  expect_identical(fit$code, 0L)
  expect_match(fit$said, "1 empty cell left out", all = FALSE)
  expect_match(fit$output, "`cost: gamma\\(shape = ", all = FALSE)
  expect_gt(file.size(file.path(dir, "fit.png")), 1000)
  table <- jsonlite::fromJSON(call_cli("fit", file, "--column", "cost", "--laws", "gamma,normal", "--json")$output)
  expect_identical(table$fits$law, c("gamma", "normal"))
  expect_identical(call_cli("fit", file)$code, 2L)
  expect_match(call_cli("fit", file, "--column", "cst")$said, "Did you mean `cost`?", all = FALSE)
  writeLines(c("cost", "1", "\"2,5\"", "3"), file)
  expect_match(call_cli("fit", file)$said, "2.5", all = FALSE, fixed = TRUE)
})

test_that("the new commands have help, refuse bad calls, and never overwrite unasked", {
  dir <- withr::local_tempdir()
  for (command in c("laws", "fit", "check")) {
    help <- call_cli(command, "--help")
    expect_identical(help$code, 0L)
    expect_match(help$output, paste("ensayo", command), all = FALSE)
  }
  file <- file.path(dir, "x.csv")
  writeLines(c("x", "1", "2", "4", "7"), file)
  picture <- file.path(dir, "p.png")
  writeLines("mine", picture)
  kept <- call_cli("fit", file, "--laws", "normal", "--plot", picture)
  expect_identical(kept$code, 1L)
  expect_identical(readLines(picture), "mine")
  expect_identical(call_cli("fit", file, "--laws", "normal", "--plot", picture, "--force")$code, 0L)
  expect_identical(call_cli("fit", file, "--laws", "nrmal")$code, 1L)
  expect_identical(call_cli("fit", file, "--method", "guess")$code, 1L)
  expect_identical(call_cli("fit")$code, 2L)
  p <- call_cli("fit", file, "--laws", "normal", "--bootstrap", "9", "--seed", "1", "--json")
  expect_true(is.finite(jsonlite::fromJSON(p$output)$fits$p_ad))
})

test_that("a study with every law is checked, run and reported from the command line", {
  dir <- withr::local_tempdir()
  file <- system.file("studies", "reference.yml", package = "ensayo")
  expect_match(call_cli("check", file)$output, "No output uses it", all = FALSE)
  expect_identical(call_cli("run", file, "--runs", "200", "--out", file.path(dir, "r"), "--no-plots")$code, 0L)
  expect_identical(call_cli("report", file.path(dir, "r"))$code, 0L)
  page <- paste(readLines(file.path(dir, "r", "report.html")), collapse = "\n")
  for (name in c("soil", "zone[3]", "yearly_bursts", "observed_mean")) expect_match(page, name, fixed = TRUE)
  back <- read_result(file.path(dir, "r"))
  expect_identical(quietly(study_of(back), 200, seed = 11)$draws, back$draws)
})

test_that("draw writes a table of draws for other programs", {
  folder <- withr::local_tempdir()
  file <- file.path(folder, "main.yml")
  file.copy(demo_file(), file)
  done <- call_cli("draw", file, "--runs", "500", "--seed", "dry", "--from", "11", "--to", "20")
  expect_identical(done$code, 0L)
  expect_match(done$said, "Wrote 10 runs of 500 (Latin hypercube, seed `dry`)", fixed = TRUE, all = FALSE)
  table <- utils::read.csv(file.path(folder, "main-draws.csv"))
  expect_equal(table, unclass_table(draw_inputs(read_study(file), 500, "dry", runs = c(11, 20))), tolerance = 0,
    ignore_attr = TRUE)
  again <- call_cli("draw", file)
  expect_identical(again$code, 1L)
  expect_match(again$said, "main-draws.csv must not exist", all = FALSE)
  expect_match(call_cli("draw", file, "--from", "x")$said, "--from must be a whole number", all = FALSE)
  wrong <- call_cli("draw", file, "--seed", "1.5")
  expect_identical(wrong$code, 2L)
  expect_match(wrong$said, "--seed must be a whole number or a word", all = FALSE)
  expect_match(call_cli("run", file, "--design", "sobl")$said, "latin, random, midpoints, sobol", all = FALSE)
  out <- file.path(folder, "out")
  call_cli("run", file, "--out", out, "--runs", "64", "--seed", "dry", "--design", "sobol", "--replicates", "2", "--no-plots")
  expect_identical(read_result(out)$draws,
    simulate(read_study(file), 64, "dry", design = "sobol", replicates = 2)$draws)
})

test_that("the command line names no calls of R", {
  dir <- withr::local_tempdir()
  file <- file.path(dir, "many.yml")
  writeLines(c("study: Many", "inputs:", sprintf("  i%d: {law: normal, mean: 1, sd: 1}", 1:70), "outputs:",
    sprintf("  o%d: i%d * i%d", 1:30, 1:30, 31:60), "run: {runs: 50, seed: 1}"), file)
  for (call in list(c("check", file), c("run", file, "--out", file.path(dir, "r"), "--no-plots"), c("show", file.path(dir, "r")),
    c("drivers", file.path(dir, "r"), "--outputs", "o1,o2"))) {
    said <- do.call(call_cli, as.list(call))
    expect_identical(said$code, 0L)
    expect_false(any(grepl("[a-z_.]+\\(\\)", c(said$output, said$said))))
  }
  expect_match(format(quietly(read_study(file), 20)), "see drivers()", fixed = TRUE, all = FALSE)
  # nor does what is said of mistakes: it names parts of the file
  result <- file.path(dir, "r")
  fixed <- file.path(dir, "fixed.yml")
  writeLines(c("inputs: {a: 2}", "outputs: {y: a + 1}"), fixed)
  refused <- function(mend, ..., code = 2L) {
    said <- call_cli(...)
    expect_identical(said$code, code)
    called <- unlist(regmatches(said$said, gregexpr("(?<=`)[a-z_.]+(?=\\()", said$said, perl = TRUE)))
    expect_identical(setdiff(called, c(names(formula_verbs), law_family_names, law_forms)), character())  # what a file calls may be named
    expect_match(said$said, mend, fixed = TRUE, all = FALSE)
  }
  refused("Add them under `events` in the study file.", "events", result)
  refused("Add them under `costs` in the study file.", "costs", result)
  refused("Add them under `tasks` in the study file.", "schedule", result)
  refused("Add them under `specs` in the study file before simulating, or ask for a chance.", "plot", result, "parallel")
  refused("Name several outputs, or give results of alternatives.", "worth", result, "--output=o1", "--better=low")
  refused("`--better` must be one of", "worth", result, "--output=o1,o2", "--better=up")
  fails <- function(mend, ...) {
    writeLines(c(...), fixed)
    refused(mend, "check", fixed, code = 1L)
  }
  fails("Give it a law under `inputs` in the study file.", "inputs: {a: 2, b: {law: normal, mean: 1, sd: 1}}", "correlations: [{between: [a, b], rank: 0.3}]",
    "outputs: {y: a + b}")
  fails("Add outputs under `outputs` in the study file.", "inputs: {a: 2}")
  writeLines(c("inputs: {a: 2}", "outputs: {y: a + 1}"), fixed)
  refused("such as `measured(20.02, expanded = 0.06, k = 2)`", "budget", fixed)
  fails("That is a reading of the result.", "inputs: {a: {law: normal, mean: 1, sd: 1}}", "outputs: {y: sum(a)}")
  fails("`pump: {state: pump + 1, start: ...}`", "inputs: {a: 2}", "models: {tank: {steps: 3, lines: {pump: pump + 1}}}", "outputs: {y: a}")
  fails("`events` is not an input or output", "inputs: {a: 2}", "outputs: {y: sum(events)}")
  expect_match(capture.output(withCallingHandlers(warn_ensayo("See the list (`failures()`).", "x"), warning = say_warning), type = "message"), "See the list.$")
})
