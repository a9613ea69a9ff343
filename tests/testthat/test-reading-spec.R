test_that("pass rates come with what each spec costs and by how much runs miss", {
  res <- quietly(three_normals() |> add_outputs(y = a + b, z = a - c) |>
    add_specs(top = y <= 1, wide = z >= -1 & z <= 2, odd = y > 0 | z > 0), 2000)
  table <- pass_rate(res)
  y <- res$outputs$y
  z <- res$outputs$z
  fails <- list(y > 1, !(z >= -1 & z <= 2), !(y > 0 | z > 0))
  expect_equal(table$pass_rate[1:3], vapply(fails, function(fail) mean(!fail), 0))
  expect_equal(table$pass_rate[4], mean(!fails[[1]] & !fails[[2]] & !fails[[3]]))
  expect_equal(table$only_fault[1], mean(fails[[1]] & !fails[[2]] & !fails[[3]]))
  expect_equal(c(table$nearest_miss[1], table$worst_miss[1]), range(y[fails[[1]]] - 1))
  expect_equal(table$worst_miss[2], max(pmax(-1 - z, z - 2)))
  expect_true(is.na(table$nearest_miss[3]))
  expect_equal(table$if_independent[4], prod(table$pass_rate[1:3]))
  expect_equal(unlist(table[1, c("low", "high")]), unlist(proportion_interval(table$met[1], 2000)), ignore_attr = TRUE)
})

test_that("why all specs together differ from the product of the single ones is told", {
  together <- quietly(three_normals() |> add_outputs(y = a, z = a + 0.1 * b) |> add_specs(y <= 1, z <= 1), 2000)
  expect_match(pass_rate(together)$remark[3], "tend to fail in the same runs: both depend on a")
  apart <- quietly(three_normals() |> add_outputs(y = a) |> add_specs(y <= 1, y >= -1), 2000)
  expect_match(pass_rate(apart)$remark[3], "different runs")
  alone <- quietly(three_normals() |> add_outputs(y = a, z = b) |> add_specs(y <= 1, z <= 1), 2000)
  expect_match(pass_rate(alone)$remark[3], "independently")
  expect_identical(pass_rate(quietly(three_normals() |> add_outputs(y = a) |> add_specs(y <= 100, y >= -100)))$remark,
    rep("", 3))
})
