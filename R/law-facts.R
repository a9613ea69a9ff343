# Laws from facts: percentiles, mean, standard deviation, mode, ends. As many facts as the family has parameters; they
# are solved for, and the solution is checked.

#' A law from facts about it
#'
#' Finds the law of a family that has the stated percentiles, mean, standard deviation and so on: a triangular law
#' whose low and high are P10 and P90 rather than the ends, a lognormal by P20 and P80, a beta by its mean and P95.
#'
#' @param family Text: the name of a continuous law of [laws()], such as `"triangular"`.
#' @param ... As many named numbers as the law has parameters: `P10`, `P2.5`, ... (values not exceeded with 10 or 2.5
#'   % chance; see `sense`), `median`, `mean`, `sd`, `cv` (sd / mean), and any of the law's own parameters, which are
#'   then held at that value, such as `mode`, `min`, `df`. A parameter that has a default, such as `min` of the
#'   lognormal, is found too where there is one fact more.
#' @param sense `"not exceeded"`: P10 is the value not exceeded with 10 % chance; `"exceeded"`: the one exceeded with 10
#'   % chance; `NULL`: the sense of the study the law is used in (see [add_readings()]), else not exceeded. Percentiles
#'   that fall as their names rise are taken as exceeded, which a message says.
#' @return A law of that family with the facts met: percentiles to 1e-8 in probability, mean, standard deviation and
#'   mode to 1e-8 of the standard deviation. It prints as it was stated.
#' @section Errors: `ensayo_error_argument` where there are too few or too many facts, percentiles out of order, or no
#'   law of the family that has them (with the nearest that was found).
#' @section Source: least squares by Levenberg and Marquardt from several starting points (Marquardt 1963, SIAM
#'   Journal 11(2)).
#' @examples
#' law_from_facts("triangular", P10 = 30, mode = 34, P90 = 45)
#' law_from_facts("lognormal", P20 = 3, P80 = 12)
#' leakage <- law_from_facts("beta", mean = 0.22, P95 = 0.30)
#' parameters(leakage)
#' @export
law_from_facts <- function(family, ..., sense = NULL) {
  family <- check_choice(family, Filter(function(name) {
    record <- family_record(name)
    !is.null(record$start) && record$kind == "continuous"
  }, law_family_names))
  stated <- rlang::dots_list(..., .homonyms = "error")
  if (!is.null(sense)) check_choice(sense, senses)
  if (is.null(sense) && falls(stated)) {
    sense <- "exceeded"
    tell_ensayo(sprintf("%s: taken as values exceeded.", falling_words(stated)),
      "Say `sense = \"exceeded\"` where that is meant, or put them right.", "sense")
  }
  facts <- facts_not_exceeded(stated, sense)
  check_facts(facts, family)
  record <- family_record(family)
  held <- facts[names(facts) %in% held_names(record)]
  asked <- facts[setdiff(names(facts), names(held))]
  unknown <- unknown_parameters(family, record, names(held), length(asked))
  told <- list(call = family, arguments = c(stated, if (!is.null(sense)) list(sense = sense)))
  if (length(asked) == 0) return(new_law(family, parameters_of(do.call(paste0("law_", family), facts)), told))
  law <- solve_facts(family, record, held, asked, unknown)
  new_law(family, parameters_of(law), told)
}

# "P90 = 30, exceeded" is "P10 = 30, not exceeded".
facts_not_exceeded <- function(facts, sense) {
  if (!identical(sense, "exceeded")) return(facts)
  at <- which(is_percentile_name(names(facts)))
  names(facts)[at] <- paste0("P", 100 - as.double(sub("P", "", names(facts)[at])))
  facts
}

# Percentiles that fall as their names rise can only be values exceeded.
falls <- function(facts) {
  named <- facts[is_percentile_name(names(facts))]
  if (length(named) < 2 || !all(vapply(named, function(x) is.numeric(x) && length(x) == 1 && is.finite(x), TRUE))) {
    return(FALSE)
  }
  all(diff(percentile_facts(named)$value) < 0)
}

