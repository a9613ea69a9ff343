#' What drives the outputs, in words
#'
#' Three to six sentences for each output: what drives it, how much is explained, what is curved or works through
#' others, what is noise, and what to do next.
#'
#' @param result A result, or a [surrogate()], of which it is told how far it can be trusted, what matters and what acts together.
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
in_words <- function(result, outputs = NULL) UseMethod("in_words")

#' @export
in_words.default <- function(result, outputs = NULL) check_result(result)

#' @export
in_words.ensayo_result <- function(result, outputs = NULL) {
  quosure <- rlang::enquo(outputs)
  outputs <- if (rlang::quo_is_null(quosure)) leading_outputs(result) else resolve_outputs(quosure, result)
  words_of(result, outputs, list(
    unseen = "Next: `drivers(result, \"first_order\")` sees curves, and `variance_indices()` what inputs do together.",
    known = "Next: know or hold %s better; `tighten_inputs()` tells what that would bring."))
}

# `advice` names what to call next, which differs from where it is read.
words_of <- function(result, outputs, advice) words_by_output(outputs, function(name) output_words(result, name, advice))

words_by_output <- function(outputs, of) {
  words <- unlist(lapply(outputs, function(name) {
    words <- of(name)
    stats::setNames(words, rep(name, length(words)))
  }))
  structure(words, class = c("ensayo_words", "character"))
}

# What to do next where no call is at hand.
plain_advice <- list(unseen = "Next: look for curves and for what inputs do together.",
  known = "Next: know or hold %s better.")

# The outputs a reader asks about first: those that specs are about, else the last one defined.
leading_outputs <- function(result) leading_of(result$study, output_names(result))

output_words <- function(result, name, advice = plain_advice) {
  label <- quantity_label(result$study, name)
  table <- drivers_of(result, name)
  table <- table[enters_output(table), ]
  values <- finite_values(result, name)
  if (length(values) == 0) return(sprintf("Every run of %s failed.", lower_first(label)))
  if (nrow(table) == 0 || min(values) == max(values)) return(sprintf("No input makes %s vary.", lower_first(label)))
  if (!any(is.finite(table$value))) {
    return(sprintf("Too few runs to tell what drives %s: %s.", lower_first(label), count_of(length(values), "run")))
  }
  table <- table[is.finite(table$value), ]
  labelled <- function(input) !is.null((result$study$inputs[[input]] %||% result$study$outputs[[input]])$label)
  of <- function(inputs) vapply(inputs, function(input) {
    if (labelled(input)) lower_first(quantity_label(result$study, input)) else input
  }, "", USE.NAMES = FALSE)
  # a name stays as it is at the head of a sentence
  start <- function(inputs) if (labelled(inputs[1])) upper_first(few_listed(of(inputs))) else few_listed(of(inputs))
  fit <- table$r_squared[1]
  top <- leading_shares(table, 4, 0.05)
  curved <- table$input[has_finding(table, "curved")]
  interacting <- table$input[has_finding(table, "interacts")]
  noise <- setdiff(table$input[!table$beyond_noise], c(curved, interacting))
  c(
    if (nrow(top)) sprintf("%s of the spread of %s comes from %s.", if (sum(top$share) > 0.5) "Most" else "Part",
      lower_first(label), and_list(sprintf("%s (%s%s)", of(top$input), format_share(top$share, 0),
        ifelse(nzchar(top$sign), sprintf(", %s it", top$sign), ""))))
    else sprintf("No input moves %s steadily up or down.", lower_first(label)),
    explained_words(fit, result, name),
    if (length(curved)) sprintf("%s %s it along a curve, which a straight effect understates.",
      start(curved), if (length(curved) > 1) "move" else "moves"),
    if (length(interacting)) sprintf("%s %s through others: the spread of %s goes with %s, its middle does not.",
      start(interacting), if (length(interacting) > 1) "work" else "works", lower_first(label),
      if (length(interacting) > 1) "them" else "it"),
    if (length(noise)) sprintf("%s cannot be told from noise at %s.", start(noise),
      count_of(length(values), "run")),
    if (length(drawing <- drawing_models(result$study, name))) {
      sprintf("%s: no input explains what they do, and the base case is one draw of them.", drawing_words(drawing))
    } else if (length(curved) || length(interacting) || fit < 0.6) advice$unseen
    else if (nrow(top)) sprintf(advice$known, of(top$input)[1])
  )
}

# The rows a short answer names: shares that are beyond noise and not too small, the largest first.
leading_shares <- function(rows, most = 3, least = 0.005) {
  utils::head(rows[is.finite(rows$share) & rows$beyond_noise & rows$share >= least, ], most)
}

no_driver_words <- function(rows) {
  told <- rows[is.finite(rows$value), ]
  if (nrow(told)) return("no input can be told from noise")
  few <- rows$remark[has_finding(rows, c("few_runs", "few_for_bands", "few_to_test"))]
  if (length(few)) few[1] else "does not vary"
}

# What straight effects leave, where that is more than a little.
unexplained_words <- function(rows, result) {
  fit <- rows$r_squared[1]
  if (!is.finite(fit) || fit >= 0.9) return("")
  paste(format_share(1 - fit, 0), rest_words(result, rows$output[1], "curves", "joint effects"))
}

# What straight effects leave: what inputs do besides, and what a model draws itself.
rest_words <- function(result, output, ...) {
  outputs <- intersect(output, names(result$study$outputs))
  stepped <- stepped_names(result$study)
  stepped <- length(stepped) && length(outputs) && any(stepped %in% reach_of(result$study)(outputs))
  drawing <- if (length(outputs)) drawing_models(result$study, outputs)
  and_list(c(..., if (stepped) "single steps", if (length(drawing)) {
    sprintf(if (length(drawing) > 1) "what %s draw themselves" else "what %s draws itself", and_list(drawing))
  }))
}

drawing_words <- function(models) {
  sprintf(if (length(models) > 1) "%s draw random numbers themselves" else "%s draws random numbers itself",
    and_list(models))
}

explained_words <- function(fit, result, output) {
  sprintf("Straight effects of single inputs explain %s of its variance%s.", format_share(fit, 0),
    if (fit > 0.9) "" else if (fit > 0.6) {
      paste("; the rest is", rest_words(result, output, "curves", "what inputs do together"))
    }
    else ", so shares tell little here")
}
