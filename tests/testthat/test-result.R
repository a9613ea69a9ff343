known <- function(nsim = 1000) quietly(three_normals() |> add_outputs(y = 3 * a + 2 * b + c, z = a^2) |>
  add_specs(low = y < 0, z < 1), nsim)

test_that("statistics agree with base R and published small cases", {
  res <- known()
  y <- res$outputs$y
  table <- summary(res, percentiles = c(2.5, 50, 97.5))
  row <- table[table$output == "y", ]
  expect_equal(row$mean, mean(y))
  expect_equal(row$sd, sd(y))
  d <- y - mean(y)
  expect_equal(row$skewness, mean(d^3) / mean(d^2)^1.5)
  expect_equal(row$excess_kurtosis, mean(d^4) / mean(d^2)^2 - 3)
  expect_equal(c(row$min, row$max), range(y))
  expect_equal(unlist(row[c("P2.5", "P50", "P97.5")], use.names = FALSE), unname(quantile(y, c(0.025, 0.5, 0.975))))
  expect_equal(row$base_at, 100 * mean(y < 0))
  # Joanes and Gill (1998): g1 and g2 of 1, 2, 3, 10 by hand: m2 = 12.5, m3 = 45, m4 = 348.5
  m <- cpp_moments(c(1, 2, 3, 10))
  expect_equal(m$m3 / m$m2^1.5, 45 / 12.5^1.5)
  expect_equal(m$m4 / m$m2^2 - 3, 348.5 / 156.25 - 3)
})

test_that("tables are plain data frames", {
  res <- known()
  for (table in list(summary(res), percentiles(res), chance(res, y > 0), pass_rate(res), drivers(res), failures(res),
    base_case(res), correlations(res), as.data.frame(res))) {
    expect_s3_class(table, "data.frame")
    expect_setequal(names(attributes(table)), c("names", "row.names", "class"))
  }
  expect_named(as.data.frame(res), c("run", "failed", "a", "b", "c", "y", "z"))
  expect_equal(nrow(as.data.frame(res)), 1000)
  expect_output(print(percentiles(res, 50)), "percentile")
})

test_that("percentiles are asked from 0 to 100 by bare or quoted name", {
  res <- known()
  p <- percentiles(res, c(90, 10), y)
  expect_equal(p$value, unname(quantile(res$outputs$y, c(0.9, 0.1))))
  expect_identical(percentiles(res, 50, "z")$output, "z")
  expect_identical(percentiles(res, 50, c(z, "y"))$output, c("z", "y"))
  which_one <- "z"
  expect_identical(percentiles(res, 50, which_one)$output, "z")
  expect_fault(percentiles(res, 120), "argument", "`percentiles`", "from 0 to 100")
  expect_fault(percentiles(res, numeric()), "argument")
  expect_warning(percentiles(res, c(0.1, 0.5)), class = "ensayo_warning_percentiles")
  expect_fault(percentiles(res, 50, yy), "name", "`y`")
  expect_fault(percentiles(3), "argument", "must be a result")
})

test_that("base R's generics answer where they mean the thing", {
  res <- known()
  expect_equal(quantile(res, 0.9), percentiles(res, 90))
  expect_equal(mean(res), c(y = mean(res$outputs$y), z = mean(res$outputs$z)))
  expect_equal(median(res), c(y = median(res$outputs$y), z = median(res$outputs$z)))
  expect_identical(head(res, 2), as.data.frame(res)[1:2, ])
  expect_fault(quantile(res, 90), "argument", "by 100")
})

test_that("chances count runs and tell their simulation error", {
  res <- known()
  table <- chance(res, y > 0, either = a > 1 || b > 1, y > 0 & a < 0)
  expect_equal(table$chance[1], mean(res$outputs$y > 0))
  expect_equal(table$chance[2], mean(res$draws$a > 1 | res$draws$b > 1))
  expect_identical(table$condition, c("y > 0", "either", "y > 0 & a < 0"))
  limit <- 1
  expect_equal(chance(res, y > limit)$chance, mean(res$outputs$y > 1))
  # Clopper and Pearson (1934): 0 of 10 gives an upper end of 1 - 0.025^(1/10); 5 of 10 gives 0.1871 to 0.8129
  ends <- proportion_interval(c(0, 5, 10), 10)
  expect_equal(ends$low, c(0, 0.1871, 0.025^0.1), tolerance = 1e-4)
  expect_equal(ends$high, c(1 - 0.025^0.1, 0.8129, 1), tolerance = 1e-4)
  expect_fault(chance(res, y = 38), "argument", "y == 38", "y >= 38")
  expect_fault(chance(res, y), "argument", "TRUE or FALSE")
  expect_fault(chance(res, w > 1), "name", "`w`")
  expect_fault(chance(res), "argument", "at least one condition")
})