falling_words <- function(facts) {
  at <- percentile_facts(facts[is_percentile_name(names(facts))])
  sprintf("%s is below %s", at$name[nrow(at)], at$name[1])
}

fact_words <- c("median", "mean", "sd", "cv")

# Whether a call's argument states a fact rather than a parameter.
is_fact <- function(names, family) {
  if (!family %in% law_family_names) return(rep(FALSE, length(names)))
  is_percentile_name(names) | names %in% setdiff(fact_words, names(family_record(family)$parameters)) & nzchar(names)
}

# Parameters that may be held; what is a fact of every law is solved for, though some families have it as a parameter.
held_names <- function(record) setdiff(names(record$parameters), fact_words)

check_facts <- function(facts, family, call = rlang::caller_env()) {
  known <- c(fact_words, held_names(family_record(family)))
  names <- names(facts) %||% rep("", length(facts))
  bad <- names[!is_percentile_name(names) & !names %in% known]
  if (length(bad)) {
    stop_ensayo("argument",
      sprintf("Facts about a law are percentiles (`P10`), %s.", paste(quoted(known), collapse = ", ")),
      if (nzchar(bad[1])) sprintf("%s is none.",
        quoted(bad[1])) else "One has no name.", argument = bad[1], call = call)
  }
  for (name in names) if (name != "tail") check_number(facts[[name]], name, call = call)
  for (name in intersect(names, c("sd", "cv"))) check_number(facts[[name]], name, above = 0, call = call)
  at <- percentile_facts(facts)
  outside <- at$name[at$p <= 0 | at$p >= 1]
  if (length(outside)) {
    stop_ensayo("argument", "A percentile must lie between P0 and P100.", sprintf("You gave %s.", quoted(outside[1])),
      "An end of the law is `min` or `max`.", argument = outside[1], call = call)
  }
  wrong <- which(diff(at$value) <= 0)[1]
  if (!is.na(wrong)) {
    stop_ensayo("argument", sprintf("%s must be below %s.", at$name[wrong], at$name[wrong + 1]),
      sprintf("They are %s and %s.", shown_value(at$value[wrong]), shown_value(at$value[wrong + 1])),
      "A percentile is the value not exceeded with that chance, unless you say `sense = \"exceeded\"`.",
      argument = at$name[wrong], call = call)
  }
}

# Percentiles in order: name, p, value. The median is one of them.
percentile_facts <- function(facts) {
  names <- names(facts)[is_percentile_name(names(facts)) | names(facts) == "median"]
  p <- ifelse(names == "median", 0.5, suppressWarnings(as.double(sub("P", "", names))) / 100)
  table <- data.frame(name = names, p = p, value = vapply(facts[names], as.double, 0, USE.NAMES = FALSE))
  table[order(table$p), ]
}

unknown_parameters <- function(family, record, held, count, call = rlang::caller_env(2)) {
  needed <- sought_parameters(family, held)
  spare <- setdiff(names(Filter(function(asked) asked %in% c("number", "positive", "spread"), record$parameters)),
    c(unlist(record$forms), needed, held))
  if (count < length(needed) || count > length(needed) + length(spare)) {
    total <- length(needed) + length(held)
    stop_ensayo("argument", sprintf("%s %s law needs %s%s.", article(family), family, count_of(total, "fact"),
      if (length(spare)) sprintf(", or up to %d", total + length(spare)) else ""),
      sprintf("You gave %d.", count + length(held)), argument = "...", call = call)
  }
  c(needed, utils::head(spare, count - length(needed)))
}

# The parameters that are looked for when a law is found by facts or fitted, less those held.
sought_parameters <- function(family, held) {
  record <- family_record(family)
  setdiff(record$search %||% if (is.null(record$forms)) required_parameters(family) else record$forms[[1]], held)
}

required_parameters <- function(family) {
  names(Filter(rlang::is_missing, as.list(formals(paste0("law_", family)))))
}
