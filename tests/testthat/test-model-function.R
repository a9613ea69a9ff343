tank <- function(...) {
  study("Tank") |>
    add_inputs(volume = law_uniform(300, 500), inflow = law_normal(40, 5), demand = law_pert(35, 50, 80)) |>
    add_model(...)
}

emptying <- function(volume, inflow, demand) {
  level <- volume + (inflow - demand) * (1:10)
  list(lowest = min(level), dry = min(level) < 0, day = as.Date("2026-06-01") + demand,
    path = data.frame(step = 1:10, level = level))
}

test_that("a function gives numbers, yes/no, dates and series, each run as it would alone", {
  res <- quietly(tank(emptying), 300)
  x <- as.data.frame(res)
  level <- outer(x$volume, rep(1, 10)) + (x$inflow - x$demand) %o% (1:10)
  expect_equal(unname(output_values(res, level)), level)
  expect_identical(colnames(output_values(res, level)), format(1:10, trim = TRUE))
  expect_equal(x$lowest, apply(level, 1, min))
  expect_identical(x$dry, apply(level, 1, min) < 0)
  expect_s3_class(x$day, "Date")
  expect_equal(as.double(x$day), as.double(as.Date("2026-06-01")) + x$demand)
  kinds <- vapply(c("lowest", "dry", "day", "level"), function(name) output_kind_of(res, name), "")
  expect_identical(unname(kinds), c("number", "yes/no", "date", "number"))
  base <- base_case(res)
  expect_equal(base$value[base$name == "level"], 400 - 10 * (1:10))
  expect_identical(base$step[base$name == "level"], format(1:10, trim = TRUE))
})

test_that("what a function takes and gives is found, declared, or asked for", {
  s <- three_normals()
  one <- function(outcome, nsim = 20) as.data.frame(quietly(outcome, nsim))
  double_a <- function(a) 2 * a
  x <- one(add_model(s, double_a))
  expect_identical(x$double_a, 2 * x$a)
  expect_equal(one(add_model(s, function(x) x$a + x$c, name = "y"))$y, with(one(add_outputs(s, y = a + c)), y))
  x <- one(add_model(s, function(q) sum(unlist(q)), name = "y", needs = c(a, b)))
  expect_equal(x$y, x$a + x$b)
  x <- one(add_model(s, function(a, times = 3) c(p = a, q = times * a)))
  expect_equal(x$q, 3 * x$p)
  named <- add_model(s, function(a) list(p = a, q = 1, spare = "x"), outputs = list(q = output(unit = "m", label = "Q")))
  expect_identical(names(named$outputs), "q")
  expect_identical(quantity_label(named, "q"), "Q")
  expect_identical(one(add_model(s, function(a) list(p = a, q = 1), outputs = "p"))$p, one(add_outputs(s, p = a))$p)
  expect_fault(add_model(s, 3), "argument", "`f` must be a function")
  expect_fault(add_model(s, function(aa, b) 1), "name", "`aa` is none", "`a`")
  expect_fault(add_model(s, function(a) stop("no bottom")), "model", "no bottom")
  expect_fault(add_model(s, function(a) list(1, 2)), "model", "values without names")
  expect_fault(add_model(s, function(a) NULL, name = "z"), "model", "must return")
  expect_fault(add_model(s, function(a) a, name = "b"), "name", "used twice")
  expect_fault(add_model(s, function(a) a, outputs = list(y = output(a))), "argument", "without formulas")
  expect_fault(add_model(s, function(a) c(p = 1), outputs = c("p", "r")), "model", "no `r`")
  expect_fault(add_model(add_model(s, double_a), double_a), "name", "name of its own")
  expect_fault(add_model(s, double_a, otputs = "y"), "argument", "otputs")
  expect_fault(add_outputs(s, y = output(steps = 1:3)), "argument", "add_model()")
  expect_fault(output(steps = c(3, 1)), "argument", "increasing")
  expect_fault(write_study(add_model(s, double_a), tempfile(fileext = ".yml")), "file", "formulas, steps and programs alone")
})

