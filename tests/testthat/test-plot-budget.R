test_that("bars have the contributions with their signs, and the title is true", {
  data <- ensayo:::budget_plot_data(budget(end_gauge(), length), 5)
  expect_identical(as.character(data$bars$what[1]), "Length of the standard")
  expect_equal(data$bars$contribution[1:2], as.data.frame(budget(end_gauge(), length))$contribution[1:2])
  expect_match(data$title, "Length of the standard makes up 62 % of the variance")
  expect_match(data$subtitle, "4 smaller inputs not shown")
  correlated <- ensayo:::budget_plot_data(budget(impedance(), R), 15)
  expect_match(correlated$title, "phi contributes most")
  for (b in list(budget(end_gauge(), length), budget(of_inputs(1 - a^2, a = law_normal(0, 1))), budget(of_inputs(abs(a), a = law_normal(0, 1))))) {
    expect_s3_class(ggplot2::ggplot_build(plot_budget(b)), "ggplot_built")
  }
})

test_that("the verdict's figure draws both intervals", {
  s <- of_inputs(a + b, a = law_uniform(-1, 1), b = law_normal(0, 0.1))
  v <- budget_verdict(budget(s), simulate(s, 5000, 1, replicates = 10))
  data <- ensayo:::verdict_plot_data(v)
  expect_equal(data$intervals$low, c(as.data.frame(v)$budget[3], as.data.frame(v)$simulated[3]))
  expect_equal(sum(data$bars$density * (data$bars$to - data$bars$from)), 1, tolerance = 0.01)
  expect_match(data$title, "not validated")
  expect_s3_class(ggplot2::ggplot_build(plot_verdict(v)), "ggplot_built")
  expect_error(plot_verdict(3), class = "ensayo_error_argument")
})

test_that("conformity and regions are drawn of budgets, laws and runs", {
  s <- of_inputs(a + b, a = law_observed(n = 8, mean = 0.2, sd = 0.2, of = "mean"), b = law_uniform(-0.1, 0.1))
  res <- simulate(s, 2000, 1)
  for (p in list(plot_conformity(budget(s), -0.3, 0.4, rule = "guarded", risk = 0.2), plot_conformity(res, upper = 0.4), plot_conformity(law_normal(0.9, 0.1), -1, 1, prior = law_normal(0, 0.5)),
    plot_conformity(budget(s), lower = 0, rule = "relaxed"))) expect_s3_class(ggplot2::ggplot_build(p), "ggplot_built")
  shown <- plot_conformity(budget(s), -0.3, 0.4, rule = "guarded", risk = 0.2)
  expect_match(shown$labels$title, ensayo:::format_share(conformity(budget(s), -0.3, 0.4)$conforms), fixed = TRUE)
  j <- joint_budget(impedance(), c(R, X))
  data <- ensayo:::region_plot_data(j)
  # every point of the ellipse is as far out
  d <- rbind(data$ellipse$x - j$value[1], data$ellipse$y - j$value[2])
  expect_equal(sqrt(colSums(d * solve(j$covariance, d))), rep(j$ellipse_factor, 241), tolerance = 1e-6)
  expect_s3_class(ggplot2::ggplot_build(plot_region(j)), "ggplot_built")
  expect_error(plot_region(joint_budget(impedance())), "two outputs", class = "ensayo_error_argument")
})
