test_that("ranks and correlations are base R's", {
  columns <- list(c(3, 1, 2), c(2, 2, 1, 5, 5, 5), numeric(), 7, c(0, -0, 1e-320, -1e-320, Inf, -Inf, 1e300),
    round(stream_uniforms("x", 1, "random", 1000), 2), exp(20 * qnorm(stream_uniforms("y", 1, "random", 30000))),
    1e9 + qnorm(stream_uniforms("z", 1, "random", 30000)), c(1e300, stream_uniforms("z", 1, "random", 30000)))
  for (x in columns) {
    expect_identical(mid_ranks(list(x))[[1]], rank(x))
    if (length(x)) {
      at <- unique(c(0, 1, 37, 50, 99.9, 100))
      expect_equal(percentile_values(x[is.finite(x)], at), unname(quantile(x[is.finite(x)], at / 100)),
        tolerance = 1e-15)
    }
  }
  x <- lapply(c(a = "a", b = "b", c = "c"), function(name) qnorm(stream_uniforms(name, 1, "random", 10000)))
  x$c <- round(x$a + x$c)
  table <- do.call(cbind, x)
  expect_equal(correlations_between(x, x[-1], TRUE), unname(cor(table, table[, -1], method = "spearman")),
    tolerance = 1e-12)
  expect_equal(correlations_between(x, x[-1], FALSE), unname(cor(table, table[, -1])), tolerance = 1e-12)
  huge <- lapply(x, function(v) 1e300 * v)
  expect_equal(correlations_between(huge, huge, FALSE), unname(cor(table)), tolerance = 1e-12)
  expect_identical(correlations_between(list(c(1, 1, 1)), list(c(1, 2, 3)), TRUE)[1, 1], NaN)
  expect_identical(correlations_between(list(4), list(5), FALSE)[1, 1], NaN)
})

test_that("columns of another type than double are refused at the door", {
  expect_error(cpp_mid_ranks(list(1:3), 1), "type double")
  expect_error(cpp_correlations(list(c(1, 2, 3)), list(c(TRUE, FALSE, TRUE)), FALSE, 1), "type double")
  expect_error(cpp_block_products(list("a"), 1, 1), "type double")
})