test_that("failed runs have not met a condition, and the good ones are told apart", {
  res <- quietly(three_normals() |> add_outputs(root = sqrt(a)) |> add_specs(small = root < 1, b < 0), 1000)
  table <- pass_rate(res)
  expect_identical(table$spec, c("small", "b < 0", "all specs"))
  expect_equal(table$failed, c(500, 0, 500))
  met <- sum(sqrt(res$draws$a[res$draws$a >= 0]) < 1)
  expect_equal(table$pass_rate[1], met / 1000)
  expect_equal(table$pass_rate_good[1], met / 500)
  expect_equal(table$met[3], sum(res$draws$a >= 0 & res$draws$a < 1 & res$draws$b < 0))
  expect_fault(pass_rate(known() |> study_of() |> (\(s) { s$specs <- list(); s })() |> quietly()), "argument", "no",
    "add_specs()")
})

test_that("shares of variance have their closed form", {
  s <- three_normals() |> add_outputs(y = 3 * a + 2 * b + c)
  res <- quietly(s, 1e5)
  r <- c(3, 2, 1) / sqrt(14)
  ranks <- 6 / pi * asin(r / 2)
  table <- drivers(res)
  expect_identical(table$input, c("a", "b", "c"))
  expect_lt(max(abs(table$share - c(9, 4, 1) / 14)), 0.006)
  expect_identical(table$share, table$value)
  expect_equal(sum(table$share), 1, tolerance = 1e-9)
  expect_lt(max(abs(drivers(res, "rank")$value - ranks)), 0.01)
  expect_fault(drivers(res, "spearman"), "argument", "\"rank\"")
})

test_that("an input that does not enter an output gets no share of it", {
  table <- drivers(quietly(gravity_main(), 1000), outputs = velocity)
  expect_equal(table$share[table$input == "friction"], 0)
  expect_identical(table$remark[table$input == "friction"], "does not enter this output")
  expect_equal(sum(table$share), table$r_squared[1])
})

test_that("a result prints on one screen", {
  many <- three_normals()
  for (i in 1:30) many <- add_outputs(many, !!paste0("y", i) := a + !!i * b)
  expect_lt(length(format(quietly(many))), 32)
  res <- quietly(gravity_main(), 1000, seed = 11)
  res$provenance$seconds <- 0
  expect_snapshot(print(res))
})

test_that("one share, one number: print, figure, words, report and command agree under correlation", {
  s <- study("Sum") |>
    add_inputs(a = law_normal(10, 1), b = law_normal(10, 1), c = law_normal(10, 1), e = law_normal(10, 2)) |>
    add_correlation(c(a, b, c), r = 0.5) |> add_outputs(total = a + b + c + e)
  res <- quietly(s, 10000)
  table <- drivers(res)
  # a rank correlation of 0.5 is a score correlation of 2 sin(pi / 12); the three share their part alike
  r <- 2 * sin(pi / 12)
  expect_identical(table$input[1], "e")
  expect_equal(table$share[1], 4 / (4 + 3 + 6 * r), tolerance = 0.01)
  expect_equal(table$share[2:4], rep((3 + 6 * r) / (4 + 3 + 6 * r) / 3, 3), tolerance = 0.05)
  shown <- format_share(table$share[1], 0)
  expect_match(format(res), sprintf("total: e %s (raises)", shown), fixed = TRUE, all = FALSE)
  expect_match(in_words(res)[1], sprintf("e (%s, raises it)", shown), fixed = TRUE)
  expect_match(plot_tornado(res, total)$labels$title, sprintf("e (%s)", shown), fixed = TRUE)
  expect_equal(ggplot2::ggplot_build(plot_tornado(res, total))$plot$data$share, table$share)
  expect_match(paste(report_page(res), collapse = ""), format_share(table$share[1]), fixed = TRUE)
})

