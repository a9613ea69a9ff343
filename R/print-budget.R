# Budgets and verdicts on the terminal, and the sentences that the page of a budget reads out.

#' @export
print.ensayo_budget <- function(x, ...) {
  cat(budget_lines(x), sep = "\n")
  invisible(x)
}

budget_lines <- function(budget) {
  label <- quantity_label(budget$study, budget$output)
  c(title_line("Budget", paste0(label, if (label != budget$output) sprintf(" (%s)", budget$output))), "",
    cell_lines(budget_cells(budget), most = 40), correlation_budget_lines(budget), "",
    heading("Result"), wrapped_lines(paste0("  ", c(statement_words(budget), budget_figures(budget), budget_remarks(budget)))))
}

budget_cells <- function(budget) {
  rows <- budget$rows
  unit <- quantity_unit(budget$study, budget$output)
  decimals <- decimals_for(rows$uncertainty, 2)
  places <- contribution_decimals(budget)
  small <- function(x) ifelse(is.nan(x), "NaN", vapply(x, function(value) decimal_text(value, decimals_for(value, 3)), ""))
  cells <- list(input = rows$input, label = ifelse(rows$label == rows$input, "", rows$label), estimate = decimal_text(rows$estimate, decimals),
    u = decimal_text(rows$uncertainty, decimals), unit = rows$unit, type = rows$type,
    df = ifelse(is.infinite(rows$df), "\u221e", format_number(rows$df, 3)), law = vapply(budget$known[rows$input], shape_words, ""),
    sensitivity = small(rows$sensitivity), contribution = decimal_text(rows$contribution, places),
    share = ifelse(is.finite(rows$share), format_share(rows$share), "-"), remark = rows$remark)
  cells <- drop_empty(cells)
  names(cells)[names(cells) == "contribution"] <- paste0("contribution", if (!is.null(unit)) sprintf(" [%s]", unit))
  cells
}

# "Student t, n = 5": what a line has room for.
shape_words <- function(known) {
  title <- if (known$shape == "student") "Student t" else lower_first(family_record(known$shape)$title)
  if (is.na(known$n)) title else sprintf("%s, n = %s", title, format(known$n))
}

correlation_budget_lines <- function(budget) {
  cells <- correlation_term_cells(budget)
  if (length(cells$input) == 0) return(NULL)
  c("", heading("Correlations"), cell_lines(cells, most = 10))
}

correlation_term_cells <- function(budget) {
  terms <- correlation_terms(budget)
  list(input = terms$a, `and` = terms$b, r = formatC(terms$r, format = "f", digits = 3),
    `2 c c u u r` = decimal_text(terms$term, decimals_for(budget$variance, 2) + 1))
}

# "length = (50.000838 +- 0.000093) mm, k = 2.92, 99 %": the line that goes to the client.
statement_words <- function(budget) {
  stated <- budget_result(budget)
  if (!isTRUE(stated$standard > 0)) {
    return(sprintf("%s is %s at the estimates; no uncertainty can be stated from here.", quantity_label(budget$study, budget$output),
      with_unit(format_number(stated$value), stated$unit)))
  }
  unit <- stated$unit
  measured <- sprintf("(%s \u00b1 %s)", stated$stated_value, stated$stated_expanded)
  sprintf("%s = %s; k = %s, coverage %s.", quantity_label(budget$study, budget$output), with_unit(measured, unit),
    formatC(stated$k, format = "f", digits = 2), coverage_text(stated$coverage))
}

budget_figures <- function(budget) {
  stated <- budget_result(budget)
  number <- function(x) with_unit(decimal_text(x, decimals_for(x, 3)), stated$unit)
  if (!isTRUE(stated$standard > 0)) {
    return(if (isTRUE(budget$second > 0)) sprintf("Terms of second order give a standard uncertainty of %s.", number(stated$second_order)))
  }
  c(sprintf("Combined standard uncertainty %s%s; effective degrees of freedom %s.", number(stated$standard),
    if (is.na(stated$relative)) "" else sprintf(" (%s of the value)", format_relative(stated$relative)),
    if (is.infinite(stated$df)) "\u221e" else freedom_text(stated$df)),
    if (is.finite(stated$second_order) && (budget$second > 0.0005 * budget$variance || budget$asked$second_order)) {
      sprintf("With terms of second order it is %s%s.", number(stated$second_order), if (budget$asked$second_order) ", which is stated" else "")
    })
}

# Cut, for what is left of a degree of freedom is none.
freedom_text <- function(df) formatC(floor(df * 10 + 1e-6) / 10, format = "f", digits = 1)

format_relative <- function(x) if (x >= 0.001) sprintf("%s %%", format_number(100 * x, 2)) else formatC(x, format = "e", digits = 1)

