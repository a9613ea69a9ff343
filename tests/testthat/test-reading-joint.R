works_with_costs <- function(...) {
  study() |> add_tasks(A = task(law_discrete(c(2, 4)), cost_per_day = 100), B = task(law_discrete(c(3, 5), c(2, 1)), cost_per_day = 100),
    C = task(law_discrete(1:3, c(1, 2, 1)), "A", cost_per_day = 100), D = task(law_discrete(c(2, 6)), "A, B", cost_per_day = 100),
    E = task(law_discrete(c(1, 4), c(3, 1)), "C, D", cost_per_day = 100), F = task(law_discrete(c(5, 8)), "B", cost_per_day = 100), ...)
}

test_that("date and cost together are as the exact figures say, and not the product", {
  res <- simulate(works_with_costs(), 20000, 3, design = "random", progress = NULL)
  table <- as.data.frame(joint_chances(res, project_finish <= 11, project_cost <= 2200))
  exact <- c(2 / 3, 131 / 192, 73 / 128)
  expect_true(all(abs(table$chance[1:3] - exact) < 3 * sqrt(exact * (1 - exact) / 20000)))
  expect_equal(table$chance[5], prod(table$chance[1:2]))
  expect_gt(table$chance[3] - table$chance[5], 0.1)
  expect_identical(table$condition[3:5], c("all of them", "none of them", "all, if they were independent"))
  expect_equal(sum(table$chance[3:4]) + sum(table$chance[1:2]) - 2 * table$chance[3], 1)
})

test_that("each pair of limits is kept by just so many runs", {
  res <- simulate(works_with_costs(.start = "2027-03-01"), 999, 3, progress = NULL)
  d <- as.data.frame(res)
  for (chance in c(0.5, 0.8, 0.99)) {
    limits <- as.data.frame(joint_limits(res, chance = chance))
    expect_s3_class(limits$x, "Date")
    expect_true(all(diff(limits$y) < 0))
    needed <- ceiling(chance * 999)
    for (i in seq_len(nrow(limits))) {
      both <- function(y) sum(d$project_finish <= limits$x[i] & d$project_cost <= y)
      expect_gte(both(limits$y[i]), needed)
      expect_lt(both(max(d$project_cost[d$project_cost < limits$y[i]])), needed)
    }
    expect_identical(limits$x[1], sort(d$project_finish)[needed])
    expect_equal(limits$y[nrow(limits)], sort(d$project_cost)[needed])
    expect_equal(limits$x_chance, vapply(limits$x, function(x) mean(d$project_finish <= x), 0))
  }
})

test_that("specs stand for conditions, failed runs keep none, and bad calls are told", {
  res <- simulate(works_with_costs(.start = "2027-03-01", .promised = "2027-03-11", .budget = 2200), 300, 3, progress = NULL)
  expect_equal(as.data.frame(joint_chances(res))[1:2, "chance"], as.data.frame(pass_rate(res))$pass_rate[1:2])
  expect_equal(as.data.frame(joint_chances(res))$chance[3], as.data.frame(pass_rate(res))$pass_rate[3])
  expect_fault(joint_chances(res, project_cost > 5), "argument", "two conditions")
  expect_fault(joint_limits(res, project_finish, nothing), "name", "nothing")
  failing <- study() |> add_inputs(x = law_uniform(-1, 9)) |> add_outputs(a = sqrt(x), b = x * 2) |> simulate(1000, 1, progress = NULL)
  table <- as.data.frame(joint_chances(failing, a >= 0, b >= 0))
  expect_equal(table$chance[3], 0.9)
  expect_equal(table$failed[3], 100)
  expect_equal(max(as.data.frame(joint_limits(failing, a, b, chance = 0.8))$y), sort(as.data.frame(failing)$b[!is.na(as.data.frame(failing)$a)])[800])
  expect_fault(joint_limits(failing, a, b, chance = 0.95), "argument", "900 of 1000")
  replicated <- simulate(study_of(res), 1000, 3, replicates = 10, progress = NULL)
  expect_true(all(is.finite(as.data.frame(joint_chances(replicated))$error[1:4])))
})
