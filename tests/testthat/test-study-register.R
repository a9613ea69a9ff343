many <- function() {
  study("Many") |> add_inputs(
    demand = input(law_pert(28, 34, 48), unit = "L/s", label = "Peak-hour demand, \"dry\"", note = "meter", lower = 0),
    soil = law_discrete(c("rock", "clay"), c(1, 3)), price = law_around(34, "10 %",
      shape = "pert"), length = input(4200, unit = "m"),
    twice = law_from_facts("normal", P10 = 1 / 3, P90 = 7), rate = law_gamma(mean = 3, sd = 1), n = law_poisson(~ rate),
    zone = rep(list(law_truncated(law_normal(5, 2), min = 0)), 3), !!"\u00f1and\u00fa" := law_normal(0, 1e-17)
  ) |> copy_law(price, to = "tax", shared = TRUE) |> fix_inputs(twice)
}

test_that("a register holds everything about the inputs", {
  file <- withr::local_tempfile(fileext = ".csv")
  write_inputs(many(), file)
  back <- study("Many") |> add_inputs(read_inputs(file))
  expect_identical(back$inputs, many()$inputs)
  expect_identical((study() |> add_inputs(input_register(many())))$inputs, many()$inputs)
  expect_fault(write_inputs(many(), file), "file", "overwrite = TRUE")
  expect_silent(write_inputs(many(), file, overwrite = TRUE))
})

test_that("registers that people write are read", {
  file <- withr::local_tempfile(fileext = ".csv")
  written <- function(...) {
    writeBin(charToRaw(enc2utf8(paste0(...))), file)
    file
  }
  read <- function(...) (study() |> add_inputs(read_inputs(written(...))))$inputs
  inputs <- read("\ufeffname,law,min,mode,max,values,probabilities,unit,label\r\n",
    "demand,pert,28,34,48,,,L/s,Caudal m\u00e1ximo\r\n", "length,4200,,,,,,m,\r\n", "\r\n",
    "soil,discrete,,,,rock; clay,1; 3,,\r\n")
  expect_identical(inputs$demand$law, law_pert(28, 34, 48))
  expect_identical(inputs$demand$label, "Caudal m\u00e1ximo")
  expect_identical(inputs$length$law, 4200)
  expect_identical(inputs$soil$law, law_discrete(c("rock", "clay"), c(1, 3)))
  expect_identical(read("name;law;mean;sd\na;normal;1;2\n")$a$law, law_normal(1, 2))
  expect_identical(read("name,law,P10,P90\na,normal,1,2\n")$a$law, law_from_facts("normal", P10 = 1, P90 = 2))
  expect_fault(read("name,min,max\na,1,2\n"), "file", "must have a column `law`")
  expect_fault(read("nme,law\na,normal\n"), "file", "must have a column `name`", "Is it `nme`?")
  expect_fault(read("name,law,mean,sd\na,normal,\"1,5\",2\n"), "file", "row 1", "`a`",
    "Write the decimal sign as a point: 1.5")
  expect_fault(read("name,law,mean,sd\na,normal,1,2\na,normal,1,2\n"), "name", "`a` stands in rows 1 and 2")
  expect_fault(read("name,law,mean,sd\na,normal,1,\n"), "file", "row 1", "`sd` is missing")
  expect_fault(read("name,law,mean,sd\n,normal,1,2\n"), "file", "row 1", "The cell is empty")
  expect_fault(read("name,law,mean,sd\na,nrmal,1,2\n"), "file", "row 1", "Did you mean `normal`?")
  expect_fault(read("name,law,mean,sd,shape\na,normal,1,2,3\n"), "file", "`shape` is not one")
  expect_fault(read_inputs("nowhere.csv"), "file", "must exist")
  writeBin(as.raw(c(0x6e, 0xf1, 0x0a)), file)
  expect_fault(read_inputs(file), "file", "UTF-8")
})

test_that("many inputs are spread by one call, together or each for itself", {
  s <- study() |> add_inputs(pipe = input(410, group = "works", unit = "EUR"), trench = input(620, group = "works"),
    road = 180) |>
    add_outputs(total = pipe + trench + road)
  own <- s |> spread_inputs(works, road, .low = 0.9, .high = 1.3, .shape = "pert", .shared = FALSE)
  together <- s |> spread_inputs(works, "road", .low = 0.9, .high = 1.3, .shape = "pert", .shared = TRUE)
  expect_equal(parameters(own$inputs$trench$law)[1:3], list(min = 558, mode = 620, max = 806))
  expect_identical(own$inputs$pipe$unit, "EUR")
  expect_identical(unlist(base_values(own)), c(pipe = 410, trench = 620, road = 180))
  a <- quietly(own, 4000)
  b <- quietly(together, 4000)
  # alone their variances add, together their standard deviations
  sds <- vapply(own$inputs, function(input) moments(input$law)$sd, 0)
  expect_equal(sd(a$outputs$total), sqrt(sum(sds^2)), tolerance = 0.02)
  expect_equal(sd(b$outputs$total), sum(sds), tolerance = 0.02)
  expect_identical(input_table(together)$shares, c("", "pipe", "pipe"))
  expect_fault(s |> spread_inputs(works, .low = 0.9, .high = 1.3, .shape = "pert"), "argument",
    "`shared` must be given")
  expect_fault(s |> spread_inputs(wrks, .low = 0.9, .high = 1.3, .shape = "pert", .shared = TRUE), "name",
    "Did you mean `works`?")
  expect_fault(s |> spread_inputs(.low = 0.9, .high = 1.3, .shape = "pert", .shared = TRUE), "argument",
    "Name the inputs")
  expect_fault(together |> add_inputs(x = law_normal(0, 1)) |> add_correlation(trench, x, 0.5), "correlation",
    "Correlate `pipe`")
})

