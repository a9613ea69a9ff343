# Writes lines to a study file and returns its path.
study_file <- function(..., envir = parent.frame()) {
  file <- withr::local_tempfile(fileext = ".yml", .local_envir = envir)
  writeBin(charToRaw(enc2utf8(paste0(paste(c(...), collapse = "\n"), "\n"))), file)
  file
}
plain_inputs <- c("study: t", "inputs:", "  a: {law: normal, mean: 3, sd: 1}", "  b: 2")
with_formula <- function(formula, envir = parent.frame()) {
  study_file(plain_inputs, "outputs:", paste0("  y: '", gsub("'", "''", formula), "'"), envir = envir)
}

test_that("the demo file says what the script says", {
  from_file <- read_study(demo_file())
  by_hand <- gravity_main()
  expect_identical(lapply(from_file$inputs, function(i) i$law), lapply(by_hand$inputs, function(i) i$law))
  expect_identical(from_file$correlations, by_hand$correlations)
  expect_identical(lapply(from_file$outputs, function(o) o$formula), lapply(by_hand$outputs, function(o) o$formula))
  expect_identical(quietly(from_file)$outputs, quietly(by_hand)$outputs)
  read <- read_study_file(demo_file())
  expect_identical(read$run, list(runs = 10000, seed = 11, design = "latin", replicates = 1, block = NULL,
    until = NULL, most = NULL))
  expect_identical(read$study$readings$percentiles, c(5, 10, 50, 90, 95))
})

test_that("what is written reads back the same", {
  k <- 1 / 3
  rates <- c(0.1, 0.2)
  s <- study("Quotes \"and\" back\\slash: yes", question = "Line one\nline two") |>
    add_inputs(
      y = input(law_lognormal(meanlog = 0.1, sdlog = 1 / 3, min = -5), base = 2, unit = "m\u00b3/s",
        note = "1,5 # no: comment"),
      n = 2 * law_triangular(1, 2, 4) - 1 / 7, yes = input(4200, unit = "on"), `peak demand` = law_uniform(0,
        1e-300), q = law_normal(0, 1)
    ) |>
    add_outputs(off = if (y > k) y * mean(rates) else -n, no = output(off %in% c(1, 2), label = "null"),
      `null` = max(y, `peak demand`, 1e10)) |>
    add_correlation(y, n, -0.3) |> add_correlation(y, q, 0) |> fix_inputs(q = 0.5) |>
    add_specs(true = off >= k, y > 0 || n < 1)
  file <- withr::local_tempfile()
  write_study(s, file)
  back <- read_study(file)
  expect_identical(input_table(back), input_table(s))
  expect_identical(back$inputs, s$inputs)
  expect_identical(back$correlations, s$correlations)
  expect_identical(quietly(back)$outputs, quietly(s)$outputs)
  expect_identical(names(back$specs)[1], "true")
  again <- withr::local_tempfile()
  write_study(back, again)
  expect_identical(read_study(again), back)
  expect_fault(write_study(s, file), "file", "must not exist yet")
  expect_silent(write_study(s, file, overwrite = TRUE))
  own <- function(x) x
  expect_fault(write_study(add_outputs(s, o = own(y)), again, overwrite = TRUE), "file", "`own`")
})

test_that("YAML's own readings of words and numbers do not come through", {
  s <- read_study(study_file("study: t", "inputs:", "  n: {law: normal, mean: 010, sd: 1e-3}", "  y: 1.0e3",
    "  off: 3000000000",
    "outputs:", "  yes: n * y", "  no: off + y", "specs:", "  true: no > 3"))
  expect_identical(names(s$inputs), c("n", "y", "off"))
  expect_identical(s$inputs$n$law, law_normal(10, 0.001))
  expect_identical(s$inputs$off$base, 3e9)
  expect_identical(names(s$outputs), c("yes", "no"))
  expect_identical(names(s$specs), "true")
  windows <- withr::local_tempfile()
  writeBin(c(as.raw(c(0xef, 0xbb, 0xbf)), charToRaw("study: t\r\ninputs:\r\n  a: 3\r\noutputs:\r\n  y: a * 2\r\n")),
    windows)
  expect_identical(read_study(windows)$outputs$y$formula$text, "a * 2")
})

