# What belongs together and what does not: forty right formulas and forty wrong ones, by the units of their quantities.
units <- list(len = "m", wid = "mm", area = "m2", vol = "m3", flow = "L/s", rate = "m3/h", time = "s", days = "d", mass = "kg", grams = "g", dens = "kg/m3", press = "kPa", stress = "MPa",
  force = "N", power = "kW", energy = "kWh", price = "EUR/m3", cost = "EUR", usd = "USD", share = "%", ratio = "1", angle = "deg", turn = "rad", warm = "degC", cool = "degC",
  hot = "degF", kelvin = "K", expan = "1/K", people = "person", use = "L/(person d)", speed = "m/s", level = "dB", freq = "Hz")

checked <- function(expr, declared = NULL) {
  given <- if (is.null(declared)) units else c(units, y = declared)
  s <- study("u") |> add_units(person = NULL) |>
    add_inputs(!!!lapply(given[names(given) != "y"], function(unit) input(law_uniform(1, 2), unit = unit)), bare = law_uniform(1, 2)) |>
    add_outputs(y = output(!!expr, unit = declared))
  ensayo:::unit_findings(s)
}

test_that("forty formulas whose units agree have no finding", {
  right <- list(
    list(quote(len + sqrt(area)), "m"), list(quote(len * len / 2), "m2"), list(quote(area^1.5 - vol), "m3"), list(quote(flow / 1000 / area), "m/s"),
    list(quote(rate / 3600 / area), "m/s"), list(quote(len + wid / 1000), "m"), list(quote(len / time), "m/s"), list(quote(speed^2 / (2 * 9.81)), NULL),
    list(quote(force / area / 1000 + press), "kPa"), list(quote(dens * vol), "kg"), list(quote(mass * speed^2 / 2), "J"), list(quote(power * 24 * days), "kWh"),
    list(quote(price * vol + cost), "EUR"), list(quote(cost * (1 + share / 100)), "EUR"), list(quote(sin(turn) * len), "m"), list(quote(sin(angle * pi / 180) * len), "m"),
    list(quote(warm - cool), "K"), list(quote(warm + kelvin), "degC"), list(quote(len * (1 + expan * (warm - cool))), "m"), list(quote(max(0, len - 0)), "m"),
    list(quote(min(len, Inf)), "m"), list(quote(if (press > 200) len else 0), "m"), list(quote(exp(-time / (2 * time))), "1"), list(quote(log(press / press)), NULL),
    list(quote(people * use), "L/d"), list(quote(freq * time), "1"), list(quote(100 * (mass / mass - 1)), "%"), list(quote(mean(len, sqrt(area))), "m"),
    list(quote(abs(len - len)), "m"), list(quote(round(cost, -2)), "EUR"), list(quote(len^2 * len^-1), "m"), list(quote(energy / power), "h"),
    list(quote(ratio * len), "m"), list(quote(bare + len), NULL), list(quote(bare * 3 + 5), "m"), list(quote(mean(warm, cool)), "degC"), list(quote(atan2(len, sqrt(area))), NULL),
    list(quote(level - level), "dB"), list(quote(prod(len, len)), "m2"), list(quote((len + len) * (time / time)), "m"))
  expect_length(right, 40)
  for (one in right) expect_identical(checked(one[[1]], one[[2]]), list(), label = deparse1(one[[1]]))
})

test_that("forty wrong ones are named, with the place of the fault", {
  wrong <- list(
    list("dimensions", quote(len + area)), list("dimensions", quote(len - time)), list("dimensions", quote(mass + force)), list("dimensions", quote(power + energy)),
    list("dimensions", quote(cost + usd)), list("dimensions", quote(max(len, area))), list("dimensions", quote(sum(len, len, time))), list("dimensions", quote(if (len > time) 1 else 0)),
    list("dimensions", quote(ifelse(ratio > 1, len, time))), list("dimensions", quote(press * area + mass)), list("dimensions", quote(len / time + speed^2)), list("dimensions", quote(level + ratio)),
    list("dimensions", quote(people + ratio * len)), list("dimensions", quote(warm + len)), list("dimensions", quote(len %% time)), list("dimensions", quote(2 * len + 3 * area - len)),
    list("scale", quote(len + wid)), list("scale", quote(flow - rate)), list("scale", quote(max(press, stress))), list("scale", quote(mass + grams)), list("scale", quote(warm - hot)),
    list("scale", quote(if (len > wid) len else wid)), list("scale", quote(time + days)), list("scale", quote(power * time + energy)), list("scale", quote(share + ratio)),
    list("number", quote(len - 12)), list("number", quote(1 + share)), list("number", quote(max(len, 5))), list("number", quote(cost + 100 * 3)), list("number", quote(if (ratio > 1) len else 7)),
    list("points", quote(warm + cool)), list("points", quote(0.05 * warm)), list("points", quote(warm / cool)), list("points", quote(kelvin - warm)), list("points", quote(sqrt(warm))),
    list("argument", quote(exp(len))), list("argument", quote(log(press))), list("argument", quote(ratio^time)), list("angle", quote(sin(angle))), list("argument", quote(sin(30 * len))))
  expect_length(wrong, 40)
  for (one in wrong) {
    found <- checked(one[[2]])
    expect_gte(length(found), 1)
    expect_identical(found[[1]]$code, one[[1]], label = deparse1(one[[2]]))
    expect_true(is.language(found[[1]]$part) || is.numeric(found[[1]]$part))
  }
})

test_that("the declared unit is that of the formula", {
  code <- function(expr, declared) vapply(checked(expr, declared), `[[`, "", "code")
  expect_identical(code(quote(len * len), "m"), "declared")
  expect_identical(code(quote(len), "mm"), "declared")
  expect_identical(code(quote(mass / grams), "%"), "declared")
  expect_identical(code(quote(warm - cool), "degC"), "declared")
  expect_identical(code(quote(warm), "K"), "declared")
  expect_identical(code(quote(1000 * len), "mm"), character())
  expect_identical(code(quote(len > 3), NULL), character())
  expect_identical(code(quote(5), "m"), character())
})

test_that("long sums are walked without recursion", {
  expr <- Reduce(function(a, b) call("+", a, b), rep(list(quote(len)), 400))
  expect_identical(checked(expr, "m"), list())
})