test_that("a law is copied, with one uncertainty or each its own", {
  s <- study() |> add_inputs(pipe = input(law_pert(370, 410, 520), unit = "EUR", label = "Pipe"), trench = 620)
  own <- s |> copy_law(pipe, to = c("valves", "trench"), shared = FALSE)
  expect_identical(own$inputs$valves[c("law", "unit", "label")],
    list(law = law_pert(370, 410, 520), unit = "EUR", label = NULL))
  expect_identical(own$inputs$trench$base, 620)
  shared <- s |> copy_law(pipe, to = "valves", shared = TRUE) |> add_outputs(y = pipe - valves)
  expect_true(all(quietly(shared)$outputs$y == 0))
  expect_true(any(quietly(own |> add_outputs(y = pipe - valves))$outputs$y != 0))
  expect_identical((shared |> rename_inputs(tube = pipe))$inputs$valves$shares, "tube")
  expect_fault(shared |> remove_inputs(pipe), "name", "used by")
  expect_fault(copy_law(s, trench, to = "x", shared = TRUE), "argument", "has a law")
  expect_fault(copy_law(s, pipe, to = 3, shared = TRUE), "argument", "`to`")
})

test_that("shared uncertainty holds in both designs, with correlation, fixing and replacing", {
  s <- study() |> add_inputs(copper = law_normal(80, 5), zinc = law_normal(20, 2), other = law_gamma(2, 1)) |>
    copy_law(copper, to = "bronze", shared = TRUE) |>
    add_correlation(copper, zinc, 0.7) |> add_outputs(y = copper + bronze + zinc + other)
  for (design in c("latin", "random")) {
    d <- quietly(s, 2000, design = design)$draws
    expect_identical(d$copper, d$bronze)
    expect_equal(cor(rank(d$bronze), rank(d$zinc)), 0.7, tolerance = 0.05)
  }
  before <- quietly(s, 100)$draws
  # the follower goes on where its leader is held or replaced
  expect_identical(quietly(s |> fix_inputs(copper = 80), 100)$draws$other, before$other)
  expect_gt(sd(quietly(s |> fix_inputs(copper = 80), 100)$draws$bronze), 3)
  wider <- quietly(s |> replace_inputs(copper = law_normal(80, 10)), 100)$draws
  expect_equal(wider$copper - 80, 2 * (wider$bronze - 80))
  expect_identical((s |> replace_inputs(bronze = law_normal(1, 1)))$inputs$bronze$shares, "copper")
  expect_null((s |> replace_inputs(bronze = input(law_normal(1, 1))))$inputs$bronze$shares)
  expect_null((s |> replace_inputs(bronze = 3))$inputs$bronze$shares)
  expect_identical(nrow(review(s)), 0L)
  expect_fault(s |> replace_inputs(copper = 3), "correlation")
})

test_that("limits, labels and groups survive a bare replacement, and an input replaces all", {
  s <- study() |> add_inputs(d = input(law_normal(3, 1), unit = "m", label = "Depth", group = "g", note = "n",
    positive = TRUE, base = 2.5))
  bare <- (s |> replace_inputs(d = law_gamma(3, 1)))$inputs$d
  expect_identical(bare[c("unit", "label", "group", "note", "lower", "base")],
    s$inputs$d[c("unit", "label", "group", "note", "lower", "base")])
  full <- (s |> replace_inputs(d = input(law_gamma(3, 1))))$inputs$d
  expect_null(full$unit)
  expect_identical(full$base, 3)
  expect_identical(full$stream, "d")
  expect_fault(input(3, lower = "a"), "argument", "`lower`")
  expect_fault(input(law_normal(0, 1), positive = 1), "argument", "`positive`")
})

test_that("a study of many inputs with all their correlations is built and reviewed", {
  k <- 60
  names <- sprintf("x%02d", seq_len(k))
  loadings <- outer(seq_len(k), 1:2, function(i, j) 0.6 * cos(i * j))
  r <- tcrossprod(loadings)
  diag(r) <- 1
  dimnames(r) <- list(names, names)
  dir <- withr::local_tempdir()
  utils::write.csv(data.frame(name = names, law = "gamma(2, 3)", group = rep(c("a", "b"), k / 2)),
    file.path(dir, "i.csv"), row.names = FALSE)
  utils::write.csv(r, file.path(dir, "r.csv"))
  s <- study("Many") |> add_inputs(read_inputs(file.path(dir, "i.csv"))) |>
    add_correlation(read_correlation(file.path(dir, "r.csv"))) |> add_outputs(total = sum(a) + sum(b))
  expect_identical(nrow(correlations(s)), sum(r[upper.tri(r)] != 0))
  expect_identical(sum(review(s)$severity == "error"), 0L)
  achieved <- correlations(quietly(s, 3000))
  expect_lt(max(abs(achieved$achieved - achieved$asked)), 0.02)
  expect_match(capture.output(print(s)), "and 1750 more pairs", all = FALSE)
  expect_match(capture.output(print(s)), "x60", all = FALSE)
})

