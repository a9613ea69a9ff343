zones <- function() {
  study() |> add_inputs(zone = list(law_uniform(1, 2), law_uniform(3, 5), 4), area = list(10, 20, 30),
    other = input(law_uniform(0, 1), group = "rest"))
}

test_that("families and groups stand for their members, within each run", {
  s <- zones() |> add_outputs(total = sum(zone), middle = mean(zone), least = min(zone), most = max(zone, other),
    product = prod(zone),
    by_area = weighted_sum(zone, area), by_number = weighted_sum(zone,
      c(1, 2, 3)), one = zone[2] * 2, group = sum(rest, 1))
  d <- as.data.frame(quietly(s, 40))
  z <- cbind(d[["zone[1]"]], d[["zone[2]"]], 4)
  expect_equal(d$total, rowSums(z))
  expect_equal(d$middle, rowMeans(z))
  expect_equal(d$least, apply(z, 1, min))
  expect_equal(d$most, pmax(apply(z, 1, max), d$other))
  expect_equal(d$product, apply(z, 1, prod))
  expect_equal(d$by_area, drop(z %*% c(10, 20, 30)))
  expect_equal(d$by_number, drop(z %*% 1:3))
  expect_equal(d$one, 2 * z[, 2])
  expect_equal(d$group, d$other + 1)
  expect_output(print(s), "weighted_sum(zone, area)", fixed = TRUE)
  weights <- c(1, 0, 2)
  expect_equal(as.data.frame(quietly(zones() |> add_outputs(y = weighted_sum(zone, weights)), 40))$y,
    drop(z %*% weights))
})

test_that("families are the same in a study file", {
  s <- zones() |> add_outputs(total = sum(zone), y = weighted_sum(zone, c(1, -2.5, 3)) / zone[1]) |>
    add_specs(sum(zone) >= 8)
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(s, file)
  expect_identical(read_study(file), s)
  expect_match(paste(readLines(file), collapse = "\n"), "total: sum(zone)", fixed = TRUE)
  writeLines(c("inputs:", "  zone[1..40]: {law: uniform, min: 0, max: 1}", "outputs:", "  y: sum(zone)"), file)
  many <- read_study(file)
  expect_length(many$inputs, 40)
  expect_equal(sd(quietly(many, 2000)$outputs$y), sqrt(40 / 12), tolerance = 0.05)
  # a member under another name is written out, and keeps its draws
  renamed <- s |> rename_inputs(hill = "zone[1]")
  write_study(renamed, file, overwrite = TRUE)
  expect_identical(as.data.frame(quietly(read_study(file), 20))$total, as.data.frame(quietly(s, 20))$total)
})

test_that("a family by itself, a wrong member or weights are refused", {
  expect_fault(zones() |> add_outputs(y = zone + 1), "formula", "stands for 3 inputs", "`sum(zone)`")
  expect_fault(zones() |> add_outputs(y = zone[7]), "name", "a member of the family")
  expect_fault(zones() |> add_outputs(y = weighted_sum(zone, c(1, 2))), "formula", "3 members; there are 2 weights")
  expect_fault(zones() |> add_outputs(y = weighted_sum(zone, other)), "formula", "numbers or another family")
  expect_fault(zones() |> add_outputs(y = weighted_sum(zne, area)), "formula", "Did you mean `zone`?")
  expect_fault(zones() |> add_outputs(y = sum(other)), "across_runs")
})
