test_that("bands are equally probable, and show which way to move an input", {
  res <- quietly(gravity_main(), 2000)
  table <- pass_rate_by(res)
  expect_identical(unique(table$input)[1:2], c("demand", "friction"))
  demand <- table[table$input == "demand", ]
  expect_identical(demand$runs, rep(200, 10))
  expect_identical(demand$direction[1], "lower")
  inside <- res$draws$demand >= demand$from[3] & res$draws$demand <= demand$to[3]
  passes <- res$outputs$pressure >= 38 & res$outputs$velocity >= 0.3 & res$outputs$velocity <= 1
  expect_equal(demand$pass_rate[3], mean(passes[inside]))
  expect_equal(unlist(demand[3, c("low", "high")]), as.numeric(binom.test(demand$met[3], 200)$conf.int),
    ignore_attr = TRUE)
  chi <- suppressWarnings(chisq.test(cbind(demand$met, 200 - demand$met)))
  expect_equal(demand$p_value[1], chi$p.value, tolerance = 1e-6)
  expect_identical(pass_rate_by(res, "pressure >= 38")$pass_rate, pass_rate_by(res, pressure >= 38)$pass_rate)
  expect_identical(unique(pass_rate_by(res, pressure >= 38, .inputs = c(spring, friction))$input),
    c("friction", "spring"))
})

test_that("directions, ties, categories and idle inputs are told apart", {
  s <- study() |> add_inputs(x = law_uniform(-1, 1), count = law_integers(1, 3),
    soil = law_discrete(c("rock", "clay"), c(1, 3)), idle = law_normal(0, 1)) |>
    add_outputs(mid = abs(x), edge = -abs(x), up = x, kind = if (soil == "rock") 1 else 0, n = count)
  res <- quietly(s, 3000)
  way <- function(...) {
    table <- pass_rate_by(res, ...)
    stats::setNames(table$direction[table$band == 1], table$input[table$band == 1])
  }
  expect_identical(way(mid < 0.4)[["x"]], "middle")
  expect_identical(way(edge < -0.6)[["x"]], "ends")
  expect_identical(way(up > 0)[["x"]], "higher")
  expect_identical(way(up > 0)[["idle"]], "")
  soil <- pass_rate_by(res, kind > 0, .inputs = soil)
  expect_identical(soil$category, c("clay", "rock"))
  expect_identical(soil$pass_rate, c(0, 1))
  expect_identical(pass_rate_by(res, n > 2, .inputs = count)$pass_rate, c(0, 0, 1))
  expect_equal(max(pass_rate_by(quietly(s, 60), up > 0, .inputs = x)$band), 3)
  expect_fault(pass_rate_by(res), "argument", "must have specs")
  expect_fault(pass_rate_by(res, up > 0, mid < 1), "argument", "one condition")
  expect_fault(pass_rate_by(res, up > 0, .bands = 1), "argument", ".bands")
  expect_fault(pass_rate_by(res, up > 0, .inputs = idl), "name", "`idle`")
})

test_that("replicates, previews and conditions go into pass rates", {
  s <- gravity_main()
  res <- quietly(s, 2000, 3, replicates = 10)
  rate <- pass_rate(res)
  per <- tapply(res$outputs$pressure >= 38, as.data.frame(res)$replicate, mean)
  expect_equal(rate$error[1], sd(per) / sqrt(10))
  expect_true(rate$low[1] < rate$pass_rate[1] && rate$pass_rate[1] < rate$high[1])
  kept <- given(res, demand < 35)
  expect_equal(pass_rate(kept)$pass_rate[1], mean(res$outputs$pressure[res$draws$demand < 35] >= 38))
  expect_equal(sum(pass_rate_by(kept, .inputs = spring)$runs), sum(res$draws$demand < 35))
  expect_equal(nrow(pass_rate_by(quietly(s, 500, 3, preview = 100), .inputs = spring)), 5)
})
