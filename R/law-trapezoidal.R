#' Trapezoidal law
#'
#' `r family_trapezoidal$about`
#'
#' @param min,max Numbers: least and greatest value, in the input's unit.
#' @param from,to Numbers, `min <= from <= to <= max`: all values between them are equally likely.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a limit is not a finite number, or they are out of order.
#' @section Source: JCGM 101:2008, 6.4.4; closed forms from the areas of the triangle, the rectangle and the triangle.
#' @family laws
#' @examples
#' law_trapezoidal(4, 5, 7, 10)
#' @export
law_trapezoidal <- function(min, from, to, max) make_law("trapezoidal", as.list(environment()))

family_trapezoidal <- list(
  title = "Trapezoidal",
  about = "A most likely range inside a possible range, such as the sum of two uniform errors.",
  kind = "continuous",
  parameters = c(min = "number", from = "number", to = "number", max = "number"),
  elementwise = TRUE,
  check = function(par, call) {
    check_limits(par[c("min", "max")], call)
    if (par$from >= par$min && par$to >= par$from && par$max >= par$to) return(invisible())
    stop_ensayo("argument", "The limits must be in order: `min <= from <= to <= max`.",
      sprintf("You gave %s.", paste(vapply(par[c("min", "from", "to", "max")], shown_value, ""), collapse = ", ")),
      argument = "from", call = call)
  },
  canonical = function(par) c(par, list(height = 2 / (par$max - par$min + par$to - par$from))),
  start = function(mean, sd, held) list(min = mean - 2 * sd, from = mean - sd, to = mean + sd, max = mean + 2 * sd),
  kinks = function(par) c(par$from, par$to),
  quantile = function(par, p, lower) sloped_quantile(par, if (lower) p else 1 - p, if (lower) 1 - p else p),
  cumulative = function(par, x, lower, log) sloped_cumulative(par, x, lower, log),
  density = function(par, x, log) {
    d <- ifelse(x < par$from, (x - par$min) / (par$from - par$min), (par$max - x) / (par$max - par$to))
    d[!is.na(x) & x >= par$from & x <= par$to] <- 1
    d <- par$height * ifelse(x < par$min | x > par$max, 0, d)
    if (log) log(d) else d
  },
  moments = function(par) {
    knots <- c(par$min, par$from, par$to, par$max)
    pieced_moments(knots, function(t, piece) {
      share <- (knots - par$min) / (par$max - par$min)
      par$height * ifelse(piece == 1, t / share[2], ifelse(piece == 2, 1, (1 - t) / (1 - share[3])))
    })
  },
  mode = function(par) if (par$from == par$to) par$from else NA_real_,
  support = function(par) c(par$min, par$max)
)

# Laws that rise along a straight line, stay level and fall along another: trapezoidal, and triangular where `from` is
# `to`. Every probability is a sum of areas, none a difference, so that both tails are exact wherever they are small.
sloped_cumulative <- function(par, x, lower, log) {
  x <- pmin(pmax(x, par$min), par$max)
  rise <- par$from - par$min
  fall <- par$max - par$to
  # areas below x, and above it, on each side, by the mean height there
  up <- pmin(x, par$from)
  down <- pmax(x, par$to)
  level <- pmin(pmax(x, par$from), par$to)
  part_up <- (up - par$min) / rise
  part_up[is.nan(part_up) & !is.na(x)] <- 1
  part_down <- (par$max - down) / fall
  part_down[is.nan(part_down) & !is.na(x)] <- 1
  left <- (up - par$min) * part_up / 2 + (level - par$from) + (down - par$to) * (1 + part_down) / 2
  right <- (par$from - up) * (1 + part_up) / 2 + (par$to - level) + (par$max - down) * part_down / 2
  smaller_tail(par$height * left, par$height * right, lower, log)
}

# From the end that is nearer in probability; on a slope beyond the middle from its upper end, which has the digits
# where the other end has a probability of nearly 1.
sloped_quantile <- function(par, from_min, from_max) {
  rise <- par$from - par$min
  fall <- par$max - par$to
  rising <- par$height * rise / 2
  falling <- par$height * fall / 2
  near_min <- from_min <= 0.5
  # how much of each slope's area lies between the level part and the quantile
  short_up <- (from_max - (1 - rising)) / rising
  short_down <- (from_min - (1 - falling)) / falling
  ifelse(from_min <= rising,
    ifelse(near_min, par$min + sqrt(2 * from_min * rise / par$height),
      par$from - rise * (short_up / (1 + sqrt(pmax(1 - short_up, 0))))),
    ifelse(from_max <= falling,
      ifelse(near_min, par$to + fall * (short_down / (1 + sqrt(pmax(1 - short_down, 0)))),
        par$max - sqrt(2 * from_max * fall / par$height)),
      ifelse(near_min, par$from + (from_min - rising) / par$height, par$to - (from_max - falling) / par$height)))
}

# A probability from both tails of which each is exact where it is small.
smaller_tail <- function(left, right, lower, log) {
  asked <- if (lower) left else right
  other <- if (lower) right else left
  near <- asked <= other
  if (log) ifelse(near, log(asked), log1p(-pmin(other, 1))) else ifelse(near, asked, 1 - other)
}
