skip_on_os("windows")

# A study whose program is a shell script that gets `a` and `b` and prints what it makes of them.
by_script <- function(script, outputs = list(y = from_text("y =")), ..., template = "@[a]\n@[b %10.4f]\n", name = "script") {
  folder <- withr::local_tempdir(.local_envir = parent.frame())
  writeLines(script, file.path(folder, "script.sh"))
  cat(template, file = file.path(folder, "case.txt"))
  study("By a script") |> add_inputs(a = law_normal(10, 1), b = law_uniform(0, 1)) |>
    add_program(c("sh", "script.sh"), outputs, ..., templates = file.path(folder, "case.txt"),
      files = file.path(folder, "script.sh"), name = name)
}
twice <- c("read a < case.txt", "echo \"y = $(awk -v a=$a 'BEGIN { printf \"%.15g\", 2 * a }')\"")

test_that("a program makes each run in a folder of its own, which goes", {
  root <- withr::local_tempdir()
  res <- quietly(by_script(twice, folder = file.path(root, "runs")), 20)
  expect_equal(res$y, 2 * res$a, tolerance = 1e-14)
  expect_identical(nrow(failures(res)), 0L)
  expect_identical(list.files(root, all.files = TRUE, no.. = TRUE), character())
  expect_identical(quietly(by_script(twice), 20)$y, res$y)
  # other tests may be at work in the same folder
  expect_length(list.files(file.path(tempdir(), "ensayo-runs"), "^script-run"), 0)
})

test_that("runs that fail say why, keep their folders, and take nothing along", {
  script <- c("read a < case.txt", "case $a in [78]*) exit 3;; 9.[0-4]*) echo 'y = lost';; 9*) sleep 20;; 10.0*) kill -9 $$;;",
    "10.1*) echo 'y = 1e999';; 11*) echo BAD;; *) echo \"y = $a\";; esac")
  s <- by_script(script, time_limit = 0.3, must_not_hold = "BAD")
  res <- quietly(s, 60)
  reason <- failures(res)$reason[match(seq_len(60), failures(res)$run)]
  said <- function(pattern) unique(reason[grepl(pattern, format(res$a))])
  expect_identical(unique(reason[res$a < 9]), "it ended with status 3")
  expect_identical(unique(reason[res$a >= 9 & res$a < 9.5]), "\"lost\" is no number")
  expect_identical(unique(reason[res$a >= 9.5 & res$a < 10]), "it took longer than 0.3 s and was ended")
  expect_identical(unique(reason[res$a >= 10 & res$a < 10.1]), "it ended with status 137")
  expect_identical(unique(reason[res$a >= 10.1 & res$a < 10.2]), "infinite (Inf)")
  expect_identical(unique(reason[res$a >= 11 & res$a < 12]), "\"BAD\" stands in its output")
  good <- is.na(reason)
  expect_equal(res$y[good], res$a[good])
  folders <- as.data.frame(failures(res))$folder
  expect_true(all(dir.exists(folders)))
  expect_true(file.exists(file.path(folders[1], "case.txt")))
  expect_match(format(res), "y failed in [0-9]+ runs: it took longer", all = FALSE)
  expect_match(format(res), "y failed in [0-9]+ runs: it ended with status 3", all = FALSE)
})

test_that("what a program leaves behind is ended, and one that fills its folder too", {
  mark <- basename(tempfile("left"))
  s <- by_script(c(sprintf("sh -c 'sleep 30; : %s' &", mark), twice))
  expect_identical(nrow(failures(quietly(s, 3))), 0L)
  Sys.sleep(0.2)
  expect_false(any(grepl(paste0("sleep 30; : ", mark), system2("ps", c("-eo", "args"), stdout = TRUE))))
  full <- by_script("yes > big.txt", most_mb = 5, keep = "none")
  expect_identical(failures(suppressWarnings(quietly(full, 1)))$reason, "its folder grew beyond 5 MB")
})