test_that("errors, warnings, wrong shapes and missing values are failures of their run", {
  odd <- function(u) {
    if (u < 0.1) stop("pump\n broke")
    if (u < 0.2) warning("hot")
    if (u < 0.3) return(list(y = c(1, 2), z = 1))
    if (u < 0.4) return(list(y = NA, z = 2))
    if (u < 0.5) return(list(y = 1))
    if (u < 0.6) return(list(y = "high", z = 1))
    if (u < 0.7) return(NULL)
    list(y = u, z = u)
  }
  s <- study() |> add_inputs(u = law_uniform(0, 1), v = law_uniform(0, 1)) |>
    add_model(odd, outputs = c("y", "z")) |> add_outputs(w = y + v)
  res <- quietly(s, 100)
  reasons <- failures(res)
  told <- function(name) c(table(factor(reasons$reason[reasons$output == name], unique(reasons$reason))))
  expect_equal(told("y")[["`odd()` failed: pump broke"]], 10)
  expect_equal(told("y")[["`odd()` warned: hot"]], 10)
  expect_equal(told("y")[["2 values, not 1"]], 10)
  expect_equal(told("y")[["missing (NA)"]], 10)
  expect_equal(told("z")[["nothing was returned under this name"]], 10)
  expect_equal(told("w")[["`y` failed"]], sum(reasons$output == "y"))
  expect_equal(sum(is.finite(res$y)), 40)
  expect_equal(sum(is.finite(res$z)), 60)
  kept <- quietly(study() |> add_inputs(u = law_uniform(0, 1)) |>
    add_model(odd, outputs = "z", warnings = "keep"), 100)
  expect_equal(sum(is.finite(kept$z)), 70)
  expect_output(print(kept), "warning in z: hot")
  # what needs a failed run is not called for it
  calls <- 0
  count <- function(y) {
    calls <<- calls + 1
    y
  }
  after <- add_model(study() |> add_inputs(u = law_uniform(0, 1)) |> add_model(odd, outputs = "y"), count)
  expect_identical(sum(is.na(quietly(after, 100)$count)), 60L)
})

test_that("200 runs of a function take 200 calls and one for the base case", {
  log <- withr::local_tempfile()
  dear <- rlang::inject(function(a, b) {
    cat(".", file = !!log, append = TRUE)
    a + b
  })
  res <- quietly(add_model(three_normals(), dear, outputs = "y"), 200)
  expect_identical(file.size(log), 201)
  print(review(res$study)) |> capture.output()
  dir <- withr::local_tempdir()
  write_result(res, dir)
  expect_identical(as.data.frame(read_result(dir)), as.data.frame(res))
  expect_identical(base_case(read_result(dir)), base_case(res))
  expect_identical(file.size(log), 201)
  quietly(add_model(three_normals(), dear, outputs = "y", checked = 5), 200)
  expect_lte(file.size(log), 201 + 201 + 5)
})

test_that("random numbers of a run are its own, and the session is left as it was", {
  messy <- function(a) {
    print("hello")
    message("psst")
    writeLines("x", "junk.txt")
    setwd(tempdir())
    options(digits = 3, ensayo.own = 1)
    RNGkind("Wichmann-Hill")
    sink(tempfile())
    set <- sample(5, 2)
    c(y = a + rnorm(1), u = runif(1), s = set[1])
  }
  home <- getwd()
  files <- list.files()
  withr::local_preserve_seed()
  set.seed(3)
  state <- .Random.seed
  options <- options()
  s <- add_model(three_normals(), messy)
  expect_silent(res <- quietly(s, 100, 5))
  expect_identical(list(getwd(), list.files(), .Random.seed, options()), list(home, files, state, options))
  expect_identical(sink.number(), 0L)
  set.seed(8)
  again <- quietly(s, 100, 5)
  expect_identical(again$outputs, res$outputs)
  expect_identical(quietly(s, 100, 5, preview = 40)$u, res$u[1:40])
  expect_false(identical(quietly(s, 100, 6)$u, res$u))
  rm(".Random.seed", envir = globalenv())
  quietly(s, 10, 5)
  expect_false(exists(".Random.seed", globalenv()))
  expect_identical(RNGkind()[1], "Mersenne-Twister")
  # and good random numbers
  draws <- quietly(add_model(three_normals(), function(a) c(u = runif(1), z = rnorm(1)), name = "r"), 4000)
  expect_gt(ks.test(draws$u, "punif")$p.value, 0.001)
  expect_gt(ks.test(draws$z, "pnorm")$p.value, 0.001)
  expect_lt(abs(cor(draws$u[-1], draws$u[-4000])), 0.06)
  expect_lt(abs(cor(draws$a, draws$z)), 0.06)
})

test_that("a vectorised function is called for whole columns and checked run by run", {
  s <- add_model(three_normals(), function(a, b) list(y = a^2, big = b > 1, path = cbind(a, a + b, b)), name = "m",
    vectorised = TRUE, outputs = list(y = output(), big = output(), path = output(steps = c(1, 2, 4))))
  res <- quietly(s, 3000)
  expect_equal(res$path[, 2], unname(res$a + res$b), ignore_attr = TRUE)
  expect_identical(res$big, res$b > 1)
  expect_fault(quietly(add_model(three_normals(), function(a) a - min(a, 0.5), name = "y", vectorised = TRUE)),
    "across_runs", "`y`", "alone")
  expect_fault(add_model(three_normals(), function(a) a - mean(rank(a)), name = "y", vectorised = TRUE), "across_runs")
  expect_fault(add_model(three_normals(), function(a) a + eval(quote(rnorm(1))), name = "y", vectorised = TRUE), "model",
    "draws random numbers")
  expect_fault(add_model(three_normals(), function(a) a[1] * 2, name = "y", vectorised = TRUE), "across_runs", "a[1]")
  expect_fault(quietly(add_model(three_normals(), function(a) utils::head(a, 3), name = "y", vectorised = TRUE)), "model",
    "for each run", "3 values")
})

