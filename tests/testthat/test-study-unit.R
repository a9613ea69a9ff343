test_that("the review names what does not belong together, before any run", {
  s <- study("Main") |> add_inputs(spring = input(law_normal(61.5, 0.4), unit = "m"), headloss = input(law_normal(9, 1), unit = "m")) |>
    add_outputs(pressure = output(spring - 12 - headloss, unit = "m"))
  found <- review(s)
  expect_identical(found$seen, "In `spring - 12`, `12` has no unit, and `spring` is in m.")
  expect_identical(found$severity, "hint")
  slips <- study("s") |> add_inputs(a = input(law_normal(1, 0.1), unit = "litre/sek"), b = input(law_normal(1, 0.1), unit = "L/(head d)"), c = input(law_normal(2, 0.1), unit = "home")) |>
    add_outputs(y = a * b * c)
  seen <- review(slips)
  expect_match(seen$todo[1], "Did you mean `litre/s`")
  expect_match(seen$seen[2], "`head` is no unit")
  expect_identical(nrow(seen), 2L)
  expect_identical(nrow(review(add_units(slips, head = NULL) |> replace_inputs(a = input(law_normal(1, 0.1), unit = "L/s")))), 0L)
})

test_that("a study's own units are declared, kept in files, and refused where they are known", {
  s <- study("Water") |> add_units(person = NULL, truck = "12 m3") |>
    add_inputs(people = input(law_normal(4200, 90), unit = "persons"), use = input(law_pert(110, 130, 170), unit = "L/(person d)")) |>
    add_outputs(need = output(people * use, unit = "truck/d"))
  expect_equal(evaluate(convert_units(s))$value, 4200 * 0.13 / 12)
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(s, file)
  expect_identical(read_study(file)$units, s$units)
  expect_equal(evaluate(convert_units(read_study(file)))$value, 4200 * 0.13 / 12)
  expect_error(add_units(s, m = "3 ft"), "known yet", class = "ensayo_error_name")
  expect_error(add_units(s, truck = NULL), class = "ensayo_error_name")
  expect_error(add_units(s, sack = "25 kgg"), "Did you mean", class = "ensayo_error_argument")
  expect_error(add_units(s, `m 3` = NULL), "one word", class = "ensayo_error_name")
})

test_that("formulas convert where it is asked for, and stay to the bit where nothing has to", {
  main <- study("Main") |>
    add_inputs(demand = input(law_pert(28, 34, 48), unit = "L/s"), diameter = input(law_triangular(246, 250, 252), unit = "mm"), length = input(4.2, unit = "km"),
      friction = law_uniform(0.02, 0.022)) |>
    add_outputs(velocity = output(demand / (pi * diameter^2 / 4), unit = "m/s"), headloss = output(friction * length / diameter * velocity^2 / (2 * 9.81)),
      pressure = output(1000 * 9.81 * headloss, unit = "kPa"), ratio = friction / 2)
  made <- suppressWarnings(convert_units(main))
  v <- 0.034 / (pi * 0.25^2 / 4)
  h <- 0.021 * 4200 / 0.25 * v^2 / (2 * 9.81)
  case <- evaluate(made, diameter = 250, demand = 34, friction = 0.021)
  expect_equal(case$value, c(v, h, 9.81 * h, 0.0105))
  expect_identical(made$outputs$ratio, main$outputs$ratio)
  expect_warning(convert_units(main), "`pressure` \\(1000\\)", class = "ensayo_warning_units")
  # what a converted study draws is what the plain one draws
  expect_identical(draw_inputs(made, 50, 1), draw_inputs(main, 50, 1))
  coherent <- study("SI") |> add_inputs(a = input(law_normal(3, 1), unit = "m"), t = input(law_uniform(1, 2), unit = "s")) |> add_outputs(v = output(a / t, unit = "m/s"))
  expect_identical(convert_units(coherent), coherent)
  expect_identical(output_values(simulate(coherent, 100, 1), v), output_values(simulate(convert_units(coherent), 100, 1), v))
  # text and value of the factors are the same number
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(made, file)
  expect_identical(output_values(simulate(read_study(file), 100, 1), pressure), output_values(simulate(made, 100, 1), pressure))
})

test_that("temperatures convert as points, differences as differences", {
  s <- study("T") |> add_inputs(t = input(law_normal(20, 1), unit = "degC"), f = input(law_normal(60, 1), unit = "degF"), v = input(law_uniform(1, 2), unit = "m3")) |>
    add_outputs(k = output(t, unit = "K"), d = output(t - f, unit = "K"), f2 = output(t, unit = "degF"), gas = output(101325 * v / (8.314 * t), unit = NULL))
  values <- evaluate(convert_units(s))$value
  expect_equal(values[1:3], c(293.15, 20 - (60 - 32) / 1.8, 68))
  expect_equal(values[4], 101325 * 1.5 / (8.314 * 293.15))
  expect_error(convert_units(study("d") |> add_inputs(t = input(law_normal(20, 1), unit = "degC")) |> add_outputs(d = output(t - t, unit = "degC"))),
    class = "ensayo_error_argument")
})

test_that("dimensions that do not agree, and unknown units, are not converted", {
  bad <- study("b") |> add_inputs(a = input(law_normal(1, 0.1), unit = "m"), t = input(law_normal(1, 0.1), unit = "s")) |> add_outputs(y = a + t)
  expect_error(convert_units(bad), "dimensions agree", class = "ensayo_error_argument")
  unknown <- study("b") |> add_inputs(a = input(law_normal(1, 0.1), unit = "meterz")) |> add_outputs(y = a)
  expect_error(convert_units(unknown), "Did you mean `meter`", class = "ensayo_error_argument")
})
