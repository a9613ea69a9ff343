# Units: a small algebra. A unit is
#   dims     exponents by base, those that are not 0: m, kg, s, A, K, mol, cd, money and things that are counted
#   factor   how many of the bases' units it is
#   offset   what is added after multiplying, of a scale whose 0 is not 0 (degC)
#   point    TRUE of such a scale: its values are points, and their differences are in K
#   text     as it was written
# The International System's units and prefixes are those of the SI Brochure (BIPM 2019), tables 4 to 8.

new_unit <- function(dims = numeric(), factor = 1, offset = 0, point = FALSE, text = "") {
  # exponents such as 1/3 + 2/3 leave crumbs
  dims <- round(dims, 9)
  dims <- dims[dims != 0]
  if (length(dims) == 0) dims <- stats::setNames(numeric(), character())
  list(dims = dims[order(names(dims))], factor = factor, offset = offset, point = point, text = text)
}

pure_unit <- new_unit()

base_unit <- function(name, factor = 1) new_unit(stats::setNames(1, name), factor)

same_dims <- function(a, b) identical(names(a$dims), names(b$dims)) && isTRUE(all.equal(unname(a$dims), unname(b$dims)))

is_pure <- function(unit) length(unit$dims) == 0

unit_product <- function(a, b, power = 1) {
  names <- union(names(a$dims), names(b$dims))
  exponents <- function(unit) ifelse(names %in% names(unit$dims), unit$dims[names], 0)
  new_unit(stats::setNames(exponents(a) + power * exponents(b), names), a$factor * b$factor^power)
}

unit_power <- function(unit, power) new_unit(unit$dims * power, unit$factor^power)

si_prefixes <- c(Y = 1e24, Z = 1e21, E = 1e18, P = 1e15, T = 1e12, G = 1e9, M = 1e6, k = 1e3, h = 1e2, da = 10, d = 0.1, c = 0.01, m = 1e-3,
  u = 1e-6, "\u00b5" = 1e-6, "\u03bc" = 1e-6, n = 1e-9, p = 1e-12, f = 1e-15, a = 1e-18, z = 1e-21, y = 1e-24)

# Units that take prefixes, and their definition: a text of units that come before it.
prefixed_units <- c(m = "", g = "", s = "", A = "", K = "", mol = "", cd = "", bit = "",
  Hz = "1/s", N = "1000 g m/s2", Pa = "N/m2", J = "N m", W = "J/s", C = "A s", V = "W/A", F = "C/V", ohm = "V/A", "\u03a9" = "V/A", "\u2126" = "V/A",
  S = "A/V", Wb = "V s", T = "Wb/m2", H = "Wb/A", lm = "cd", lx = "lm/m2", Bq = "1/s", Gy = "J/kg", Sv = "J/kg", kat = "mol/s", rad = "1", sr = "1",
  L = "0.001 m3", l = "0.001 m3", bar = "100000 Pa", eV = "1.602176634e-19 J", Wh = "3600 J", VA = "W", var = "W", t = "1000 kg", cal = "4.184 J",
  B_byte = "8 bit", poise = "0.1 Pa s")

plain_units <- c("1" = "1", "%" = "0.01", "\u2030" = "0.001", permille = "0.001", ppm = "1e-6", ppb = "1e-9", min = "60 s", minute = "60 s", h = "3600 s", hour = "3600 s",
  hr = "3600 s", second = "s", sec = "s", d = "86400 s", day = "86400 s", week = "604800 s", month = "2629800 s", year = "31557600 s", yr = "31557600 s", a = "31557600 s", ha = "10000 m2", deg = "0.017453292519943295",
  "\u00b0" = "0.017453292519943295", gon = "0.015707963267948967", rev = "6.283185307179586", rpm = "0.10471975511965977 1/s", litre = "L", liter = "L", metre = "m",
  meter = "m", tonne = "t", gram = "g", `in` = "0.0254 m", inch = "0.0254 m", ft = "0.3048 m", foot = "0.3048 m", yd = "0.9144 m", mi = "1609.344 m", mile = "1609.344 m", nmi = "1852 m",
  acre = "4046.8564224 m2", lb = "0.45359237 kg", oz = "0.028349523125 kg", gal = "0.003785411784 m3", lbf = "4.4482216152605 N",
  psi = "6894.757293168361 Pa", atm = "101325 Pa", mmHg = "133.322387415 Pa", kn = "0.5144444444444445 m/s", hp = "745.6998715822702 W", kgf = "9.80665 N",
  "\u00c5" = "1e-10 m", degR = "0.5555555555555556 K", amu = "1.66053906660e-27 kg", Da = "1.66053906660e-27 kg", bbl = "0.158987294928 m3", dozen = "12")

