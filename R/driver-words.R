#' What drives the outputs, in words
#'
#' Three to six sentences for each output: what drives it, how much is explained, what is curved or works through
#' others, what is noise, and what to do next.
#'
#' @param result A result.
#' @param outputs Names of outputs, bare or as text; when left out those that specs are about, else the last one.
#' @return A character vector, a sentence each, named by output; it prints as paragraphs.
#' @section Errors: `ensayo_error_name` for an unknown output.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(
#'     flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)
#'   ) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' in_words(res)
#' @export
in_words <- function(result, outputs = NULL) {
  check_result(result)
  quosure <- rlang::enquo(outputs)
  outputs <- if (rlang::quo_is_null(quosure)) leading_outputs(result) else resolve_outputs(quosure, result)
  words <- unlist(lapply(outputs, function(name) {
    words <- output_words(result, name)
    stats::setNames(words, rep(name, length(words)))
  }))
  structure(words, class = c("ensayo_words", "character"))
}

# The outputs a reader asks about first: those that specs are about, else the last one defined.
leading_outputs <- function(result) {
  used <- unlist(lapply(result$study$specs, function(spec) intersect(spec$uses, names(result$outputs))))
  if (length(used)) unique(used) else utils::tail(names(result$study$outputs), 1)
}

output_words <- function(result, name) {
  label <- quantity_label(result$study, name)
  table <- drivers_of(result, name)
  table <- table[enters_output(table) & is.finite(table$value), ]
  values <- finite_values(result, name)
  if (length(values) == 0) return(sprintf("Every run of %s failed.", lower_first(label)))
  if (nrow(table) == 0 || min(values) == max(values)) return(sprintf("No input makes %s vary.", lower_first(label)))
  labelled <- function(input) !is.null(result$study$inputs[[input]]$label)
  of <- function(inputs) vapply(inputs, function(input) {
    if (labelled(input)) lower_first(quantity_label(result$study, input)) else input
  }, "", USE.NAMES = FALSE)
  # a name stays as it is at the head of a sentence
  start <- function(inputs) if (labelled(inputs[1])) upper_first(and_list(of(inputs))) else and_list(of(inputs))
  fit <- explained_by_inputs(result, name, table$input)
  seen <- table[table$beyond_noise, ]
  # shares under correlation, where inputs are correlated
  shares <- driver_shares(result, name, table, fit)
  top <- utils::head(names(shares)[shares >= 0.05 & names(shares) %in% seen$input], 4)
  curved <- table$input[grepl("curved", table$remark)]
  interacting <- table$input[grepl("interacts", table$remark)]
  noise <- setdiff(table$input[!table$beyond_noise], c(curved, interacting))
  c(
    if (length(top)) sprintf("%s of the spread of %s comes from %s.", if (sum(shares[top]) > 0.5) "Most" else "Part",
      lower_first(label), and_list(sprintf("%s (%s, %s it)", of(top), format_share(shares[top], 0),
        table$sign[match(top, table$input)])))
    else sprintf("No input moves %s steadily up or down.", lower_first(label)),
    explained_words(fit, label),
    if (length(curved)) sprintf("%s %s it along a curve that goes up and down, which correlations understate.",
      start(curved), if (length(curved) > 1) "move" else "moves"),
    if (length(interacting)) sprintf("%s %s through others: the spread of %s goes with %s, its middle does not.",
      start(interacting), if (length(interacting) > 1) "work" else "works", lower_first(label),
      if (length(interacting) > 1) "them" else "it"),
    if (length(noise)) sprintf("%s cannot be told from noise at %s.", start(noise),
      count_of(length(values), "run")),
    next_words(result, label, of(top), fit, c(curved, interacting))
  )
}

# The share of variance of ranks that a linear model of ranks explains; NA where the runs cannot bear one.
explained_by_inputs <- function(result, name, inputs) {
  problem <- driver_problem(result, list(values = as.double(result$outputs[[name]]), uses = name),
    numeric_draws(result$study, result$draws), NULL, character())
  keep <- names(problem$x) %in% inputs
  problem$x <- problem$x[keep]
  if (problem$n < length(problem$x) + 10) return(NA_real_)
  driver_regression(problem, TRUE)$r_squared
}

# Shares by input, largest first.
driver_shares <- function(result, name, table, fit) {
  correlated <- any(unlist(live_correlations(result$study)[c("a", "b")]) %in% table$input)
  if (!correlated || is.na(fit)) {
    return(sort(stats::setNames(table$share * if (is.na(fit)) 1 else fit, table$input), decreasing = TRUE))
  }
  shares <- drivers_of(result, name, "variance_share")
  shares <- shares[shares$input %in% table$input, ]
  sort(stats::setNames(shares$share, shares$input), decreasing = TRUE)
}

explained_words <- function(fit, label) {
  if (is.na(fit)) return(NULL)
  sprintf("Steady effects of single inputs explain %s of it%s.", format_share(fit, 0),
    if (fit > 0.9) "" else if (fit > 0.6) "; the rest is curves and what inputs do together"
    else ", so correlations tell little here")
}

next_words <- function(result, label, top, fit, unseen) {
  if (length(unseen) || !is.na(fit) && fit < 0.6) {
    return("Next: `drivers(result, \"first_order\")` sees curves, and `variance_indices()` what inputs do together.")
  }
  if (length(top)) sprintf("Next: know or hold %s better; `tighten_inputs()` tells what that would bring.", top[1])
}
