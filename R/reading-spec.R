#' Pass rates of specs
#'
#' The pass rate is the share of runs that meet a spec, and of those that meet all of them.
#'
#' @inherit chance details
#' @param result A result of a study with specs; see [add_specs()].
#' @return A data frame with one row a spec and, where there are several, a last row `all specs`: `spec`, `condition`,
#'   `pass_rate`, `low`, `high`, `error`, `pass_rate_good` (from 0 to 1), and the numbers of runs `met`, `good` and
#'   `failed`; then
#'   * `only_fault`: the share of runs that fail because of this spec and no other;
#'   * `nearest_miss`, `worst_miss`: the least and the greatest amount by which a failing run misses the limit, in the
#'     unit of what is compared; `NA` where the spec is not a comparison with one limit;
#'   * `if_independent`: for all specs, what the single pass rates would give if specs failed independently; `remark`
#'     says why the truth differs.
#' @section Errors: `ensayo_error_argument` where the study has no specs.
#' @seealso [pass_rate_by()] for the inputs behind failures.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   add_specs(not_scouring = velocity <= 0.9, not_settling = velocity >= 0.6) |>
#'   simulate(nsim = 1000, seed = 11)
#' pass_rate(res)
#' @export
pass_rate <- function(result) {
  check_result(result)
  check_specs(result)
  specs <- result$study$specs
  counts <- condition_counts(result, specs, specs = TRUE)
  n <- run_count(result)
  text <- c(vapply(specs, function(spec) spec$text, "", USE.NAMES = FALSE), if (length(specs) > 1) "")
  table <- c(list(spec = names(counts$met), condition = text), share_columns(counts, "pass_rate", result))
  misses <- spec_misses(result, specs)
  all_row <- function(value) if (length(specs) > 1) value
  new_table(c(table, list(
    only_fault = c(unname(counts$only) / n, all_row(NA_real_)),
    nearest_miss = c(misses$nearest, all_row(NA_real_)), worst_miss = c(misses$worst, all_row(NA_real_)),
    if_independent = c(rep(NA_real_, length(specs)), all_row(prod(table$pass_rate[seq_along(specs)]))),
    remark = c(rep("", length(specs)), all_row(joint_remark(result$study, counts$together / n, n)))
  )))
}

check_specs <- function(result, call = rlang::caller_env()) {
  if (length(result$study$specs)) return(invisible())
  stop_ensayo("argument", "The study must have specs.", "It has none.",
    "Add them with `add_specs()` before simulating, or ask for a chance (`chance(result, ...)`).", call = call)
}

# Good for all specs is a run that is good for each: a sum of NA and FALSE is NA, where `&` would say FALSE.
with_all_specs <- function(held) {
  if (length(held) > 1) held[["all specs"]] <- Reduce(`+`, held) == length(held)
  held
}

# The least and the greatest amount by which failing runs miss each spec; NA where none fails, or a spec is no comparison.
spec_misses <- function(result, specs) {
  margins <- lapply(specs, margin_formula)
  told <- which(!vapply(margins, is.null, NA))
  none <- rep(NA_real_, length(specs))
  if (length(told) == 0) return(list(nearest = none, worst = none))
  over_conditions(result, specs[told], more = margins[told], all = list(nearest = none, worst = none),
    put = function(all, held, margins, at) {
      for (i in seq_along(told)) {
        miss <- -margins[[i]][!held[[i]] %in% TRUE]
        miss <- miss[is.finite(miss)]
        if (length(miss) == 0) next
        all$nearest[told[i]] <- min(all$nearest[told[i]], miss, na.rm = TRUE)
        all$worst[told[i]] <- max(all$worst[told[i]], miss, na.rm = TRUE)
      }
      all
    })
}

# How far within its limit a run is: `a >= b` by a - b; several joined by `&` by the nearest of them where they compare
# the same thing. NULL for other specs.
margin_formula <- function(spec) {
  expr <- margin_of(spec$expr)
  if (is.null(expr) || length(unique(expr$sides)) > 1) return(NULL)
  spec$expr <- expr$margin
  spec
}

margin_of <- function(expr) {
  if (rlang::is_call(expr, "(")) return(margin_of(expr[[2]]))
  if (rlang::is_call(expr, c(">=", ">"))) return(list(margin = call("-", expr[[2]], expr[[3]]),
    sides = compared_side(expr)))
  if (rlang::is_call(expr, c("<=", "<"))) return(list(margin = call("-", expr[[3]], expr[[2]]),
    sides = compared_side(expr)))
  # at all steps the worst of them counts, at any the best
  if (rlang::is_call(expr, c("all", "any")) && length(expr) == 2) {
    over <- margin_of(expr[[2]])
    if (!is.null(over)) over$margin <- call(if (rlang::is_call(expr, "all")) "min" else "max", over$margin)
    return(over)
  }
  if (!rlang::is_call(expr, c("&", "&&"))) return(NULL)
  parts <- lapply(as.list(expr)[-1], margin_of)
  if (any(vapply(parts, is.null, TRUE))) return(NULL)
  list(margin = call("min", parts[[1]]$margin, parts[[2]]$margin), sides = c(parts[[1]]$sides, parts[[2]]$sides))
}

# The side of a comparison that is no number.
compared_side <- function(expr) {
  sides <- Filter(function(side) length(all.vars(side)) > 0, as.list(expr)[-1])
  paste(vapply(sides, deparse1, ""), collapse = " ")
}

# Why the chance of meeting all specs is not the product of the single ones: the two that go together most.
# `together`: the share of runs in which two are missed, on the diagonal one.
joint_remark <- function(study, together, n) {
  pairs <- utils::combn(names(study$specs), 2, simplify = FALSE)
  alone <- diag(together)
  names(alone) <- names(study$specs)
  beyond <- vapply(pairs, function(pair) together[pair[1], pair[2]] - alone[[pair[1]]] * alone[[pair[2]]], 0)
  most <- which.max(abs(beyond))
  pair <- pairs[[most]]
  if (beyond[most] == 0) return("")
  noise <- sqrt(alone[[pair[1]]] * alone[[pair[2]]] / n)
  if (abs(beyond[most]) <= 2 * noise) return("specs fail independently, as far as these runs tell")
  reach <- reach_of(study)
  shared <- Reduce(intersect, lapply(pair, function(name) reach(study$specs[[name]]$uses)), varying_names(study))
  sprintf("%s and %s %s%s", quoted(pair[1]), quoted(pair[2]),
    if (beyond[most] > 0) "tend to fail in the same runs" else "tend to fail in different runs",
    if (length(shared)) sprintf(": both depend on %s", few_listed(unique(owners_of(study, shared)))) else "")
}

# The limits that specs set for one output, each with the share of all runs that keep it.
limit_rates <- function(result, name) {
  limits <- spec_limits(result$study, name)
  values <- values_of(result, name)
  if (output_kind_of(result, name) == "date") values <- floor(values)
  limits$rate <- vapply(seq_len(nrow(limits)), function(i) {
    sum(match.fun(limits$operator[i])(values, limits$limit[i]), na.rm = TRUE) / length(values)
  }, 0)
  limits
}