# Scales of temperature, and logarithmic scales, which are dimensions of their own.
point_units <- local({
  celsius <- new_unit(c(K = 1), 1, 273.15, TRUE)
  fahrenheit <- new_unit(c(K = 1), 5 / 9, 459.67 * 5 / 9, TRUE)
  list(degC = celsius, "\u00b0C" = celsius, "\u2103" = celsius, degF = fahrenheit, "\u00b0F" = fahrenheit)
})

own_dimensions <- c("dB", "dBA", "dBm", "pH", "Np")

currencies <- c("EUR", "USD", "GBP", "CHF", "JPY", "CNY", "INR", "SEK", "NOK", "DKK", "ISK", "PLN", "CZK", "HUF", "RON", "BGN", "TRY", "RUB", "UAH", "AUD",
  "CAD", "NZD", "ZAR", "BRL", "MXN", "ARS", "CLP", "COP", "PEN", "KRW", "SGD", "HKD", "TWD", "THB", "IDR", "MYR", "PHP", "VND", "ILS", "AED", "SAR",
  "EGP", "NGN", "KES", "MAD")
currency_signs <- c("\u20ac" = "EUR", "\u00a3" = "GBP", "\u00a5" = "JPY", "$" = "USD")

# The unit of a text, such as "kg/m3", "W/(m2 K)", "m^2 s-1", "kEUR/a"; NULL where it is none. `own` has units that the study
# declares, by name.
read_unit <- function(text, own = list()) {
  text <- normal_name(trimws(text))
  if (!nzchar(text)) return(NULL)
  key <- paste0("u", text)
  if (length(own) == 0 && !is.null(known_units[[key]])) return(known_units[[key]])
  unit <- tryCatch(parsed_unit(text, own), ensayo_no_unit = function(e) NULL)
  if (is.null(unit)) return(NULL)
  unit$text <- text
  if (length(own) == 0) known_units[[key]] <- unit
  unit
}

# The first part of a text that is no unit; the whole text where its parts are but do not stand together.
unknown_part <- function(text, own = list()) {
  tryCatch({
    parsed_unit(normal_name(trimws(text)), own)
    text
  }, ensayo_no_unit = function(e) e$part)
}

# Units that were read once; what a text means does not change.
known_units <- new.env(parent = emptyenv())

no_unit <- function(part) leave_for("no_unit", part, part = part)

parsed_unit <- function(text, own) {
  text <- gsub("\u00b2", "^2", gsub("\u00b3", "^3", gsub("\u207b\u00b9", "^-1", text)))
  text <- gsub("[\u00b7\u22c5\u00d7*]", " ", text)
  tokens <- regmatches(text, gregexpr("[0-9]*[.]?[0-9]+([eE][-+]?[0-9]+)?(?![A-Za-z])|\\^ *\\(?[-+]?[0-9.]+(/[0-9]+)?\\)?|[/()]|[^][ /()^0-9+-]+([-+]?[0-9]+)?|\\S",
    text, perl = TRUE))[[1]]
  state <- list(at = 1)
  peek <- function() if (state$at <= length(tokens)) tokens[state$at] else ""
  step <- function() state$at <<- state$at + 1
  factor_here <- function() {
    token <- peek()
    if (token == "(") {
      step()
      unit <- product_here()
      if (peek() != ")") no_unit(text)
      step()
    } else {
      step()
      unit <- unit_of_token(token, own)
    }
    if (startsWith(peek(), "^")) {
      power <- gsub("[\\^() ]", "", peek())
      step()
      unit <- unit_power(unit, exponent_of(power, text))
    }
    unit
  }
  product_here <- function() {
    unit <- factor_here()
    while (!peek() %in% c("", ")")) {
      over <- peek() == "/"
      if (over) step()
      if (peek() %in% c("", ")", "/")) no_unit(text)
      next_one <- factor_here()
      unit <- unit_product(unit, next_one, if (over) -1 else 1)
    }
    unit
  }
  unit <- product_here()
  if (state$at <= length(tokens)) no_unit(text)
  unit
}

exponent_of <- function(power, text) {
  parts <- suppressWarnings(as.double(strsplit(power, "/", fixed = TRUE)[[1]]))
  if (anyNA(parts) || !length(parts) %in% 1:2) no_unit(text)
  if (length(parts) == 2) parts[1] / parts[2] else parts
}