test_that("members of families go through results, folders, drivers and reports", {
  s <- study("Zones") |> add_inputs(zone = rep(list(input(law_pert(5, 8, 14), unit = "L/s")), 3)) |>
    add_outputs(total = output(sum(zone), unit = "L/s")) |> add_specs(max(zone) <= 13)
  res <- quietly(s, 300)
  expect_identical(names(res$draws), sprintf("zone[%d]", 1:3))
  expect_equal(sum(drivers(res)$share), 1)
  expect_equal(chance(res, sum(zone) > 27)$chance, mean(res$outputs$total > 27))
  dir <- withr::local_tempfile()
  write_result(res, dir)
  expect_identical(read_result(dir)$draws, res$draws)
  report <- withr::local_tempfile(fileext = ".html")
  write_report(res, report)
  expect_match(paste(readLines(report), collapse = ""), "zone[2]", fixed = TRUE)
  expect_identical(names(as.data.frame(res))[3:5], sprintf("zone[%d]", 1:3))
  one <- s |> replace_inputs(`zone[2]` = law_uniform(1, 2)) |> fix_inputs("zone[1]")
  expect_identical(unique(quietly(one, 20)$draws[["zone[3]"]] == quietly(s, 20)$draws[["zone[3]"]]), TRUE)
})

test_that("decimal commas between semicolons are read, and a group stands in a file's `between:`", {
  dir <- withr::local_tempdir()
  writeLines(c("name;law;min;max;group", "a;uniform;1,5;2,5;g", "b;uniform;0;1;g"), file.path(dir, "r.csv"))
  file <- file.path(dir, "s.yml")
  writeLines(c("study: x", "inputs: {file: r.csv}", "correlations:", "  - {between: [g], rank: 0.3}", "outputs: {y: a + b}"),
    file)
  s <- read_study(file)
  expect_equal(support(s$inputs$a$law), c(min = 1.5, max = 2.5))
  expect_identical(unlist(s$correlations[1, c("a", "b")], use.names = FALSE), c("a", "b"))
})

test_that("ranges in columns of their own are read: three points, or per cents of a base", {
  file <- withr::local_tempfile(fileext = ".csv")
  laws <- function(...) {
    writeLines(c(...), file)
    lapply((study() |> add_inputs(suppressMessages(read_inputs(file))))$inputs, function(input) input$law)
  }
  expect_identical(laws("name,low,most_likely,high", "pipe,370,410,520")$pipe, law_triangular(370, 410, 520))
  read <- laws("name;law;low;most likely;high;unit", "pipe;pert;370,5;410;520;EUR", "road;uniform;10;;20;EUR", "site;4200;;;;m")
  expect_identical(read, list(pipe = law_pert(370.5, 410, 520), road = law_uniform(10, 20), site = 4200))
  around <- law_around(200, below = "10 %", above = "30 %", shape = "pert")
  for (ends in c("-10,30", "10 %,30 %", "90,130")) {
    read <- laws("name,base,law,low %,high %", paste0("pipe,200,pert,", ends))$pipe
    expect_equal(parameters(read), parameters(around))
  }
  # a law that has parameters of these names keeps them
  read <- laws("name,law,value,low,most_likely,high,shape", "pipe,around,200,0.9,,1.3,pert", "road,pert,,10,12,20,")
  expect_identical(read, list(pipe = law_around(200, low = 0.9, high = 1.3, shape = "pert"), road = law_pert(10, 12, 20)))
  writeLines(c("name,low,most_likely,high", "pipe,370,410,520"), file)
  expect_message(read_inputs(file), "1 range is taken as triangular")
  expect_silent(study() |> add_inputs(suppressMessages(read_inputs(file))))
  expect_message(study() |> add_inputs(data.frame(name = "a", low = 1, most_likely = 2, high = 3)), "triangular")
  expect_fault(laws("name,low,most_likely,high", "pipe,370,410,320"), "file", "row 1", "in order", "370, 410 and 320")
  expect_fault(laws("name,low,most_likely,high", "pipe,370,,520"), "file", "`most_likely` is missing")
  expect_fault(laws("name,law,low,high", "pipe,normal,370,520"), "file", "\"triangular\", \"pert\" or \"uniform\"")
  expect_fault(laws("name,low %,high %", "pipe,-10,30"), "file", "base value for its per cents")
  expect_fault(laws("name,base,low %,high %", "pipe,200,60,80"), "file", "-10 and 30")
})