# What a reader must know before trusting a budget.
budget_remarks <- function(budget) {
  d <- budget$derivatives
  stated <- budget_result(budget)
  number <- function(x) with_unit(decimal_text(x, decimals_for(x, 2)), stated$unit)
  c(
    if (length(d$kinks)) sprintf("The estimate sits on a kink: %s. There is no sensitivity across it; simulate instead.", and_list(d$kinks)),
    if (!d$exact) sprintf("Sensitivities come from differences of runs, over one standard uncertainty and half of it (%s); they may be off by %s.",
      d$why, number(max(d$error, na.rm = TRUE))),
    if (!length(d$kinks) && budget$variance == 0) "At the estimates the output does not move to first order: the budget says nothing; simulate.",
    if (length(budget$bent)) sprintf("Within one standard uncertainty of %s the output departs from its tangent: look at the simulation beside it.",
      few_listed(quoted(budget$bent))),
    if (isTRUE(abs(budget$shift) > 0.1 * stated$standard)) sprintf("For curvature the mean is off the value by about %s.", number(budget$shift)),
    vapply(budget$joined, joined_words, ""),
    if (isTRUE(budget$df < 10) && !is.null(budget$asked$k)) sprintf("With %s degrees of freedom k = %s covers no more than %s.",
      freedom_text(budget$df), format(budget$asked$k), coverage_text(stated$coverage)))
}

joined_words <- function(set) {
  names <- few_listed(quoted(set$inputs))
  if (set$together) return(sprintf("%s come from the same points and count as one, with %s degrees of freedom.", names, format_number(set$df, 3)))
  if (set$unequal) return(sprintf(paste("%s are correlated but come from series of unequal length:",
    "degrees of freedom are not defined for them; the least are taken."), names))
  sprintf("%s are correlated: Welch and Satterthwaite do not cover that; they count as one with the least degrees of freedom.", names)
}

#' @export
print.ensayo_verdict <- function(x, ...) {
  cat(verdict_lines(x), sep = "\n")
  invisible(x)
}

verdict_lines <- function(verdict) {
  rows <- verdict$rows
  unit <- quantity_unit(verdict$budget$study, verdict$budget$output)
  places <- verdict_places(verdict)
  number <- function(x) decimal_text(x, places)
  cells <- drop_empty(list(figure = rows$figure, budget = number(rows$budget), simulated = number(rows$simulated),
    error = number(rows$error), difference = number(rows$difference), verdict = rows$verdict))
  names(cells)[names(cells) == "error"] <- "\u00b1"
  lines <- text_table(cells, numeric = !names(cells) %in% c("figure", "verdict"), indent = "  ")
  c(title_line("Budget and simulation", quantity_label(verdict$budget$study, verdict$budget$output)), "", lines,
    paste0("  ", wrapped_lines(sprintf("%s, %s interval of %s%s; \u00b1 is the 95 %% simulation error.", count_of(run_count(verdict$result), "run"),
      verdict$interval, coverage_text(verdict$coverage), if (is.null(unit)) "" else sprintf(", in %s", unit)))), "",
    wrapped_lines(paste0("  ", verdict_words(verdict))))
}

verdict_words <- function(verdict) {
  stated <- function(x) decimal_text(x, decimals_for(verdict$rows$simulated[2], verdict$digits))
  ends <- verdict$rows[3:4, ]
  unit <- quantity_unit(verdict$budget$study, verdict$budget$output)
  number <- function(x) with_unit(decimal_text(x, verdict_places(verdict)), unit)
  digits <- digits_words(verdict)
  if (all(ends$verdict == "validated")) return(sprintf("The linear budget is validated to %s: both ends agree within %s.", digits, number(ends$tolerance[1])))
  off <- ends[ends$verdict == "differs", ]
  if (nrow(off) == 0) {
    unsure <- ends[ends$verdict == "undecided", ][1, ]
    return(sprintf(paste("These runs cannot tell whether the linear budget is good to %s: the %s end is off by %s \u00b1 %s, where %s is allowed.",
      "Allow more runs."), digits, unsure$figure, decimal_text(abs(unsure$difference), verdict_places(verdict)),
      decimal_text(unsure$error, verdict_places(verdict)), number(unsure$tolerance)))
  }
  c(sprintf("The linear budget is not validated to %s: %s. State the simulation: %s to %s.", digits,
    and_list(sprintf("the %s end is %s too %s", off$figure, number(abs(off$difference)),
      ifelse((off$figure == "low") == (off$difference > 0), "wide", "narrow"))), stated(ends$simulated[1]), with_unit(stated(ends$simulated[2]), unit)),
    reason_words(verdict))
}

reason_words <- function(verdict) {
  reasons <- verdict$reasons
  unit <- quantity_unit(verdict$budget$study, verdict$budget$output)
  c(
    if (!is.null(reasons$kink)) sprintf("The estimate sits on a kink: %s.", and_list(reasons$kink)),
    if (!is.null(reasons$curved)) sprintf("The output is curved over the inputs' range: its mean is off the value at the estimates by about %s.",
      with_unit(decimal_text(reasons$curved, verdict_places(verdict)), unit)),
    if (!is.null(reasons$dominant)) sprintf("%s makes up %s of the variance, and its law is not normal: %s.", quoted(reasons$dominant),
      format_share(verdict$budget$rows$share[verdict$budget$rows$input == reasons$dominant], 0), shape_words(verdict$budget$known[[reasons$dominant]])),
    if (!is.null(reasons$few)) sprintf("There are few degrees of freedom (%s), most of all for %s.", freedom_text(verdict$budget$df),
      quoted(reasons$few)))
}

