#' Parts of a reserve that add up to it
#'
#' What of the contingency belongs to each part: the reserve that the planning percentile asks for beyond the base value, split so that
#' the parts add up. Percentiles of the parts themselves do not ([parts_of()], [cost_table()]).
#'
#' @inheritParams parts_of
#' @return A data frame with a row for each part (`level` as in [parts_of()]): `name`, `level`, `label`, `base`, `mean`, `allotment`
#'   (beyond the base value; below 0 for a part that offsets others), `error` (its standard error for lack of runs), `share` of the
#'   whole, and `unit`; with a first row for the total, whose allotment is the contingency, and a row `(rest)` where the parts leave
#'   something.
#' @section Method: in the tail of the runs with the highest totals whose mean is the planning percentile (the lowest, where that is below
#'   the mean), each part's mean less its base value. These add up to the percentile less the total's base value, to rounding, at every
#'   level of the tree. A rare event gets as much as it adds in those runs, where shares by covariance would charge it for all of
#'   its spread (Tasche 2004, Allocating portfolio economic capital to sub-portfolios, for the tail mean).
#' @section What it cannot do: a part's allotment is not its own P80, and gives no chance of its own of being enough: parts share in
#'   the reserve because they are seldom all high at once. Taking a part away changes the others' allotments; what it is worth to be
#'   rid of it is another question ([removal_gain()]).
#' @section Errors: as in [parts_of()].
#' @examples
#' res <- study("Renewal") |>
#'   add_inputs(pipe = law_pert(370, 410, 520), trench = law_pert(540, 620, 900)) |>
#'   add_events(rock = event(0.3, law_pert(20, 50, 120))) |>
#'   add_outputs(total = output(pipe + trench + rock, unit = "kEUR")) |>
#'   simulate(nsim = 1000, seed = 11)
#' allotments(res, total)
#' @export
allotments <- function(result, total, parts = NULL, percentile = NULL) {
  check_result(result)
  total <- resolve_single_output(rlang::enquo(total), result)
  readings <- result$study$readings
  percentile <- check_percentiles(percentile %||% readings$planning, "percentile")[1]
  tree <- parts_asked(result, total, rlang::enquo(parts))
  allotment_table(result, total, tree, percentile)
}

allotment_table <- function(result, total, tree, percentile) {
  shown <- parts_in_runs(result, total, tree)
  at <- not_exceeded(percentile, result$study$readings$sense)
  tail <- tail_of_mean(shown$columns[[1]], at)
  values <- vapply(shown$columns, function(x) sum(tail$weight * x), 0)
  replicates <- telling_replicates(result)[shown$kept]
  errors <- vapply(shown$columns, function(x) mean_error(tail_influence(x, tail), replicates), 0)
  labels <- c(quantity_label(result$study, total), vapply(tree$name, quantity_label, "", study = result$study), if (shown$rest) "")
  table <- data.frame(name = c(total, tree$name, if (shown$rest) "(rest)"), level = c(0, tree$level, if (shown$rest) 1),
    label = unname(labels), base = shown$bases, mean = vapply(shown$columns, mean, 0), allotment = unname(values - shown$bases),
    error = unname(errors))
  table$share <- table$allotment / table$allotment[1]
  table$percentile <- percentile
  table$unit <- quantity_unit(result$study, total) %||% ""
  new_table(as.list(table))
}

# Weights of runs, which add up to 1, of the highest totals (or lowest) whose mean is a percentile; one run counts in part.
tail_of_mean <- function(x, at) {
  q <- percentile_values(x, at)
  n <- length(x)
  upper <- q >= mean(x)
  order <- order(x, decreasing = upper)
  sorted <- x[order]
  means <- cumsum(sorted) / seq_len(n)
  # the tail's mean falls as runs are added; the first that lies beyond the percentile is taken in part
  k <- if (upper) sum(means >= q) else sum(means <= q)
  weight <- numeric(n)
  k <- max(k, 1)
  part <- 0
  if (k < n && sorted[k + 1] != q) {
    part <- k * (means[k] - q) / (q - sorted[k + 1])
    if (!is.finite(part)) part <- 0
  }
  part <- min(max(part, 0), 1)
  size <- k + part
  weight[order[seq_len(k)]] <- 1 / size
  if (k < n) weight[order[k + 1]] <- part / size
  list(weight = weight, q = q, at = at, x = x, upper = upper, size = size, edge = sorted[min(k + 1, n)],
    near = order[max(1, round(k - 2 * sqrt(n))):min(n, round(k + 2 * sqrt(n)))])
}

# The influence of each run on a part's mean in the tail: of what lies in it, and by way of where it begins.
tail_influence <- function(part, tail) {
  n <- length(part)
  own <- sum(tail$weight * part)
  inside <- tail$weight * n
  # how the part's mean moves with the tail's
  slope <- (own - mean(part[tail$near])) / (tail$q - tail$edge)
  if (!is.finite(slope)) slope <- 0
  inside * (part - own) + slope * (percentile_influence(tail$x, tail$at) - inside * (tail$x - tail$q))
}

# Parts by name, or those of a plain sum.
parts_asked <- function(result, total, parts, call = rlang::caller_env()) {
  tree <- if (rlang::quo_is_null(parts)) sum_tree(result$study, total) else {
    named <- resolve_names(parts, quantity_names(result$study), "an input or output of the study")
    terms <- sum_terms(result$study$outputs[[total]]$formula$expr)
    sign <- terms$sign[match(named, terms$name)] %||% NA
    data.frame(name = named, sign = ifelse(is.na(sign), 1, sign), level = 1)
  }
  if (nrow(tree)) return(tree)
  stop_ensayo("argument", sprintf("%s must be a plain sum, or its parts must be named.", quoted(total)),
    sprintf("Its formula is %s.", quoted(result$study$outputs[[total]]$formula$text)), "Give `parts = c(a, b)`.", name = total,
    call = call)
}

# The total's and the parts' columns in the runs in which all are good, what they leave of it, and all base values.
parts_in_runs <- function(result, total, tree, call = rlang::caller_env()) {
  columns <- columns_for(result, tree$name)
  n <- run_count(result)
  values <- lapply(seq_len(nrow(tree)), function(i) tree$sign[i] * rep_len(as.double(columns[[tree$name[i]]]), n))
  whole <- values_of(result, total)
  top <- tree$level == 1
  rest <- Reduce(`-`, values[top], whole)
  kept <- is.finite(rest) & Reduce(`&`, lapply(values, is.finite))
  if (!any(kept)) stop_ensayo("argument", "The total and its parts must be good in at least one run.", "They are in none.", call = call)
  size <- 1e-9 * max(abs(whole[kept]), 1e-300)
  left <- max(abs(rest[kept])) > size
  if (diff(range(rest[kept])) < size) rest[] <- stats::median(rest[kept])  # a constant, but for rounding
  base <- c(result$base$inputs, result$base$outputs)
  bases <- c(as.double(base[[total]]), tree$sign * vapply(base[tree$name], as.double, 0))
  if (left) bases <- c(bases, bases[1] - sum(bases[-1][top]))
  list(columns = lapply(c(list(whole), values, if (left) list(rest)), `[`, kept), rest = left, kept = kept, bases = unname(bases))
}