test_that("outputs are named in one way, and what a result is not asked for says what to ask", {
  res <- quietly(gravity_main() |> add_readings(.planning = 70), 200)
  expect_identical(percentiles(res, pressure), percentiles(res, outputs = "pressure"))
  expect_identical(percentiles(res, pressure, 90), percentiles(res, 90, pressure))
  expect_identical(percentiles(res, "P90", pressure)$value, percentiles(res, 90, pressure)$value)
  expect_identical(drivers(res, pressure), drivers(res, outputs = pressure))
  expect_identical(drivers(res, pressure, "rank"), drivers(res, "rank", pressure))
  expect_identical(summary(res, pressure), summary(res, outputs = "pressure"))
  expect_fault(percentiles(res, presure), "name", "Did you mean `pressure`?")
  expect_identical(res$pressure, res$outputs$pressure)
  expect_fault(res$presure, "name", "`pressure`")
  expect_fault(sd(res), "argument", "summary(result)")
  expect_s3_class(plot(res), "ggplot")
  expect_identical(summary(gravity_main()), input_table(gravity_main()))
  expect_identical(chance(res, "pressure > 40")$chance, chance(res, pressure > 40)$chance)
  expect_fault(chance(res, pressure > 40 & demand), "argument", "`demand` is neither", "`demand > 0`")
  # the planning percentile stands wherever percentiles do
  expect_match(format(res), "P50 .*P70 .*P90", all = FALSE)
  expect_true(70 %in% distribution_plot_data(res, "pressure", reading_marks(res$study$readings))$markers$percentile)
  expect_match(output_sentences(res, "pressure"), "P70, the planning percentile", all = FALSE)
})

test_that("digits tell P10 from P90, in prints, figures and reports", {
  s <- study("Blocks") |> add_inputs(a = input(law_normal(60, 0.00014), unit = "mm")) |>
    add_outputs(block = output(a, unit = "mm"))
  res <- quietly(s, 10000)
  expect_match(format(res), "59.99982[0-9] .*60.00017[0-9]", all = FALSE)
  expect_match(format(summary(res)), "59.99982", all = FALSE)
  figure <- plot_distribution(res, block)
  expect_match(figure$labels$title, "from 59.99982[0-9] to 60.00017[0-9] mm")
  expect_identical(axis_numbers(c(59.9997, 60, 60.0003)), c("59.9997", "60.0000", "60.0003"))
  expect_identical(axis_numbers(c(0, 250000, 500000)), c("0", "250 000", "500 000"))
  expect_match(paste(report_page(res), collapse = ""), "59.99982", fixed = TRUE)
  # few runs bear few digits
  expect_identical(decimals_of(7.4, 0.03), 2)
  expect_identical(decimals_of(7.4, 0.3), 1)
  expect_identical(format_decimals(c(239060, 24190, 999), -2), c("239 100", "24 200", "1000"))
})

test_that("a yes or no has 0 or 1 as its single number", {
  s <- study() |> add_inputs(flood = law_bernoulli(0.15), spare = law_bernoulli(0.7), two = law_discrete(0:1, c(9, 1)))
  expect_identical(unlist(base_values(s)), c(flood = 0, spare = 1, two = 0))
  expect_identical(unique(input_table(s)$base_rule), "mode")
})

test_that("each limit of a spec has its own share, and the joint rate stands once", {
  s <- study() |> add_inputs(gap = law_normal(0.3, 0.085)) |> add_outputs(y = gap) |> add_specs(fits = 0.1 <= y & y <= 0.4)
  res <- quietly(s, 2000)
  lines <- limit_lines(res, "y", "number")$text
  y <- res$outputs$y
  expect_identical(lines, sprintf("spec %s: met by %s", c(">= 0.1", "<= 0.4"), format_share(c(mean(y >= 0.1), mean(y <= 0.4)))))
  expect_match(plot_distribution(res, y)$labels$caption, format_share(pass_rate(res)$pass_rate[1]), fixed = TRUE)
})
