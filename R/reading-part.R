#' Parts of a total
#'
#' How an output that is a sum is made up: each part's share of the mean and of the variance, and its percentiles beside
#' the total's own. Means add up; percentiles do not, for parts are seldom all high in one run.
#'
#' @inheritParams percentiles
#' @param total Name of the output that is the total, bare or as text.
#' @param parts Names of the quantities that make it up, inputs or outputs, bare or as text. When left out they are
#'   recognised where the total's formula is a plain sum, `pipe + trench + road - rebate`, or `sum(zone)`; and so on for
#'   the parts that are themselves sums.
#' @param percentile Number from 0 to 100, in the study's sense; `NULL` for its planning percentile.
#' @return A data frame with a row for the total, one for each part under it, and three rows at its end: `name`, `level`
#'   (0 for the total, 1 for its parts, 2 for theirs), `row` (`"total"`, `"part"`, `"rest"`, `"sum of parts"`,
#'   `"difference"`), `base`, `mean`, `share_of_mean`, `sd`, `share_of_variance` (the covariance with the total over
#'   the total's variance: these add up to 1, and are negative for a part that offsets others), `percentile`,
#'   `sense`, `value` (the part's percentile) and `unit`. `rest` is what the parts leave of the total, where they do.
#'   The row `difference` is the sum of the parts' percentiles less the total's own: diversification.
#' @details Over the runs in which the total and all parts are good. A part that is subtracted counts with a minus.
#' @section Errors: `ensayo_error_name` for an unknown quantity; `ensayo_error_argument` where the formula is no
#'   plain sum and no parts are given.
#' @examples
#' res <- study("Renewal") |>
#'   add_inputs(pipe = law_pert(370, 410, 520), trench = law_pert(540, 620, 900)) |>
#'   add_outputs(total = output(pipe + trench, unit = "kEUR")) |>
#'   simulate(nsim = 1000, seed = 11)
#' parts_of(res, total)
#' @export
parts_of <- function(result, total, parts = NULL, percentile = NULL) {
  check_result(result)
  total <- resolve_single_output(rlang::enquo(total), result)
  readings <- result$study$readings
  percentile <- check_percentiles(percentile %||% readings$planning, "percentile")[1]
  parts_table(result, total, parts_asked(result, total, rlang::enquo(parts)), percentile)
}

# The quantities of a plain sum, with signs and levels, in the order of a tree read from the top.
sum_tree <- function(study, name, sign = 1, level = 1) {
  output <- study$outputs[[name]]
  empty <- data.frame(name = character(), sign = numeric(), level = numeric())
  terms <- if (!is.null(output)) sum_terms(output$formula$expr, sign)
  # a sum of one is a sum where it is said to be one: of what stands under a code, or of events among others
  least <- if (!is.null(output$cost) || level > 1 && !is.null(output$event)) 1 else 2
  if (nrow(terms %||% empty) < least) return(empty)
  terms <- terms[terms$name %in% quantity_names(study), ]
  terms$level <- rep(level, nrow(terms))
  under <- lapply(seq_len(nrow(terms)), function(i) {
    if (terms$name[i] %in% names(study$inputs)) empty else sum_tree(study, terms$name[i], terms$sign[i], level + 1)
  })
  # each is followed by its own terms
  all <- do.call(rbind, c(list(terms), under))
  all <- all[order(c(seq_len(nrow(terms)), rep(seq_along(under), vapply(under, nrow, 0L)) + 0.5)), ]
  rownames(all) <- NULL
  all
}

# The rows of a tree that have none under them.
is_lowest <- function(tree) c(tree$level[-1], 0) <= tree$level

# Names and signs of the terms of a sum; NULL where a term is no name or number.
sum_terms <- function(expr, sign = 1) {
  if (is.symbol(expr)) return(data.frame(name = as.character(expr), sign = sign))
  if (is.numeric(expr)) return(data.frame(name = character(), sign = numeric()))
  if (rlang::is_call(expr, "(")) return(sum_terms(expr[[2]], sign))
  if (!rlang::is_call(expr, c("+", "-", "sum"))) return(NULL)
  arguments <- as.list(expr)[-1]
  minus <- rlang::is_call(expr, "-")
  signs <- sign * ifelse(minus & seq_along(arguments) == length(arguments), -1, 1)
  symbols <- vapply(arguments, is.symbol, NA)
  if (all(symbols)) return(data.frame(name = vapply(unname(arguments), as.character, ""), sign = signs))
  parts <- Map(sum_terms, arguments, signs)
  if (any(vapply(parts, is.null, TRUE))) NULL else do.call(rbind, unname(parts))
}

parts_table <- function(result, total, tree, percentile) {
  sense <- result$study$readings$sense
  runs <- parts_in_runs(result, total, tree)
  shown <- runs$columns
  left <- runs$rest
  at <- not_exceeded(percentile, sense)
  stat <- function(f) vapply(shown, f, 0)
  table <- data.frame(name = c(total, tree$name, if (left) "(rest)"), level = c(0, tree$level, if (left) 1),
    row = c("total", rep("part", nrow(tree)), if (left) "rest"), base = runs$bases, mean = stat(mean),
    share_of_mean = stat(mean) / mean(shown[[1]]), sd = stat(stats::sd),
    share_of_variance = stat(function(x) stats::cov(x, shown[[1]])) / stats::var(shown[[1]]),
    percentile = percentile, sense = sense, value = stat(function(x) percentile_values(x, at)),
    unit = quantity_unit(result$study, total) %||% "")
  add_up <- function(column) sum(table[[column]][table$level == 1])
  sums <- table[c(1, 1), ]
  sums[c("name", "level", "row")] <- list(c("sum of parts", "sum of parts less the total's own"), 1,
    c("sum of parts", "difference"))
  sums$sd <- NA
  for (column in c("base", "mean", "share_of_mean", "share_of_variance", "value")) {
    sums[[column]] <- add_up(column) - c(0, if (column == "value") table[[column]][1] else NA)
  }
  new_table(rbind(table, sums))
}

# Outputs that are plain sums of others; cost trees have a reading of their own.
totals_of <- function(result) {
  Filter(function(name) {
    nrow(sum_tree(result$study, name)) > 1 && sum(result$failures$output == name) < run_count(result)
  }, setdiff(main_outputs(result), names(result$study$costs)))
}