test_that("both ways to start a process do the same", {
  folder <- withr::local_tempdir()
  cat("from a file", file = file.path(folder, "in.txt"))
  for (start in list(start_by_system, start_by_library)) {
    done <- run_process(c("/bin/sh", "-c", "cat; echo \"$PLACE $1\" >&2; exit 7", "sh", "a b"), folder, c(PLACE = "here $HOME"),
      file.path(folder, "in.txt"), 5, Inf, start)
    expect_identical(done$status, 7L)
    expect_identical(readLines(file.path(folder, "standard-output.txt"), warn = FALSE), "from a file")
    expect_identical(readLines(file.path(folder, "standard-error.txt")), "here $HOME a b")
    slow <- run_process(c("/bin/sh", "-c", "sleep 20 & sleep 20"), folder, character(), NULL, 0.2, Inf, start)
    expect_match(slow$fault, "longer than 0.2 s")
    expect_lt(slow$seconds, 2)
  }
  # a process that was ended is not left to the system either
  states <- system2("ps", c("-o", "stat=", "--ppid", Sys.getpid()), stdout = TRUE)
  expect_false(any(startsWith(states, "Z")))
  expect_match(try_run(by_script("exit 0", statuses = 1))$failures$reason, "status 0")
})

test_that("inputs go by arguments, the environment and standard input, and never through a shell unquoted", {
  outputs <- list(y = output(from_line(1), unit = "m"), z = from_line(2))
  start <- study("x") |> add_inputs(a = law_normal(10, 1), kind = law_discrete(c("a b; echo 9", "$(exit 3)"), c(0.5, 0.5)))
  by_argument <- start |> add_program(c("printf", "%s\\n%s\\n", "@[a]", "@[a %.1f]"), outputs)
  res <- quietly(by_argument, 5)
  expect_identical(res$y, res$a)
  expect_equal(res$z, round(res$a, 1))
  by_environment <- start |> add_program(c("sh", "-c", "echo $A; echo $A"), outputs, environment = c(A = "@[a]"))
  expect_identical(quietly(by_environment, 5)$y, res$a)
  by_input <- start |> add_program("cat", outputs, input = "@[a]\n@[a %d]\n")
  expect_equal(quietly(by_input, 5)$z, round(res$a))
  by_json <- start |> add_program("cat", list(y = from_json("/a"), run = from_json("/run")) |> stats::setNames(c("y", "number")),
    input = "json", needs = c("a", "kind"))
  json <- quietly(by_json, 5)
  expect_identical(json$y, res$a)
  expect_equal(json$number, 1:5)
  shell <- start |> add_program("echo @[a]; echo 4 # @[kind]", outputs, shell = TRUE)
  x <- quietly(shell, 5)
  expect_identical(x$y, res$a)
  expect_equal(unique(x$z), 4)
  quoted <- start |> add_program("test -n @[kind]x && echo @[a] && echo 4", outputs, shell = TRUE)
  expect_equal(unique(quietly(quoted, 5)$z), 4)
})

test_that("a persistent program is started once, and again after it had to be ended", {
  skip_if(!nzchar(Sys.which("perl")))
  folder <- withr::local_tempdir()
  started <- file.path(folder, "started")
  writeLines(c("$| = 1; open(F, '>>', $ARGV[0]); print F \"x\\n\"; close F;",
    "while (<STDIN>) { /\"a\":([-0-9.e+]+)/; my $a = $1; sleep 30 if $a < 8.5; exit 4 if $a > 11.9;",
    "if ($a > 11.5) { print \"{\\\"error\\\": \\\"too large\\\"}\\n\" } elsif ($a > 11) { print \"none\\n\" }",
    "else { printf \"{\\\"y\\\": %.17g, \\\"at\\\": {\\\"z\\\": [1, %.17g]}}\\n\", 2 * $a, $a } }"), file.path(folder, "p.pl"))
  s <- study("x") |> add_inputs(a = law_normal(10, 1)) |>
    add_program(c("perl", file.path(folder, "p.pl"), started),
      list(y = output(unit = "m"), z = from_json("/at/z/1")), persistent = TRUE, time_limit = 0.5, name = "stays")
  base <- try_run(s)
  expect_identical(base$outputs$y, 20)
  unlink(started)
  res <- quietly(s, 100)
  x <- res$a
  reason <- failures(res)$reason[match(1:100, failures(res)$run)]
  expect_identical(unique(reason[x < 8.5]), "it gave no answer within 0.5 s and was ended")
  expect_identical(unique(reason[x > 11.9]), "it ended with status 4")
  expect_identical(unique(reason[x > 11.5 & x <= 11.9]), "too large")
  expect_identical(unique(reason[x > 11 & x <= 11.5]), "its answer is no JSON object")
  good <- x >= 8.5 & x <= 11
  expect_equal(res$y[good], 2 * x[good], tolerance = 1e-15)
  expect_identical(res$z[good], x[good])
  # once for the base case, once for the runs, and after each that ended it or whose answer is none
  ended <- which(x < 8.5 | x > 11.9 | x > 11 & x <= 11.5)
  expect_length(readLines(started), 2 + sum(ended < 100))
  expect_output(print(base), "\\{\"run\":1,\"a\":10\\}")
})

