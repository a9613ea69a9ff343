test_that("means and variances of parts add up, and percentiles do not", {
  s <- study() |> add_inputs(pipe = law_pert(370, 410, 520), trench = law_pert(540, 620, 900),
    rebate = law_uniform(20, 50)) |>
    add_correlation(pipe, trench, 0.5) |>
    add_outputs(civil = pipe + trench, total = (civil - rebate) + 10, bent = pipe * trench)
  res <- quietly(s, 2000)
  table <- parts_of(res, total, percentile = 80)
  expect_identical(table$name[1:6], c("total", "civil", "pipe", "trench", "rebate", "(rest)"))
  expect_identical(table$level[1:6], c(0, 1, 2, 2, 1, 1))
  total <- res$outputs$total
  expect_equal(table$mean[c(1, 5)], c(mean(total), -mean(res$draws$rebate)))
  expect_equal(table$share_of_variance[3], cov(res$draws$pipe, total) / var(total))
  expect_equal(sum(table$share_of_variance[table$level == 1][1:3]), 1)
  p80 <- function(x) unname(quantile(x, 0.8))
  added <- p80(res$draws$pipe + res$draws$trench) + p80(-res$draws$rebate) + 10
  expect_equal(tail(table$value, 2), c(added, added - p80(total)))
  expect_gt(tail(table$value, 1), 0)
  named <- parts_of(res, total, parts = c(pipe, trench))
  expect_identical(named$row, c("total", "part", "part", "rest", "sum of parts", "difference"))
  expect_fault(parts_of(res, bent), "argument", "plain sum", "pipe * trench")
  expect_fault(parts_of(res, totl), "name", "`total`")
  family <- quietly(study() |> add_inputs(zone = list(law_normal(1, 1),
    law_normal(2, 1))) |> add_outputs(all = sum(zone)))
  expect_identical(parts_of(family, all)$name[2:3], c("zone[1]", "zone[2]"))
})

test_that("parts print", {
  res <- quietly(study() |> add_inputs(a = law_normal(3, 1), b = law_normal(5, 2)) |> add_outputs(y = a + b), 200)
  expect_output(print(parts_of(res, y)), "sum of parts")
})