test_that("no function outside the language can be reached from a file", {
  spellings <- c(
    'system("ls")', '"system"("ls")', "`system`('ls')", '(system)("ls")', 'base::system("ls")', 'base:::system("ls")',
    'do.call("system", "ls")', 'eval(parse(text = "1"))', "(function(x) x)(a)", '(\\(x) system("ls"))(a)',
    'a$system("ls")', 'a |> system()', 'get("system")("ls")', '{system("ls")}', 'min(a, system("ls"))',
    'a %in% system("ls")', 'a %in% c(system("ls"))', 'if (a > 0) system("ls") else 1', 'if (system("ls")) 1 else 2',
    'sqrt(a, base = system("ls"))', "x <- 3", "a[1]", "a[[1]]", "cumsum(a)", "mean(a)", "pnorm(a)", "c(a, b)", "a ~ b",
    "Sys.time()", "quote(a)", "function(x) x", "NULL", "library(x)", "a; b", "runif(1)", ".Internal(x(a))", "`if`(a)",
    "NA_character_(a)"
  )
  for (spelling in spellings) {
    error <- expect_error(read_study(with_formula(spelling)), class = "ensayo_error")
    expect_match(conditionMessage(error), "Output `y`", fixed = TRUE, label = spelling)
    expect_identical(error$line, 6L)
  }
  touched <- withr::local_tempfile()
  expect_error(read_study(study_file("study: t", "inputs:", sprintf("  a: !expr file.create('%s')", touched),
    "outputs:", "  y: a")))
  expect_false(file.exists(touched))
  # session values are out of reach too
  session_value <- 3
  expect_fault(read_study(with_formula("a * session_value")), "name", "`session_value`")
  expect_fault(read_study(with_formula(strrep("a+", 6000))), "formula", "10000 characters")
  expect_fault(read_study(with_formula(paste(rep("a", 700), collapse = "+"))), "formula", "nested")
})

test_that("mistakes in a file are told with their line and the nearest word", {
  outputs <- c("outputs:", "  y: a + b")
  expect_fault(read_study(study_file("study: t", "inputs:", "  a: {law: normal, mean: 3", "outputs:", "  y: a")),
    "file", "line 4", "YAML")
  expect_fault(read_study(study_file(plain_inputs, "outpust:", "  y: a")), "file", "line 5", "Did you mean `outputs`?")
  expect_fault(read_study(study_file("inputs:", "  a: {law: normal, mean: 3, sdd: 1}", outputs)), "file", "line 2",
    "Did you mean `sd`?")
  expect_fault(read_study(study_file("inputs:", "  a: {law: norml, mean: 3, sd: 1}", outputs)), "file", "line 2",
    "Did you mean `normal`?")
  expect_fault(read_study(study_file("inputs:", "  a: {law: normal, mean: 3}", outputs)), "file", "`sd` is missing")
  expect_fault(read_study(study_file("inputs:", "  a: {law: normal, mean: '1,5', sd: 1}", outputs)), "file", "line 2",
    "1.5")
  expect_fault(read_study(study_file("inputs:", "  a: {law: normal, mean: 3, sd: 0}", outputs)), "argument", "line 2",
    "`sd`")
  expect_fault(read_study(study_file(plain_inputs, "  a: 4", outputs)), "name", "line 5", "`a` stands twice")
  expect_fault(read_study(study_file(plain_inputs, "  run: 4", outputs)), "name", "line 5", "`run`")
  expect_fault(read_study(study_file(plain_inputs, "correlations:", "  - {between: [a, b], rank: 0.5}", outputs)),
    "correlation", "`b` must vary")
  expect_fault(read_study(study_file(plain_inputs, "correlations:", "  - {between: [a, aa], rank: 0.5}", outputs)),
    "name", "aa")
  expect_fault(read_study(study_file(plain_inputs, "correlations:", "  - {between: [a], rank: 0.5}", outputs)),
    "file", "two inputs")
  expect_fault(read_study(study_file(plain_inputs, "outputs:", "  y: z", "  z: y")), "cycle", "`y` needs `z`")
  expect_fault(read_study(study_file(plain_inputs, "outputs:", "  y: sqrt(a")), "formula", "line 6", "end of input")
  expect_fault(read_study(study_file(plain_inputs, outputs, "specs: [y]")), "argument", "TRUE or FALSE")
  expect_fault(read_study(study_file(plain_inputs, outputs, "run: {runs: many}")), "file", "line 7", "`runs`")
  expect_fault(read_study(study_file(plain_inputs, outputs, "run: {runs: 0}")), "argument", "whole number")
  expect_fault(read_study(study_file(plain_inputs, outputs, "run: {design: latn}")), "argument", "latin")
  expect_fault(read_study(study_file(plain_inputs, outputs, "ensayo: 2")), "file", "version 2")
  expect_fault(quietly(read_study(study_file(plain_inputs)), 5), "model", "needs at least one output")
  expect_fault(read_study(study_file("just text")), "file", "keys and values")
  expect_fault(read_study(study_file("inputs: [1, 2]", outputs)), "file", "`inputs`")
  expect_fault(read_study("nowhere.yml"), "file", "no such file")
  expect_fault(read_study(tempdir()), "file", "folder")
  binary <- withr::local_tempfile()
  writeBin(as.raw(0:255), binary)
  expect_fault(read_study(binary), "file", "text file")
  latin1 <- withr::local_tempfile()
  writeBin(c(charToRaw("study: "), as.raw(0xe9)), latin1)
  expect_fault(read_study(latin1), "file", "UTF-8")
})

