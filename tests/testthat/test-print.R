test_that("a study prints what came from the session, what is fixed, and long formulas", {
  tariff <- 0.31
  rates <- c(0.04, 0.06)
  capped <- function(x) min(x, 50)
  doubled <- function(x) 2 * x
  s <- study("Pumping station", question = "What does a summer's pumping cost?") |>
    add_inputs(
      flow = input(law_triangular(20, 25, 40), unit = "L/s", label = "D\u00e9bit", group = "station"),
      lift = input(law_uniform(61, 64), base = 62, unit = "m", group = "station"), hours = 8
    ) |>
    fix_inputs(lift = 63) |>
    add_outputs(
      power = output(flow * lift * 9.81 / 1000 / 0.7, unit = "kW", label = "Shaft power"),
      cost = output(capped(power) * hours * tariff * (1 + mean(rates)) + doubled(flow) * 0 + flow * hours * 0 +
        lift * hours * 0)
    ) |>
    add_specs(affordable = cost <= 120, power < 60)
  expect_snapshot(print(s))
})

test_that("an empty study and single parts print", {
  expect_output(print(study("Empty")), "Inputs: none yet")
  expect_output(print(input(law_normal(1, 2), unit = "m", label = "Level")), "normal(mean = 1, sd = 2) m (Level)",
    fixed = TRUE)
  expect_output(print(output(a + b, unit = "m")), "a + b [m]", fixed = TRUE)
  expect_output(print(failures(quietly(gravity_main(), 10))), "(no rows)", fixed = TRUE)
})

test_that("long tables and studies are cut with a word about the rest", {
  inputs <- stats::setNames(rep(list(law_normal(0, 1)), 70), paste0("x", 1:70))
  s <- study("Many") |> add_inputs(inputs) |> add_outputs(y = x1)
  expect_output(print(s), "... and 10 more inputs: see input_table()", fixed = TRUE)
  expect_output(print(input_table(s)), "... and 30 more rows", fixed = TRUE)
  expect_equal(nrow(input_table(s)), 70)
})

test_that("whole numbers in a table are shown to the last digit", {
  table <- new_table(list(met = c(19928, 123456), chance = c(0.99642, 0.5), none = c(NA, NA_real_)))
  expect_identical(cli::ansi_strip(format(table)),
    c("    met  chance  none", " 19 928  0.9964     -", "123 456     0.5     -"))
})

test_that("columns line up by what a reader sees", {
  lines <- cli::ansi_strip(text_table(list(name = c("\u00e9t\u00e9", "winter"), value = c("1", "20")),
    numeric = c(FALSE, TRUE)))
  expect_identical(lines, c("name    value", "\u00e9t\u00e9         1", "winter     20"))
  expect_identical(text_table(list(a = character())), "a")
})

test_that("histograms in a line follow the counts", {
  withr::local_options(cli.unicode = FALSE)
  expect_identical(tiny_histogram(c(0, 0, 0, 0, 1), bars = 2), "@:")
  expect_identical(tiny_histogram(c(3, 3)), "constant")
  expect_identical(tiny_histogram(numeric()), "")
})

test_that("percentages never round to none or all", {
  expect_identical(format_share(c(1e-9, 1 - 1e-9), 0), c("<1 %", ">99 %"))
  expect_identical(format_given(2^53 - 1), "9007199254740991")
  expect_identical(count_of(1, "run"), "1 run")
  expect_identical(count_of(12345, "run"), "12 345 runs")
})

test_that("on a terminal labels give way to the edge, and nowhere else", {
  withr::local_options(cli.dynamic = TRUE, cli.width = 40)
  cells <- list(input = "flow", law = "uniform(min = 1, max = 2)", label = "A label that is long")
  expect_identical(max(nchar(cli::ansi_strip(text_table(cells)))), 5L + 2L + 25L + 2L + 12L)  # 12 of it always stay
  withr::local_options(cli.dynamic = FALSE)
  expect_match(text_table(cells)[2], "A label that is long$")
})