#' @export
print.ensayo_line <- function(x, ...) {
  fitted <- as.data.frame(x)
  decimals <- decimals_for(fitted$standard, 2)
  sign <- if (x$at > 0) "-" else "+"
  cat(sprintf("Line: y = intercept + slope%s, by %s\n", if (x$at == 0) " x" else sprintf(" (x %s %s)", sign, format_given(abs(x$at))), count_of(x$n, "point")),
    sprintf("  %-9s  %s \u00b1 %s (standard)\n", fitted$coefficient, decimal_text(fitted$value, decimals), decimal_text(fitted$standard, decimals)),
    sprintf("  correlation %s; a point scatters about it with sd %s, %d degrees of freedom\n", formatC(x$r, format = "f", digits = 3),
      format_number(x$sd, 3), x$df), sep = "")
  invisible(x)
}

#' @export
print.ensayo_joint <- function(x, ...) {
  table <- as.data.frame(x)
  decimals <- decimals_for(table$standard, 2)
  number <- function(column) decimal_text(column, decimals)
  m <- nrow(table)
  cat(title_line("Results together", x$study$title), "",
    cell_lines(drop_empty(list(output = table$output, value = number(table$value), u = number(table$standard), unit = table$unit,
      low = number(table$low), high = number(table$high)))), "", heading("Correlations"),
    cell_lines(c(list(output = x$outputs), lapply(stats::setNames(nm = x$outputs), function(name) formatC(x$correlation[, name], format = "f", digits = 3)))), "",
    wrapped_lines(joint_words(x)), sep = "\n")
  invisible(x)
}

joint_words <- function(joint) {
  share <- format_share(joint$coverage, 0)
  factor <- function(x) formatC(x, format = "f", digits = 3)
  c(sprintf("low and high are sides of the rectangle that holds all of them with %s: %s standard uncertainties each; each by itself has %s.", share,
      factor(joint$rectangle_factor), formatC(stats::qnorm((1 + joint$coverage) / 2), format = "f", digits = 3)),
    sprintf("The ellipse that does has the factor %s.", factor(joint$ellipse_factor)),
    if (!is.null(joint$region_area)) sprintf("The smallest region that holds %s of the runs has %s of the ellipse's area.", share,
      format_share(joint$region_area / joint$ellipse_area, 0)))
}

# Where the figures of an input come from, as an assessor reads it.
known_from <- function(law, unit = NULL) {
  told <- told_of(law)
  a <- told$arguments
  number <- function(x) if (is.character(x)) x else with_unit(format_given(x), unit)
  scaled <- if (family_name(law) == "scaled") parameters_of(law)
  if (!is.null(scaled)) {
    return(sprintf("%s%s: %s", if (scaled$times == 1) "" else paste(format_given(scaled$times), "times"),
      if (scaled$plus == 0) "" else sprintf("%s %s", if (scaled$plus > 0) " plus" else " less", format_given(abs(scaled$plus))), known_from(scaled$of)))
  }
  switch(told$call %||% "",
    observed = sprintf("%s of %s, s = %s%s", if (a$of == "mean") "mean" else "one further value", count_of(a$n %||% length(a$data), "reading"),
      number(signif(a$sd %||% stats::sd(a$data), 4)),
      if (is.null(a$df)) "" else sprintf(" with %s degrees of freedom", format_given(a$df))),
    coefficient = sprintf("fitted to %s, standard uncertainty %s, %s degrees of freedom", count_of(a$n, "point"), number(signif(a$standard, 3)),
      format_given(a$df)),
    measured = if (!is.null(a$half_width)) sprintf("within \u00b1 %s", number(a$half_width))
      else sprintf("certificate: U = %s (%s%s)", number(a$expanded), if (is.null(a$k)) format_share(a$coverage, 0) else paste("k =", format_given(a$k)),
        if (is.null(a$df)) "" else sprintf(", %s degrees of freedom", format_given(a$df))),
    resolution = sprintf("resolution of %s", number(a$step)), hysteresis = sprintf("hysteresis of %s", number(a$width)),
    drift = if (is.null(a$rate)) sprintf("drift of at most %s in %s of %s", number(a$limit), format_given(a$elapsed), format_given(a$interval))
      else sprintf("drift of %s \u00b1 %s a unit of time, over %s", format_given(a$rate), format_given(a$standard), format_given(a$elapsed)),
    cycle = sprintf("swings by \u00b1 %s", number(a$amplitude)),
    format(law))
}