test_that("an answer is never taken for another run's", {
  skip_if(!nzchar(Sys.which("perl")))
  talking <- function(after) {
    script <- withr::local_tempfile(.local_envir = parent.frame())
    writeLines(c("$| = 1; while (<STDIN>) { /\"run\":([0-9]+),\"a\":([-0-9.e+]+)/; my ($r, $a) = ($1, $2);",
      "printf \"{\\\"run\\\": $r, \\\"y\\\": %.17g}\\n\", $a;", after, "}"), script)
    study("x") |> add_inputs(a = law_normal(10, 1)) |>
      add_program(c("perl", script), "y", persistent = TRUE, time_limit = 5, name = "talks")
  }
  # a word too much, an answer twice, and one that comes late
  for (after in c("print \"done\\n\";", "printf \"{\\\"run\\\": $r, \\\"y\\\": 0}\\n\";",
    "select(undef, undef, undef, 0.01); printf \"{\\\"run\\\": $r, \\\"y\\\": 0}\\n\";")) {
    res <- suppressWarnings(quietly(talking(after), 40))
    good <- setdiff(1:40, failures(res)$run)
    expect_equal(res$y[good], res$a[good], tolerance = 1e-15)
  }
  expect_identical(nrow(failures(quietly(talking(""), 40))), 0L)
  plain <- study("x") |> add_inputs(a = law_normal(10, 1))
  expect_fault(add_program(plain, c("perl", "@[a]"), "y", persistent = TRUE), "argument", "no marks")
  expect_fault(add_program(plain, "cat", "y", persistent = TRUE, must_hold = "OK"), "argument", "must_hold", "persistent")
  expect_fault(add_program(plain, "cat", list(y = from_line(1)), input = 5), "argument", "input")
  expect_fault(add_program(plain, "cat", "y", persistent = TRUE, environment = c(A = "@[a]")), "argument", "no marks")
})

test_that("series come from tables and lists, with the steps that were said", {
  script <- c("read a < case.txt", "echo step,level", "for i in 1 2 3; do echo $i,$i$a; done")
  s <- by_script(script, list(level = output(from_csv("level", row = NULL), unit = "m", steps = 1:3))) |>
    add_outputs(end = last(level))
  res <- quietly(s, 4)
  expect_equal(res$end, as.double(paste0("3", format(res$a, digits = 17, trim = TRUE))), tolerance = 1e-12)
  short <- by_script(script[1:2], list(level = output(from_csv("level", row = NULL), steps = 1:3)))
  expect_match(failures(suppressWarnings(quietly(short, 2)))$reason, "0 values, not 3")
})

