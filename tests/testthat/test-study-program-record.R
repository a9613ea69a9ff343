network_file <- function() system.file("studies", "network.yml", package = "ensayo", mustWork = TRUE)

# A study file with a program, and a file that the program would make.
harmful_file <- function(dir) {
  file <- file.path(dir, "study.yml")
  writeLines(c("ensayo: 1", "inputs: {a: {law: uniform, min: 0, max: 1}}", "models:", "  touch:",
    sprintf("    program: [sh, -c, \"echo made > %s; echo @[a]\"]", file.path(dir, "made")),
    "    outputs: {y: {line: 1, unit: m}}", "outputs: {z: 2 * y}", "specs: [z > 1]", "run: {runs: 20, seed: 1}"), file)
  file
}

test_that("a file's program runs only when that was said, and the error shows what would run", {
  skip_on_os("windows")
  dir <- withr::local_tempdir()
  s <- read_study(harmful_file(dir))
  for (attempt in list(function() quietly(s, 5), function() try_run(s), function() evaluate(s, a = 1), function()
    simulate_into(s, file.path(dir, "r"), 5), function() variance_indices(s, 10), function() one_at_a_time(s))) {
    expect_fault(attempt(), "model", "only when you say so", "echo made", "--run-programs")
  }
  expect_output(print(s), "sh -c .*echo made")
  expect_silent(review(s))
  expect_identical(nrow(draw_inputs(s, 5)), 5L)
  refused <- call_cli("run", file.path(dir, "study.yml"), "--out", file.path(dir, "out"))
  expect_identical(refused$code, 1L)
  expect_match(paste(refused$said, collapse = " "), "--run-programs")
  checked <- call_cli("check", file.path(dir, "study.yml"))
  expect_identical(checked$code, 0L)
  expect_match(checked$output, "sh -c .*echo made", all = FALSE)
  expect_match(checked$output, "needs the programs above", all = FALSE)
  expect_identical(call_cli("draw", file.path(dir, "study.yml"), "--out", file.path(dir, "d.csv"))$code, 0L)
  expect_false(file.exists(file.path(dir, "made")))
  done <- call_cli("run", file.path(dir, "study.yml"), "--out", file.path(dir, "out"), "--run-programs", "--force")
  expect_identical(done$code, 0L)
  expect_true(file.exists(file.path(dir, "made")))
  unlink(file.path(dir, "made"))
  # reading a result runs nothing, nor does its report
  res <- read_result(file.path(dir, "out"))
  write_report(res, file.path(dir, "page.html"))
  expect_equal(res$z, 2 * res$y)
  expect_fault(repeat_runs(res, 1), "model", "only when you say so")
  expect_false(file.exists(file.path(dir, "made")))
  expect_true(all(repeat_runs(res, 1:2, study = allow_programs(study_of(res)))$same))
})

test_that("programs come back from a file as they were", {
  s <- read_study(network_file())
  dir <- withr::local_tempdir()
  template <- file.path(dir, "t.txt")
  cat("  lead @[a %8.3f] @@[x]\n\n[ { & * ] \"quoted\" 'it' \\ é\n\tend", file = template)
  cat("#!/bin/sh\nexit 0\n", file = file.path(dir, "run.sh"))
  Sys.chmod(file.path(dir, "run.sh"), "755")
  rich <- study("Rich") |> add_inputs(a = law_normal(0, 1), b = 3) |> add_outputs(first = 2 * a) |>
    add_program(c("./run.sh", "--a", "@[first %.2e]", "x y"), list(
      y = output(from_line(-3, column = -1, file = "out/l.txt", after = "RESULT: [x]", separator = ";"), unit = "m", label = "Y"),
      w = from_line(2, from = 3, to = 9), z = from_text("a (\\d+)", -1, regex = TRUE),
      s = output(from_csv("level", row = NULL, separator = ";"), steps = c(1, 2.5, 4), group = "g"),
      d = output(from_json("/a~1b/0", "o.json"), kind = "date")),
      name = "rich model", templates = c("in/case 1.txt" = template), files = file.path(dir, "run.sh"), input = "json",
      needs = c("b", "first"), environment = c(LEVEL = "@[a]"), time_limit = Inf, statuses = c(0, 3),
      must_hold = c("done", "l.txt" = "OK"), must_not_hold = "bad", most_mb = 7) |>
    add_outputs(after = y + z)
  kept <- study("Stays") |> add_inputs(a = law_normal(0, 1)) |> add_program(c("perl", "p.pl"), "y", persistent = TRUE)
  shell <- rename_inputs(study("Shell") |> add_inputs(a = law_normal(0, 1)) |>
    add_program("echo @[a]; cat", list(y = from_line(1)), shell = TRUE, input = "json"), start = a)
  for (one in list(s, rich, kept, shell)) {
    file <- withr::local_tempfile(fileext = ".yml")
    write_study(one, file)
    back <- read_study(file)
    expect_identical(study_hash(back), study_hash(one))
    expect_identical(allow_programs(back)$outputs, allow_programs(one)$outputs)
    again <- withr::local_tempfile(fileext = ".yml")
    write_study(back, again)
    expect_identical(readLines(again), readLines(file))
  }
  expect_fault(write_study(add_program(study("x") |> add_inputs(a = law_normal(0, 1)), "cat", list(y = function(folder) 1)),
    withr::local_tempfile(fileext = ".yml")), "file", "that a file cannot hold")
})