test_that("a function is bound with what it needs when the model is added", {
  factor <- 2
  helper <- function(x) x * factor
  outer_fun <- function(a) helper(a) + do.call("abs", list(a))
  s <- add_model(three_normals(), outer_fun)
  hash <- study_hash(s)
  factor <- 100
  helper <- function(x) 0
  x <- as.data.frame(quietly(s, 20))
  expect_equal(x$outer_fun, 2 * x$a + abs(x$a))
  expect_false(study_hash(add_model(three_normals(), outer_fun)) == hash)
})

test_that("models are part of every reading", {
  s <- tank(emptying, outputs = list(level = output(unit = "m3", label = "Water"), lowest = output(unit = "m3"))) |>
    add_outputs(fine = lowest > 100) |> add_specs(fine)
  res <- quietly(s, 300)
  expect_equal(drivers(res, lowest)$input[1], "demand")
  expect_equal(evaluate(res, dry = list(demand = 79))$value[1],
    emptying(400, 40, 79)$lowest)
  fixed <- fix_inputs(s, demand = 60)
  expect_equal(base_case(quietly(fixed, 10))$value[base_case(quietly(fixed, 10))$name == "lowest"],
    emptying(400, 40, 60)$lowest)
  cases <- one_at_a_time(s, lowest)
  expect_identical(cases$input[1], "demand")
  expect_setequal(variance_indices(s, lowest, nsim = 32, seed = 1)$input, c("demand", "inflow", "volume"))
  expect_equal(add_runs(quietly(s, 50, design = "random"), 30, progress = NULL)$level,
    quietly(s, 80, design = "random")$level)
})

test_that("what a model draws itself is told, and not put down to the inputs", {
  withr::local_options(cli.width = 200)
  noisy <- function(a) a + rnorm(1, 0, 3)
  s <- add_model(three_normals(), noisy) |> add_outputs(twice = 2 * noisy, calm = 2 * a)
  expect_identical(drawing_models(s), "noisy")
  expect_identical(drawing_models(s, "twice"), "noisy")
  expect_length(drawing_models(s, "calm"), 0)
  res <- quietly(s, 500)
  lines <- format(res)
  expect_match(lines, "noisy draws random numbers itself: the base case is one draw of them", all = FALSE)
  expect_match(lines, "twice: .*the rest is .* curves, joint effects and what noisy draws itself", all = FALSE)
  words <- paste(output_words(res, "twice"), collapse = " ")
  expect_match(words, "no input explains what they do")
  expect_false(grepl("draws", paste(output_words(res, "calm"), collapse = " ")))
  expect_match(plot_tornado(res, twice)$labels$caption, "what noisy draws itself")
  page <- withr::local_tempfile(fileext = ".html")
  write_report(res, page)
  expect_match(paste(readLines(page), collapse = ""), "what noisy draws itself")
  expect_length(drawing_models(add_model(three_normals(), function(a) a, name = "m")), 0)
})

test_that("a run in which a vectorised function fails leaves the others", {
  root <- function(a) {
    if (any(a < -1)) stop("too low")
    list(y = sqrt(a + 1), path = cbind(a, 2 * a))
  }
  s <- add_model(three_normals(), root, vectorised = TRUE, outputs = list(y = output(), path = output(steps = 1:2)))
  res <- quietly(s, 300)
  low <- res$a < -1
  expect_identical(is.na(res$y), low)
  expect_identical(is.na(res$path[, 1]), low)
  expect_equal(res$y[!low], sqrt(res$a[!low] + 1))
  expect_setequal(failures(res)$reason, "`root()` failed: too low")
})

test_that("a run may remove its folder and draw pictures, and cases share what a model draws", {
  wild <- function(a) {
    plot(1)
    unlink(getwd(), recursive = TRUE)
    a
  }
  devices <- grDevices::dev.list()
  expect_identical(quietly(add_model(three_normals(), wild), 5)$wild, quietly(add_outputs(three_normals(), y = a), 5)$y)
  expect_identical(grDevices::dev.list(), devices)
  noisy <- add_model(three_normals(), function(a, b) a + rnorm(1, 0, 50), name = "y")
  moved <- one_at_a_time(noisy, y)
  expect_equal(moved$swing[moved$input == "a"], diff(qnorm(c(0.1, 0.9))), tolerance = 1e-9)
  expect_identical(moved$swing[moved$input == "b"], 0)
  expect_fault(add_model(three_normals(), function(a) a, name = "y", needs = b), "argument", "`needs`")
  series <- add_model(three_normals(), function(a) data.frame(step = 1:2000, x = a), name = "long")
  expect_fault(check_memory(series, 1e6, there = 1e10), "argument", "GB")
})
