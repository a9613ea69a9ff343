# A compound sum of which each occurrence is drawn by itself, so that the largest of a run can be told, or those above a limit. Its
# parameters are those of the compound sum and
#   by      "runs", "law" (one number a run, law-compound.R) or "auto"
#   take    what is taken of the occurrences, one of takes()
#   above   the limit of "number above" and "sum above"

takes <- function() c("sum", "number", "largest", "number above", "sum above")

#' Occurrences that are drawn one by one
#'
#' The same sum as [law_compound()], as an input of which the single occurrences are known: how many there are in a run, how large
#' the largest is, what those above a limit add up to. `from_occurrences()` takes these as inputs of their own, of the same
#' occurrences.
#'
#' @inheritParams law_compound
#' @param by `"runs"`: each occurrence is drawn in each run; `"law"`: the sum is drawn as one number from [law_compound()];
#'   `"auto"`: by the law where there are more than 10,000 runs, or more than 20 occurrences a run on average, and by runs
#'   otherwise, and wherever [from_occurrences()] asks for single ones.
#' @param of Input, bare or as text: one that is made by `occurrences()`.
#' @param take `"number"`: how many occurrences leave something above the deductible; `"largest"`: what is left of the largest, 0 where
#'   there is none; `"number above"` and `"sum above"`: how many leave more than `above`, and what these add up to.
#' @param above Number, in the input's unit.
#' @param unit,label,note,group Texts or `NULL`, as for [input()].
#' @return `occurrences()`: a law, for [input()] and [add_inputs()]. `from_occurrences()`: what [add_inputs()] takes as an input.
#' @section Which to take: the law is quicker for many runs and many occurrences, can be asked for its percentiles, and a Latin
#'   hypercube fills its slices. By runs the number of occurrences has such slices, and sizes are independent. Both have the same
#'   distribution; a correlation with other inputs is one of the sum by the law, and one of the number by runs.
#' @section Two cases on shared numbers: the number is a quantile of one uniform number, and the k-th occurrence of a run has a
#'   number of its own, whatever the others are: of two rates of the same input a run differs by the occurrences that are added.
#' @section Errors: as for [law_compound()]; `ensayo_error_argument` where `of` is not an input made by `occurrences()`, or sizes are
#'   below 0 where the largest is asked for.
#' @seealso [law_compound()]
#' @examples
#' year <- study("Bursts in a year") |>
#'   add_inputs(
#'     repairs = input(occurrences(law_poisson(7.5), law_lognormal(mean = 4, sd = 6)), unit = "kEUR"),
#'     worst = from_occurrences(repairs, "largest", unit = "kEUR"),
#'     dear = from_occurrences(repairs, "number above", above = 10)
#'   ) |>
#'   add_outputs(share_of_worst = if (repairs > 0) worst / repairs else 0)
#' simulate(year, nsim = 1000, seed = 11)
#' @export
occurrences <- function(count, size, deductible = 0, limit = Inf, limit_in_all = Inf, by = "auto") {
  law_occurrences(count, size, deductible, limit, limit_in_all, by)
}

# As a file has it.
law_occurrences <- function(count, size, deductible = 0, limit = Inf, limit_in_all = Inf, by = "auto", take = "sum", above = 0) {
  check_choice(by, c("auto", "runs", "law"))
  check_choice(take, takes())
  check_number(above)
  par <- parameters_of(law_compound(count, size, deductible, limit, limit_in_all))
  new_law("occurrences", c(par, list(by = by, take = take, above = above)))
}

is_occurrences <- function(law) is_law(law) && family_name(law) == "occurrences"

family_occurrences <- list(
  title = "Occurrences",
  about = "A compound sum of which single occurrences are drawn.",
  kind = "derived",
  # laws as they are: what is taken of them is a law in turn
  parameters = c(count = "plain law", size = "plain law", deductible = "number", limit = "limit", limit_in_all = "limit",
    by = "text", take = "text", above = "number"),
  discrete = function(par) is_discrete(marginal_law(par)),
  dear = TRUE,
  quick_mean = function(parameters) quick_mean(marginal_law(parameters)),
  canonical = function(par) ready_law(marginal_law(par))
)

