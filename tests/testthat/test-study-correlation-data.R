three <- function() study() |> add_inputs(a = law_normal(0, 1), b = law_gamma(2, 1), c = law_uniform(0, 1), k = 3)

test_that("blocks, kinds and matrices are added", {
  block <- three() |> add_correlation(c(a, b, c), r = 0.5)
  expect_identical(correlations(block)$r, c(0.5, 0.5, 0.5))
  score <- three() |> add_correlation(a, b, 0.5, kind = "score")
  expect_equal(correlations(score)$r, 6 / pi * asin(0.25))  # Pearson (1907)
  res <- quietly(score |> add_outputs(y = a + b), 20000)
  expect_equal(cor(res$draws$a, qnorm(pgamma(res$draws$b, 2))), 0.5, tolerance = 0.01)
  expect_fault(three() |> add_correlation(a, r = 0.5), "argument", "two inputs or more")
  expect_fault(three() |> add_correlation(c(a, k), r = 0.5), "correlation", "must vary")
  expect_fault(three() |> add_correlation(a, b, 0.5, kind = "pearson"), "argument", "\"score\"")
  expect_fault(block |> add_correlation(a, b, 0.4), "correlation", "Theirs is 0.5", "replace = TRUE")
  expect_identical(correlations(block |> add_correlation(b, a, 0.4, replace = TRUE))$r, c(0.5, 0.5, 0.4))
})

test_that("an impossible matrix is refused with its inputs, or repaired and told", {
  m <- matrix(c(1, -0.9, 0.9, -0.9, 1, 0.9, 0.9, 0.9, 1), 3, dimnames = rep(list(c("a", "b", "c")), 2))
  error <- expect_fault(three() |> add_correlation(m), "correlation", "smallest eigenvalue", "`a`, `b` and `c`",
    "repair = TRUE")
  expect_lt(error$eigenvalue, -0.5)
  # ranks that could be, though their normal scores could not: said so, with how near one can come
  ranks <- matrix(c(1, -0.1075, 0.56, -0.1075, 1, 0.7612, 0.56, 0.7612, 1), 3, dimnames = dimnames(m))
  expect_gt(min(eigen(ranks)$values), 0)
  expect_fault(three() |> add_correlation(ranks), "correlation", "though that of the ranks is not",
    "differ by at most 0.0", "repair = TRUE")
  repaired <- three() |> add_correlation(m, repair = TRUE)
  table <- correlations(repaired)
  expect_identical(table$given, c(-0.9, 0.9, 0.9))
  # by symmetry the nearest matrix has scores -1/2, 1/2, 1/2
  expect_equal(2 * sin(pi / 6 * table$r), c(-0.5, 0.5, 0.5), tolerance = 1e-6)
  expect_equal(table$moved, table$r - table$given)
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(repaired |> add_outputs(y = a + b + c), file)
  expect_identical(read_study(file)$correlations, repaired$correlations)
  expect_silent(quietly(repaired |> add_outputs(y = a + b + c)))
  possible <- three() |> add_correlation(a, b, 0.5, repair = TRUE)
  expect_identical(possible$correlations, (three() |> add_correlation(a, b, 0.5))$correlations)
})

test_that("the repaired matrix is the nearest: Higham's published example", {
  # Higham (2002), section 4: tridiagonal of ones; the nearest has 0.7607 beside the diagonal and 0.1573 in the corner
  m <- matrix(c(1, 1, 0, 1, 1, 1, 0, 1, 1), 3)
  nearest <- nearest_correlation(m)
  expect_equal(round(nearest[1, 2:3], 4), c(0.7607, 0.1573))
  expect_gte(min(eigen(nearest)$values), -1e-12)
})

test_that("correlations of 1 and -1 hold to the last draw", {
  s <- three() |> add_correlation(a, b, 1) |> add_correlation(a, c, -1) |> add_correlation(b, c, -1) |>
    add_outputs(y = a)
  for (design in c("latin", "random")) {
    d <- quietly(s, 500, design = design)$draws
    expect_identical(rank(d$a), rank(d$b))
    expect_identical(rank(d$a), rank(-d$c))
  }
})

test_that("a blank matrix is written, filled in and read", {
  file <- withr::local_tempfile(fileext = ".csv")
  write_correlation(three(), file)
  expect_identical(readLines(file), c(",a,b,c", "a,1,,", "b,,1,", "c,,,1"))
  writeLines(c(",b,a,c", "a,0.4,,", "b,1,,", "c,-0.2,,1"), file)
  filled <- three() |> add_correlation(read_correlation(file))
  expect_identical(correlation_matrix(filled, c("a", "b", "c"))[, "b"], c(a = 0.4, b = 1, c = -0.2))
  reads <- function(...) {
    writeLines(c(...), file)
    read_correlation(file)
  }
  expect_fault(reads(",a,b", "a,1,0.4", "c,0.4,1"), "file", "`c` does not stand on both")
  expect_fault(reads(",a,b", "a,1,0.4", "b,0.5,1"), "file", "both sides of its diagonal", "0.5 and 0.4")
  expect_fault(reads(",a,b", "a,1,\"0,4\"", "b,,1"), "file", "row `a`, column `b`", "0.4")
  expect_fault(three() |> add_correlation(reads(",a,x", "a,1,0.4", "x,0.4,1")), "name", "`x`")
})

test_that("correlations are estimated as base R does", {
  data <- data.frame(a = c(1, 2, 2, 5, 9, 4), b = c(3, 1, 4, 4, 8, 6))
  expect_equal(estimate_correlation(data), cor(data, method = "spearman"))
  expect_equal(estimate_correlation(rbind(data, NA)), estimate_correlation(data))
  scores <- qnorm(vapply(data, rank, numeric(6)) / 7)
  expect_equal(estimate_correlation(data, "score"), cor(scores))
  expect_fault(estimate_correlation(data.frame(a = 1:3, b = 2)), "argument", "vary")
  expect_fault(estimate_correlation(data[1:2, ]), "argument", "three rows")
  expect_fault(estimate_correlation(list(1)), "argument", "data frame")
})

test_that("whole rows are drawn from a data set", {
  data <- data.frame(rain = c(0, 0, 12, 3, 30), demand = c(44, 46, 35, 40, 29), same = 7)
  s <- study() |> add_rows(data, .unit = c(rain = "mm")) |> add_outputs(y = demand - rain + same)
  d <- quietly(s, 1000)$draws
  pairs <- unique(data.frame(d))
  expect_setequal(paste(pairs$rain, pairs$demand), paste(data$rain, data$demand))
  expect_true(all(table(d$demand) == 200))
  expect_identical(s$inputs$rain$unit, "mm")
  expect_identical(mean(s$inputs$demand$law), mean(data$demand))
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(s, file)
  expect_identical(read_study(file), s)
  expect_fault(study() |> add_rows(data.frame(a = c(1, NA), b = 1:2)), "argument", "missing cells")
  expect_fault(study() |> add_rows(data, .unit = c(snow = "mm")), "name", "a column of the data")
  expect_fault(s |> add_rows(data), "name", "used twice")
})
