bursts <- function() {
  study("Bursts") |>
    add_inputs(rate = law_gamma(mean = 7.5, sd = 2), bursts = law_poisson(mean = ~ rate)) |>
    add_outputs(hours = bursts * 6)
}

test_that("a law may have another input for its parameter", {
  draws <- as.data.frame(quietly(bursts(), 20000, seed = 3))
  # a Poisson count with a gamma rate: mean 7.5, variance 7.5 + 4
  expect_equal(mean(draws$bursts), 7.5, tolerance = 0.01)
  expect_equal(var(draws$bursts), 11.5, tolerance = 0.03)
  expect_identical(base_values(bursts())$bursts, 7.5)
  expect_setequal(reach_of(bursts())("hours"), c("bursts", "rate"))
})

test_that("a run has the law that its own parameters make", {
  s <- study() |>
    add_inputs(mu = law_uniform(2, 9), cv = 0.1, a = law_normal(mean = ~ mu, sd = ~ cv * mu),
      b = law_pert(0, ~ mu, ~ 2 * mu)) |>
    add_outputs(y = a + b)
  d <- as.data.frame(quietly(s, 50, seed = 5))
  u <- lapply(c(a = "a", b = "b"), stream_uniforms, seed = 5, design = "latin", nsim = 50)
  expect_equal(d$a, qnorm(u$a, d$mu, 0.1 * d$mu))
  expect_equal(d$b, mapply(function(mu, u) quantile(law_pert(0, mu, 2 * mu), u), d$mu, u$b))
})

test_that("parameters that make no law fail their run alone", {
  s <- study() |> add_inputs(spread = law_normal(1, 1), a = law_normal(mean = 0, sd = ~ spread)) |> add_outputs(y = a)
  res <- quietly(s, 200)
  expect_setequal(failures(res)$run, which(as.data.frame(res)$spread <= 0))
})

test_that("links follow names, order and circles", {
  s <- study() |> add_inputs(a = law_normal(mean = ~ m, sd = 1), m = law_uniform(1, 2)) |> add_outputs(y = a)
  expect_identical(format(s$inputs$a$law), "normal(mean = m, sd = 1)")
  expect_silent(quietly(s, 20))
  renamed <- s |> rename_inputs(middle = m)
  expect_identical(links_of(renamed$inputs$a$law), "middle")
  expect_identical(as.data.frame(quietly(renamed, 20))$a, as.data.frame(quietly(s, 20))$a)
  expect_fault(remove_inputs(s, m), "name", "used by `a`")
  expect_fault(study() |> add_inputs(a = law_normal(~ b, 1), b = law_normal(~ a, 1)), "cycle", "`a` needs `b`")
  expect_fault(study() |> add_inputs(a = law_normal(~ mu2, 1), mu = 2), "name", "Did you mean `mu`?")
  expect_fault(study() |> add_inputs(m = law_normal(0, 1), a = law_normal(0, ~ m)), "argument", "base case", "above 0")
  expect_fault(quantile(law_normal(~ m, 1), 0.5), "argument", "read the input off the result")
  expect_fault(law_truncated(law_normal(~ m, 1), 0), "argument", "numbers for parameters")
  expect_fault(law_histogram(1:3, ~ m), "argument", "a number alone")
  expect_identical(base_values(fix_inputs(s, m = 5))$a, 5)
})