# "m3", "s-1", "kEUR", "1000".
unit_of_token <- function(token, own) {
  if (grepl("^[0-9.]", token)) {
    value <- suppressWarnings(as.double(token))
    if (is.na(value) || !(value > 0)) no_unit(token)
    return(new_unit(factor = value))
  }
  whole <- named_unit(token, own)
  if (!is.null(whole)) return(whole)
  name <- sub("[-+]?[0-9]+$", "", token)
  unit <- if (nzchar(name) && name != token) named_unit(name, own)
  if (is.null(unit)) no_unit(token)
  unit_power(unit, as.double(substring(token, nchar(name) + 1)))
}

named_unit <- function(name, own) {
  if (name %in% names(own)) return(own[[name]])
  if (name %in% names(point_units)) return(point_units[[name]])
  if (name %in% own_dimensions) return(base_unit(name))
  if (name %in% names(currency_signs)) name <- currency_signs[[name]]
  singular <- sub("s$", "", name)
  for (one in unique(c(name, singular))) {
    if (one %in% names(plain_units) && (one == name || nchar(one) > 2)) return(parsed_unit(plain_units[[one]], list()))
    if (one %in% names(own)) return(own[[one]])
  }
  plain <- prefixed_unit(name)
  if (!is.null(plain)) return(plain)
  for (length in 2:1) {
    prefix <- substr(name, 1, length)
    if (!prefix %in% names(si_prefixes) || nchar(name) <= length) next
    rest <- substring(name, length + 1)
    unit <- prefixed_unit(if (rest %in% names(currency_signs)) currency_signs[[rest]] else rest)
    if (!is.null(unit)) return(new_unit(unit$dims, unit$factor * si_prefixes[[prefix]]))
  }
  NULL
}

prefixed_unit <- function(name) {
  if (name %in% currencies) return(base_unit(name))
  if (!name %in% names(prefixed_units)) return(NULL)
  text <- prefixed_units[[name]]
  if (nzchar(text)) return(parsed_unit(text, list()))
  # the kilogram is the base, and the gram takes the prefixes
  if (name == "g") base_unit("kg", 1e-3) else base_unit(name)
}

# The texts that a slip of the hand may have meant.
unit_names <- function(own = list()) {
  plain <- c(names(plain_units), names(prefixed_units), names(point_units), currencies, own_dimensions, names(own))
  common <- c("mm", "cm", "km", "kg", "mg", "kN", "kPa", "MPa", "kW", "MW", "kWh", "MWh", "GWh", "ms", "us", "mA", "mV", "kV", "mL", "ML", "m2", "m3", "m/s", "L/s",
    "m3/s", "m3/h", "km/h", "kg/m3", "kEUR", "MEUR", "EUR/m3")
  unique(c(plain, common))
}

nearest_unit <- function(text, own = list()) {
  words <- c(litres = "L", liters = "L", metres = "m", meters = "m", kilogram = "kg", kilograms = "kg", seconds = "s", minutes = "min", hours = "h", percent = "%",
    celsius = "degC", euro = "EUR", euros = "EUR", dollar = "USD", dollars = "USD", cubic = "m3", squared = "m2", sqm = "m2", cbm = "m3", pascal = "Pa", watt = "W", newton = "N",
    joule = "J", volt = "V", ampere = "A", C = "degC", sek = "s", std = "h", mtr = "m", lps = "L/s", cms = "m3/s", KG = "kg", Kg = "kg", KM = "km", Kw = "kW", KW = "kW", kwh = "kWh")
  if (text %in% names(words)) return(words[[text]])
  parts <- strsplit(text, "(?<=[/ ()*])|(?=[/ ()*])", perl = TRUE)[[1]]
  if (length(parts) > 1) {
    mended <- vapply(parts, function(part) {
      if (!grepl("[A-Za-z%]", part) || !is.null(read_unit(part, own))) part else nearest_unit(trimws(part), own) %||% part
    }, "")
    whole <- paste(mended, collapse = "")
    return(if (whole != text && !is.null(read_unit(whole, own))) whole)
  }
  nearest_name(text, unit_names(own))
}

# Another unit of the same dimension: how a value becomes one in it, x * times + plus.
conversion <- function(from, to) {
  list(times = from$factor / to$factor, plus = (from$offset - to$offset) / to$factor)
}

# "m s-2", for messages: what a unit is made of.
dims_text <- function(unit) {
  if (is_pure(unit)) return("a pure number")
  paste0(names(unit$dims), ifelse(unit$dims == 1, "", format(unit$dims, digits = 4, trim = TRUE)), collapse = " ")
}
