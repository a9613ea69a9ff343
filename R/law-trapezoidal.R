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
  quantile = function(par, p, lower) {
    from_min <- if (lower) p else 1 - p
    from_max <- if (lower) 1 - p else p
    rising <- par$height * (par$from - par$min) / 2
    falling <- par$height * (par$max - par$to) / 2
    ifelse(from_min <= rising, par$min + sqrt(2 * from_min * (par$from - par$min) / par$height),
      ifelse(from_max <= falling, par$max - sqrt(2 * from_max * (par$max - par$to) / par$height),
        ifelse(from_min <= 0.5, par$from + (from_min - rising) / par$height,
          par$to - (from_max - falling) / par$height)))
  },
  cumulative = function(par, x, lower, log) {
    x <- pmin(pmax(x, par$min), par$max)
    rising <- par$height * (par$from - par$min) / 2
    falling <- par$height * (par$max - par$to) / 2
    left <- ifelse(x < par$from, par$height * ((x - par$min) / (par$from - par$min)) * (x - par$min) / 2,
      rising + par$height * (x - par$from))
    right <- ifelse(x > par$to, par$height * ((par$max - x) / (par$max - par$to)) * (par$max - x) / 2,
      falling + par$height * (par$to - x))
    smaller_tail(left, right, lower, log)
  },
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

# A probability from both tails of which each is exact where it is small.
smaller_tail <- function(left, right, lower, log) {
  asked <- if (lower) left else right
  other <- if (lower) right else left
  near <- asked <= other
  if (log) ifelse(near, log(asked), log1p(-pmin(other, 1))) else ifelse(near, asked, 1 - other)
}