test_that("what a file says wrongly of a program is told with its place", {
  dir <- withr::local_tempdir()
  wrong <- function(lines, cause, ...) {
    file <- file.path(dir, "wrong.yml")
    writeLines(c("ensayo: 1", "inputs: {a: {law: uniform, min: 0, max: 1}}", "models:", "  m:", lines), file)
    expect_fault(read_study(file), cause, "wrong.yml", ...)
  }
  wrong("    program: [cat]", "file", "outputs")
  wrong(c("    program: [cat, \"@[b]\"]", "    outputs: {y: {line: 1}}"), "name", "`b` is none")
  wrong(c("    program: [cat]", "    outputs: {y: {lime: 1}}"), "file", "`lime`", "line")
  wrong(c("    program: [cat]", "    outputs: {y: {line: 1, match: 2}}"), "file", "`match`")
  wrong(c("    program: [cat]", "    progam: x", "    outputs: {y: {line: 1}}"), "file", "`progam`")
  wrong(c("    program: [cat]", "    outputs: {y: {line: 0}}"), "argument", "other than 0")
  wrong(c("    program: [cat]", "    templates: {t: {file: ../secret}}", "    outputs: {y: {line: 1}}"), "file", "folder")
  wrong(c("    program: [cat]", "    templates: {../t: {text: x}}", "    outputs: {y: {line: 1}}"), "argument", "run's folder")
  wrong(c("    program: [cat]", "    time_limit: -2", "    outputs: {y: {line: 1}}"), "argument", "above 0")
  wrong(c("    program: [cat]", "    outputs: {y: {line: 1}}", "outputs: {z: {by: other}}"), "file", "`other`")
})

test_that("the network of Valdehoz is coupled as the example says, and fails as it should", {
  skip_on_os("windows")
  skip_if(!nzchar(Sys.which("awk")))
  tried <- call_cli("try", network_file(), "market=8", "--run-programs")
  expect_identical(tried$code, 0L)
  expect_match(tried$output, "case.txt, line 13 +market +NODE market +12.0 +8.000", all = FALSE)
  expect_match(tried$output, "listing.txt, line 15 +pressure", all = FALSE)
  expect_identical(call_cli("try", network_file(), "market", "--run-programs")$code, 2L)
  s <- allow_programs(read_study(network_file()))
  dir <- file.path(withr::local_tempdir(), "net")
  res <- simulate_into(s, dir, 200, seed = 11, progress = NULL)
  table <- as.data.frame(failures(res))
  expect_true(any(grepl("took longer", table$reason)) && any(grepl("CONVERGED IN", table$reason)))
  expect_true(all(startsWith(table$folder[nzchar(table$folder)], normalizePath(dir))))
  expect_identical(failures(read_result(dir)), failures(res))
  # Cross's balance by another route: flows that bring both ways around the loop to the same head
  balance <- function(d, booster) {
    f <- function(name, q) 8 * d$friction * c(feeder = 620, upper = 410, lower = 480, east = 350, west = 300)[[name]] /
      (9.81 * 3.14159265^2 * c(feeder = d$feeder, upper = 0.1, lower = 0.1, east = 0.08, west = 0.08)[[name]]^5) * q * abs(q) / 1e6
    total <- d$market + d$school + d$mill + d$last
    around <- function(q) f("upper", q) + f("east", q - d$school) - f("lower", total - d$market - q) -
      f("west", total - d$market - q - d$mill) + booster
    q <- uniroot(around, c(0, total), tol = 1e-12)$root
    c(d$level - f("feeder", total) - f("upper", q) - f("east", q - d$school) - 21, total)
  }
  good <- which(!is.na(res$pressure))[1:12]
  told <- vapply(good, function(i) {
    run <- run_details(res, i)
    balance(run$inputs, 5.5 * any(grepl("BOOSTER ON", readLines(file.path(run$models[[1]]$folder, "listing.txt")))))
  }, numeric(2))
  # the case has three decimals of a demand
  expect_equal(res$pressure[good], told[1, ], tolerance = 2e-4)
  expect_equal(res$flow[good], told[2, ], tolerance = 2e-4)
})