test_that("the line of a mistake is that of the key within what it belongs to", {
  lines <- c("inputs:", "  file_size: 3", "  a:", "    law: pert", "    min: 1", "    mode: 2", "    max: 4", "  b:", "    law: pert", "    mode: 2", "    max: 4",
    "models:", "  tank:", "    steps: 3", "    lines:", "      level: {state: level + a, start: 0}", "    keep: [level]", "outputs:", "  y: last(level)",
    "  sum_b:", "    formula: a + b", "    unit: m3", "run:", "  runs: 100")
  fault <- function(at, line, expected, told = character()) {
    changed <- lines
    if (!is.null(at)) changed[at] <- told
    expect_fault(read_study(study_file(changed)), NULL, sprintf("line %d: %s", line, expected))
  }
  fault(NULL, 8, "Input `b` must give `min`, `mode`, `max`.")
  lines[9] <- "    law: {uniform: 1}"
  fault(NULL, 9, "Input `b`, `law` must be one text.")
  lines[8:11] <- c("  b:", "    min: 0", "    max: 1", "    law: uniform")
  fault(10, 10, "Input `b`: `max` must be a finite number", "    max: [1, 2]")
  fault(10, 9, "Input `b`: `min` must be below `max`.", "    max: -1")
  fault(11, 8, "Input `b` must give its `law`, or a `value`.", "    unit: m")
  fault(14, 14, "Model `tank`, `steps` must be one number", "    steps: many")
  fault(14, 13, "Model `tank` must give its steps.", "")
  fault(16, 16, "Model `tank`, line `level`, `start` must be one text.", "      level: {state: level + a, start: [1, 2]}")
  fault(17, 17, "Model `tank`, `keep`: `lovel` must name a line of the steps.", "    keep: [lovel]")
  fault(21, 20, "Output `sum_b` must use names", "    formula: a + bb")
  fault(22, 22, "Output `sum_b`, `unit` must be one text.", "    unit: [m, 3]")
  fault(24, 24, "`runs` must be a whole number of at least 1.", "  runs: 0")
  fault(23:24, 23, "`run` must hold keys and what they stand for.", c("run: often", ""))
  fault(24, 24, "Correlation of `sum_b`: `sum_b` must name an input", "correlations: [{between: [a, sum_b], rank: 0.3}]")
  table <- study_file("code,label,law", "1,Works,normal(1")
  fault(24, 24, sprintf("%s must have columns that a cost tree knows", basename(table)), sprintf("costs: {works: {file: %s}}", basename(table)))
  lines[24] <- "  design: sobel"
  fault(NULL, 24, "`design` must be one of \"latin\"")
  lines <- c(lines[1:23], "readings: often")
  fault(NULL, 24, "The section `readings` must hold names")
  lines[24] <- "readings: {percentiles: [10, 120]}"
  fault(NULL, 24, "`readings`: `percentiles` must be percentiles from 0 to 100")
})

