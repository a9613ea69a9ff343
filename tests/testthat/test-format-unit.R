unit <- function(text, ...) ensayo:::read_unit(text, ...)
factor <- function(text) unit(text)$factor

test_that("units are read with prefixes, powers and brackets", {
  same <- list(c("L/s", "0.001 m3/s"), c("kg/m3", "kg m-3"), c("W/(m2 K)", "W m-2 K-1"), c("m^2", "m2"), c("m\u00b2", "m m"), c("N", "kg m/s2"), c("kPa", "1000 N/m2"),
    c("bar", "100 kPa"), c("kWh", "3.6 MJ"), c("m/s/s", "m s^-2"), c("km/h", "0.2777777777777778 m/s"), c("kEUR/a", "1000 EUR/year"), c("\u20ac/m2", "EUR m-2"),
    c("\u00b5m", "um"), c("N\u00b7m", "J"), c("ohm", "V/A"), c("min", "60 s"), c("days", "86400 s"), c("%", "0.01"), c("ppm", "1e-6"), c("t", "1000 kg"), c("hL", "100 L"),
    c("in", "25.4 mm"), c("ft", "12 in"), c("psi", "lbf/in2"), c("m^(1/2)", "m^0.5"), c("1/s", "Hz"), c("deg", "0.017453292519943295 rad"),
    c("litres", "L"), c("gal", "231 in3"), c("acre", "43560 ft2"), c("eV", "1.602176634e-19 J"), c("10^3 m3", "1000 m3"), c("mol/L", "1000 mol/m3"))
  for (pair in same) {
    a <- unit(pair[1])
    b <- unit(pair[2])
    expect_false(is.null(a) || is.null(b), label = paste(pair, collapse = " and "))
    expect_true(ensayo:::same_dims(a, b), label = paste(pair, collapse = " and "))
    expect_equal(a$factor, b$factor, tolerance = 1e-9, label = pair[1])
  }
  # a minute is no milli-inch, a foot no femtotonne, a day no deci
  expect_identical(c(factor("min"), factor("ft"), factor("d"), factor("cd"), factor("Pa"), factor("a"), factor("h")), c(60, 0.3048, 86400, 1, 1, 31557600, 3600))
  for (text in c("", "kg/", "(m", "m)", "m^", "m^x", "furlong", "10", "/s", "mmin", "k", "M", "kmin")) {
    if (text == "10") expect_equal(factor(text), 10) else expect_null(unit(text), label = text)
  }
})

test_that("a slip of the hand gets the nearest unit", {
  expect_identical(ensayo:::nearest_unit("kw"), "kW")
  expect_identical(ensayo:::nearest_unit("Litres"), "litre")
  expect_identical(ensayo:::nearest_unit("litre/sek"), "litre/s")
  expect_identical(ensayo:::nearest_unit("percent"), "%")
  expect_null(ensayo:::nearest_unit("zzyzx"))
})

test_that("values change unit as their definitions say", {
  to <- function(x, from, to) {
    rule <- ensayo:::conversion(unit(from), unit(to))
    x * rule$times + rule$plus
  }
  expect_equal(to(20, "degC", "degF"), 68)
  expect_equal(to(-40, "degF", "degC"), -40)
  expect_equal(to(0, "degC", "K"), 273.15)
  expect_equal(to(1, "mi", "km"), 1.609344)
  expect_equal(to(36, "km/h", "m/s"), 10)
  expect_equal(to(5, "%", "1"), 0.05)
})
