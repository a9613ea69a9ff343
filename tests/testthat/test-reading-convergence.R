test_that("statistics of the first runs come with the intervals of independent runs", {
  res <- quietly(three_normals() |> add_outputs(y = exp(a)), 500, design = "random")
  y <- res$outputs$y
  mean_table <- convergence_table(res, y, points = 4)
  expect_equal(mean_table$runs[c(1, 4)], c(10, 500))
  first <- t.test(y[1:10])
  expect_equal(unlist(mean_table[1, c("value", "low", "high")]), c(first$estimate, first$conf.int), ignore_attr = TRUE)
  tail <- convergence_table(res, y, "P95", points = 2)
  expect_true(is.na(tail$high[1]))
  expect_equal(tail$value[2], unname(quantile(y, 0.95)))
  expect_equal(convergence_table(res, y, "sd", points = 2)$value, c(sd(y[1:10]), sd(y)))
  expect_fault(convergence_table(res, y, "median"), "argument", "\"P95\"")
  expect_fault(convergence_table(res, y, "P950"), "argument")
})