test_that("what is not of the form of its key is told for every kind of part", {
  known <- c("inputs: {a: {law: normal, mean: 1, sd: 1}, b: 2}", "outputs: {y: a}")
  wrong <- function(lines, ...) expect_fault(read_study(study_file(known, lines)), NULL, ...)
  wrong("correlations: [{between: [a, a]}]", "must give its `rank`, or its `score`")
  wrong("correlations: [{file: r.csv, kind: rang}]", "r.csv")
  wrong("models: {tank: often}", "Model `tank` must give its program and outputs", "\"often\"")
  wrong("models: {tank: {program: run, outputs: often}}", "Model `tank`, `outputs` must hold names")
  wrong("models: {tank: {workbook: w.xlsx, inputs: a, outputs: {z: B2}}}", "Model `tank`, `inputs` must hold names")
  wrong("models: {tank: {steps: 3, lines: often}}", "Model `tank`, `lines` must hold names")
  wrong("models: {tank: {steps: 3, lines: {x: a}, known: often}}", "Model `tank`, `known` must hold names")
  wrong("costs: {works: often}", "Costs `works` must hold keys")
  wrong("costs: {works: {items: {1: {amount: 3}}, currency: [EUR, m]}}", "`currency` must be one text")
  wrong("events: {e: {probability: [1, 2], impact: 3}}", "Event `e`, `probability` must be one text")
  wrong("events: {e: {probability: 0.1, impact: {money: 3, weeks: 1}, response: {cost: 1, impact: 3}}}", "consequences that the event has",
    "`money` and `weeks`")
  wrong("events: {e: {probability: 0.1, impact: {percent: 3}}}", "Event `e`, `impact` must give `percent`, and `of` what.")
  wrong("events: {e: {probability: 0.1, impact: 3, needs: f}}", "Event `e`, `needs`: `f` must name an event")
  wrong("events: {e: {probability: 0.1, impact: 3, with: {f: 0.5}}}", "Event `e`, `with`: `f` must name an event")
  wrong("events: {e: {probability: 0.1, impact: 3, on: z}}", "Event `e`: `z` must name an input, output or task")
  wrong(c("calendars: {c: {days: Mon-Fri, lost: {days: often}}}"), "Calendar `c`, `lost`, `days` must be a law")
  expect_no_warning(wrong("calendars: {c: {days: Mon-Fri, holidays: [[1, 2]]}}", "Calendar `c`, `holidays` must be one text"))
  wrong("tasks: {dig: {duration: 3}, pour: {duration: 2, after: dig + hardening}}", "`hardening` must name an input or output of the study")
  wrong("tasks: {dig: {duration: 3, not_before: 2027-03-01}}", "the schedule must have a start")
  wrong("schedule: often", "The section `schedule` must hold names")
  expect_fault(read_study(study_file("inputs: {a: {law: compound, count: poisson(3), size: \"discrete([1, 2], [0.5, 0.5])\"}}", "outputs: {y: a}")), "file",
    "Input `a`, `size` must be a law.", "several values are written `c(1, 2)`")
  expect_fault(read_study(study_file("inputs: {a: {law: observed, of: mean}}", "outputs: {y: a}")), "argument", "Give either `data`")
  expect_fault(read_study(study_file("inputs: {a: {law: exponential}}", "outputs: {y: a}")), "argument", "An exponential law needs")
  wall <- read_study(study_file("inputs: {a: {law: around, value: 0.25, below: 0.005, shape: normal, k: 2, cut: yes}}", "outputs: {y: a}"))
  expect_identical(wall$inputs$a$law, law_around(0.25, 0.005, shape = "normal", k = 2, cut = TRUE))
})

test_that("what a file says of inputs is checked where it stands", {
  file <- withr::local_tempfile(fileext = ".yml")
  reads <- function(...) {
    writeLines(c(...), file)
    read_study(file)
  }
  rest <- c("outputs: {y: a}")
  expect_fault(reads("inputs:", "  a: {law: \"pert(1, 2, 4)\", min: 3}", rest), "file", "line 2", "`min`")
  expect_fault(reads("inputs:", "  a: {law: normal, mean: 1, sd: 2, postive: true}", rest), "file",
    "Did you mean `positive`?")
  expect_fault(reads("inputs:", "  a: {law: normal, mean: 1, sd: 2, positive: perhaps}", rest), "file", "true or false")
  expect_fault(reads("inputs:", "  a: {law: triangular, P10: 3, P50: 5, P90: 4}", rest), "argument", "line 2",
    "P50 must be below P90")
  expect_fault(reads("inputs:", "  a: {law: around, value: 3, below: 10 %}", rest), "argument", "`shape` must be given")
  expect_fault(reads("inputs:", "  a: {law: poisson, mean: rate}", rest), "name", "`rate` is not an input")
  expect_fault(reads("inputs:", "  a: {law: poisson, mean: system('ls')}", rest), "formula", "`system`")
  expect_fault(reads("inputs:", "  a: {law: discrete, values: [1, 2], probabilities: [1, x]}", rest), "file",
    "one number")
  expect_fault(reads("inputs:", "  a: {law: normal, mean: 1, sd: 2, shares: b}", rest), "name", "`b`")
  expect_fault(reads("inputs:", "  a: {law: normal, mean: 1, sd: 2, shares: b}", "  b: 3", rest), "argument",
    "share the uncertainty")
  expect_fault(reads("inputs: {a: \"uniform(0, 1)\"}", "tables: {t: {x: [1, 2], y: [3]}}", rest), "file", "same length")
  expect_fault(reads("inputs: {a: \"uniform(0, 1)\", b: \"uniform(0, 1)\"}",
    "correlations: [{between: [a, b], rnk: 1}]", rest), "file",
    "Did you mean `rank`?")
  expect_identical(reads("inputs: {a: \"-uniform(0, 1) / 2\", b: 3}", rest)$inputs$a$law, -law_uniform(0, 1) / 2)
  blocks <- reads("inputs: {\"x[1..3]\": \"normal(0, 1)\", a: 1}",
    "correlations: [{between: [\"x[1]\", \"x[2]\", \"x[3]\"], score: 0.5}]", rest)
  expect_equal(correlations(blocks)$r, rep(6 / pi * asin(0.25), 3))
  own <- study() |> add_inputs(a = law_custom(quantile = function(p) p)) |> add_outputs(y = a)
  expect_fault(write_study(own, file, overwrite = TRUE), "file", "functions of your own")
})