test_that("programs follow renaming, hash by what they do, and are refused where they cannot be", {
  s <- by_script(twice)
  expect_identical(quietly(rename_inputs(s, first = a), 10)$y, quietly(s, 10)$y)
  expect_identical(study_hash(s), study_hash(by_script(twice, keep = "all", folder = tempdir())))
  expect_false(study_hash(s) == study_hash(by_script(twice, template = "@[a]\n")))
  expect_fault(remove_inputs(s, b), "name", "`script`")
  plain <- study("x") |> add_inputs(a = law_normal(10, 1))
  expect_fault(quietly(add_program(plain, "no-such-program", list(y = from_line(1))), 2), "model", "not found")
  expect_fault(add_program(plain, "cat", list(y = "a")), "argument", "readers")
  expect_fault(add_program(plain, character(), list(y = from_line(1))), "argument", "`command`")
  expect_fault(add_program(plain, c("echo", "@[b]"), list(y = from_line(1))), "name", "`b` is none")
  expect_fault(add_program(plain, "cat", list(a = from_line(1))), "name", "a")
  expect_fault(add_program(plain, "cat", list(y = from_line(1)), needs = a), "argument", "json")
  expect_fault(add_program(plain, "cat", list(y = from_line(1)), templates = "none.txt"), "file", "none.txt")
  expect_fault(add_program(plain, "cat", list(y = from_line(1)), time_limit = 0), "argument", "above 0")
  expect_fault(add_program(plain, "cat", list(y = from_line(1)), limit = 3), "argument", "limit")
})

test_that("a run shows all that happened in it, and is made again alone", {
  s <- by_script(c(twice, "echo oh dear >&2; case $a in 8*|9.2*|9.3*|12*) exit 1;; esac"))
  trial <- try_run(s, b = 0.25)
  expect_identical(trial$outputs$y, 20)
  expect_snapshot(cat(gsub("[0-9.]+ s$", "0.1 s", sub("^  in .*", "  in     FOLDER", sub("/[^ ]*/sh ", "sh ", format(trial)))), sep = "\n"))
  expect_match(format(try_run(s, a = 12)), "standard-error.txt, line 1 +oh dear", all = FALSE)
  res <- quietly(s, 30)
  bad <- failures(res)$run[1]
  expect_match(format(run_details(res, bad)), "failed: it ended with status 1", all = FALSE)
  again <- repeat_runs(res, c(bad, setdiff(1:30, failures(res)$run)[1]))
  expect_true(all(again$same))
  mended <- repeat_runs(res, study = by_script(twice))
  expect_equal(mended$repeated, 2 * res$a[mended$run])
  expect_false(any(mended$same))
  based <- set_base(s, run_details(res, 2)$inputs)
  expect_identical(base_values(based)$a, res$a[2])
  expect_fault(run_details(res, 31), "argument", "from 1 to 30")
})

test_that("a real circuit simulator is coupled by its deck and its listing", {
  skip_if(!nzchar(Sys.which("ngspice")), "ngspice is not installed (Debian: ngspice)")
  deck <- withr::local_tempfile()
  writeLines(c("* low pass of the flow meter's transmitter", "V1 in 0 DC 0 AC 1", "R1 in out @[ohms %.8g]", "C1 out 0 @[farads %.8e]",
    ".ac dec 400 10 100k", ".print ac vdb(out)",
    ".meas ac corner WHEN vdb(out)=-3.0102999566 CROSS=1", ".end"), deck)
  s <- study("Transmitter of the flow meter") |>
    add_inputs(ohms = law_normal(1590, 20), farads = law_triangular(0.9e-7, 1e-7, 1.1e-7)) |>
    add_program(c("ngspice", "-b", "deck.cir"), list(corner = output(from_text("corner"), unit = "Hz")),
      templates = c(deck.cir = deck), time_limit = 20)
  res <- quietly(s, 40)
  expect_identical(nrow(failures(res)), 0L)
  expect_equal(res$corner, 1 / (2 * pi * res$ohms * res$farads), tolerance = 1e-4)
})

test_that("workers that make and take away the same folder do not get into each other's way", {
  skip_on_os("windows")
  model <- list(name = "m", here = list(folder = file.path(withr::local_tempdir(), "runs", "failed")))
  made <- parallel::mclapply(1:4, function(worker) {
    vapply(1:300, function(run) {
      root <- runs_root(model, NULL)
      folder <- run_folder(root, model, 1000 * worker + run)
      unlink(folder, recursive = TRUE)
      unlink_empty(root)
      basename(folder)
    }, "")
  }, mc.cores = 4)
  expect_identical(as.character(unlist(Filter(function(one) inherits(one, "try-error"), made))), character())
  expect_identical(made, lapply(1:4, function(worker) sprintf("m-run-%d", 1000 * worker + 1:300)))
})