# The law of what is taken: a compound sum but for the largest.
marginal_law <- function(par) {
  compound <- function(size, deductible = 0, limit = Inf, most = Inf) {
    new_law("compound", list(count = par$count, size = size, deductible = deductible, limit = limit, limit_in_all = most))
  }
  over <- par$deductible + par$above
  share <- function(x) cumulative(par$size, x, "upper")
  counted <- function(p) if (p >= 1) compound(law_discrete(1)) else if (p <= 0) law_discrete(0) else compound(law_bernoulli(p))
  switch(par$take,
    sum = compound(par$size, par$deductible, par$limit, par$limit_in_all),
    number = counted(if (par$deductible > 0) share(par$deductible) else 1),
    `number above` = counted(if (par$above >= par$limit) 0 else share(over)),
    `sum above` = {
      p <- if (par$above >= par$limit) 0 else share(over)
      if (p <= 0) law_discrete(0)
      else if (p >= 1) compound(par$size, par$deductible, par$limit)
      else compound(law_mixture(list(0, law_truncated(par$size, min = over) - par$deductible), c(1 - p, p)), limit = par$limit)
    },
    largest = new_law("largest_of_count", list(count = par$count, size = par$size, deductible = par$deductible, limit = par$limit))
  )
}

# What is left of the largest of a count of sizes, 0 where there is none: it is at most x where none is above x.
family_largest_of_count <- list(
  title = "Largest of a count",
  about = "The largest of a count of sizes.",
  kind = "derived",
  parameters = c(count = "law", size = "law", deductible = "number", limit = "limit"),
  discrete = function(par) is_discrete(par$size),
  canonical = function(par) {
    kept <- kept_part(par$size, par$deductible, par$limit)
    if (is.null(kept)) return(pointed_law(0, 1))
    par <- list(count = generating_function(par$count), one = kept$one, share = kept$share)
    if (!kept$one$discrete) return(par)
    points <- points_of(kept$one)
    values <- sort(unique(c(0, points$values)))
    pointed_law(values, diff(c(0, largest_tail(par, values, TRUE, FALSE, "cumulative"))))
  },
  dear = TRUE,
  composed = function(par) TRUE,
  rough = function(par) ask(par$one, "rough"),
  quantile = function(par, p, lower) composed_quantile(new_ready_law(family_largest_of_count, par), p, lower),
  cumulative = function(par, x, lower, log) largest_tail(par, x, lower, log, "cumulative"),
  strict = function(par, x, lower, log) largest_tail(par, x, lower, log, "strict"),
  density = function(par, x, log) {
    z <- 1 - par$share * ask(par$one, "cumulative", x, FALSE, FALSE)
    d <- par$share * par$count$slope(z) * ask(par$one, "density", x, FALSE)
    d[x %in% family_largest_of_count$atoms(par)$values] <- Inf
    if (log) base::log(d) else d
  },
  kinks = function(par) Filter(is.finite, c(0, ask(par$one, "kinks"), ask(par$one, "support"))),
  atoms = function(par) {
    values <- unique(c(0, ask(par$one, "atoms")$values))
    list(values = values, shares = largest_tail(par, values, TRUE, FALSE, "cumulative") - largest_tail(par, values, TRUE, FALSE,
      "strict"))
  },
  tail_index = function(par) c(Inf, ask(par$one, "tail_index")[2]),
  support = function(par) c(if (par$count$value(1 - par$share) > 0) 0 else ask(par$one, "support")[1], ask(par$one, "support")[2])
)

largest_tail <- function(par, x, lower, log, question) {
  above <- par$share * ask(par$one, question, x, FALSE, FALSE)
  # where hardly any is above, there is as good as one at most
  tail <- if (lower) par$count$value(1 - above) else ifelse(above < 1e-9, par$count$slope(1) * above, 1 - par$count$value(1 - above))
  below <- if (question == "strict") x <= 0 else x < 0
  tail[which(below)] <- if (lower) 0 else 1
  tail <- pmin(pmax(tail, 0), 1)
  if (log) base::log(tail) else tail
}
