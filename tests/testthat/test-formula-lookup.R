curve <- data.frame(flow = c(20, 0, 10), head = c(31, 52, 47))

test_that("tables are looked up along straight lines, in one and two dimensions", {
  plane <- outer(c(0, 2, 5), c(1, 4), function(x, y) 3 + 2 * x - y + x * y)
  dimnames(plane) <- list(c(0, 2, 5), c(1, 4))
  s <- study() |> add_inputs(x = law_uniform(0, 5), y = law_uniform(1, 4)) |>
    add_tables(curve = curve, plane = plane) |>
    add_outputs(a = lookup(curve, x * 4), b = lookup(plane, x, y), at = lookup(plane, 2, 4))
  d <- as.data.frame(quietly(s, 300))
  expect_equal(d$a, approx(curve$flow, curve$head, d$x * 4)$y)
  expect_equal(d$b, 3 + 2 * d$x - d$y + d$x * d$y)  # a bilinear function is met exactly
  expect_true(all(d$at == 3 + 4 - 4 + 8))
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(s, file)
  expect_identical(read_study(file), s)
})

test_that("runs beyond the ends fail, and the others go on", {
  s <- study() |> add_inputs(x = law_uniform(10, 30)) |> add_tables(curve = curve) |>
    add_outputs(a = if (x > 5) lookup(curve, x) else 0)
  res <- quietly(s, 200)
  expect_setequal(failures(res)$run, which(res$draws$x > 20))
  expect_identical(unique(failures(res)$reason), "beyond the ends of a look-up table")
})

test_that("tables and series of dates come from CSV files beside the study", {
  dir <- withr::local_tempdir()
  writeLines(c("day,rain", "2027-05-01,0", "2027-05-11,20", "2027-05-21,0"), file.path(dir, "rain.csv"))
  writeLines(c(",1,2", "0,50,90", "60,20,45"), file.path(dir, "both.csv"))
  writeLines(c("name,law,unit", "delay,\"uniform(0, 10)\",d", "k,2.5,"), file.path(dir, "register.csv"))
  writeLines(c(",delay,speed", "delay,1,0.5", "speed,,1"), file.path(dir, "matrix.csv"))
  writeLines(c("inputs: {file: register.csv, speed: \"uniform(1, 2)\"}", "correlations: {file: matrix.csv}",
    "tables: {rain: {file: rain.csv}, both: {file: both.csv}}",
    "outputs:", "  r: lookup(rain, date(\"2027-05-01\") + delay)", "  b: lookup(both, 30, speed) * k"),
    file.path(dir, "s.yml"))
  s <- read_study(file.path(dir, "s.yml"))
  d <- as.data.frame(quietly(s, 50))
  expect_equal(d$r, 2 * d$delay)
  expect_equal(d$b, 2.5 * (35 + 32.5 * (d$speed - 1)))
  expect_identical(correlations(s)$r, 0.5)
  writeLines(c("inputs: {a: \"uniform(0, 1)\"}", "tables: {rain: {file: none.csv}}", "outputs: {y: a}"),
    file.path(dir, "t.yml"))
  expect_fault(read_study(file.path(dir, "t.yml")), "file", "must exist")
})

test_that("bad tables and calls are refused", {
  s <- study() |> add_inputs(x = law_uniform(0, 5), y = 1)
  expect_fault(s |> add_tables(curve = data.frame(a = 1)), "formula", "two columns")
  expect_fault(s |> add_tables(curve = data.frame(a = c(1, 1), b = 2:3)), "formula", "1 stands twice")
  expect_fault(s |> add_tables(curve = data.frame(a = c("x", "y"), b = 2:3)), "formula", "no number")
  expect_fault(s |> add_tables(x = curve), "name", "used twice")
  s <- s |> add_tables(curve = curve)
  expect_fault(s |> add_outputs(a = lookup(curv, x)), "name", "Did you mean `curve`?")
  expect_fault(s |> add_outputs(a = lookup(curve, x, y)), "formula", "looked up by one quantity", "given 2")
  expect_fault(s |> add_outputs(a = lookup(x)), "formula", "`lookup()` takes")
  expect_fault(s |> add_outputs(a = date("May")), "formula", "one day")
  expect_fault(s |> add_inputs(curve = 3), "name", "used twice")
})