test_that("a run can be watched: how far it is, and what is known of an output so far", {
  skip_on_os("windows")
  file <- slow_file(withr::local_tempdir(), 120, 0.03)
  out <- file.path(dirname(file), "out")
  done <- call_cli("run", file, "--out", out, "--run-programs", "--watch", "z")
  lines <- grep("of 120 runs", done$said, value = TRUE)
  expect_gte(length(lines), 2)
  res <- read_result(out)
  expect_match(lines[length(lines)], sprintf("120 of 120 runs, %d failed, .* a second. z: mean %s", length(unique(failures(res)$run)),
    format_decimals(mean(res$z, na.rm = TRUE), output_decimals(res, "z"))))
  expect_match(lines[1], "left. z: mean .* P10 ")
  expect_identical(call_cli("run", file, "--out", out, "--force", "--run-programs", "--watch", "w")$code, 2L)
  seen <- list()
  # formulas that call a function of the user's are evaluated in parts
  same <- function(a) a
  quietly_watched <- simulate(three_normals() |> add_outputs(y = same(a)), 5000, 1, progress = function(done, all, so_far) {
    seen[[length(seen) + 1]] <<- c(done, length(so_far()$values$y))
  })
  expect_gt(length(seen), 1)
  expect_true(all(vapply(seen, function(pair) pair[1] == pair[2], NA)))
})

test_that("a page shows how far a simulation is, and what is known so far", {
  same <- function(a) a
  s <- three_normals() |> add_outputs(y = output(ifelse(a > 2, NA, same(a)), unit = "m")) |> add_specs(y < 1)
  dir <- withr::local_tempdir()
  page <- function() readLines(file.path(dir, "progress.html"))
  told <- character()
  progress <- progress_page(s, y, dir, every = 0, show = function(done, all) told <<- c(told, paste(done, all)))
  seen <- list()
  res <- simulate(s, 20000, seed = 4, progress = function(done, all, so_far) {
    progress(done, all, so_far)
    if (!length(seen)) seen <<- list(done = done, page = page(), values = so_far()$values$y)
  })
  good <- seen$values[is.finite(seen$values)]
  # the same figures as a result's own: read by hand here
  expect_match(seen$page, sprintf("%d of 20 000 runs, %d failed", seen$done, length(seen$values) - length(good)), all = FALSE)
  expect_match(seen$page, sprintf("<td>%s .{1,3} %s</td>", format_decimals(mean(good), 2), format_number(1.96 * sd(good) /
    sqrt(length(good)), 2)), all = FALSE)
  expect_match(seen$page, "http-equiv=\"refresh\"", all = FALSE)
  expect_match(seen$page, "Not enough|Value and its 95 % interval", all = FALSE)
  expect_match(page(), "Simulation, done", all = FALSE)
  expect_false(any(grepl("refresh", page())))
  expect_match(page(), "20 000 of 20 000 runs", all = FALSE)
  expect_setequal(list.files(dir), c("progress.html", "progress.png"))
  expect_identical(told[length(told)], "20000 20000")
  expect_identical(simulate(s, 20000, seed = 4, progress = NULL)$y, res$y)
  expect_fault(progress_page(s, z, dir), "name", "`z`")
  # of runs that all fail, and of one run
  failing <- three_normals() |> add_outputs(y = a / 0)
  expect_warning(simulate(failing, 50, seed = 1, progress = progress_page(failing, y, dir, show = NULL)), "Every run")
  expect_match(page(), "Not enough runs yet", all = FALSE)
  quiet <- three_normals() |> add_outputs(y = a)
  simulate(quiet, 1, seed = 1, progress = progress_page(quiet, y, dir, show = NULL))
  expect_match(page(), "1 of 1 run", all = FALSE)
  # on the command line, with targets too, the page stays as the result has it
  file <- small_file(dir)
  out <- file.path(dir, "out")
  for (more in list(character(), c("--until", "mean of y within 0.1"))) {
    expect_identical(call_cli("run", file, "--out", out, "--force", "--watch", "y", "--page", "--no-plots", more)$code, 0L)
    res <- read_result(out)
    expect_match(readLines(file.path(out, "progress.html")), sprintf("%s .{1,3} ", format_decimals(mean(res$y),
      output_decimals(res, "y"))), all = FALSE)
  }
  expect_match(call_cli("run", file, "--out", out, "--force", "--page")$said, "--page goes with --watch", all = FALSE)
})
