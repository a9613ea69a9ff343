# What the explorer shows is what calls of R give, and they are shown with it. A view has its calls by what they are: `runs` (a result, where
# some runs are left out), `both` (a comparison), `figure`, and tables under their titles. `asked` is what was chosen, as
# explorer_server() puts it together.

explored_views <- list(
  distribution = function(asked) {
    c(explored_runs(asked), list(
      figure = rlang::call2("plot_distribution", runs_symbol(asked), as.name(asked$output), target = asked$target),
      Chances = if (!is.null(asked$target)) explored_chance(asked, asked$target),
      Percentiles = rlang::call2("percentiles", runs_symbol(asked), quote(c(5, 10, 25, 50, 75, 90, 95)), as.name(asked$output)),
      Statistics = rlang::call2("summary", runs_symbol(asked), outputs = as.name(asked$output))))
  },
  drivers = function(asked) {
    c(explored_runs(asked), list(
      figure = rlang::call2("plot_tornado", runs_symbol(asked), as.name(asked$output), asked$measure),
      Drivers = rlang::call2("drivers", runs_symbol(asked), asked$measure, as.name(asked$output))))
  },
  scatter = function(asked) {
    c(explored_runs(asked), list(
      figure = rlang::call2("plot_scatter", runs_symbol(asked), as.name(asked$across), as.name(asked$upwards)),
      `Picked runs` = if (length(asked$picked)) rlang::call2("as.data.frame", rlang::call2("given", runs_symbol(asked), !!!asked$picked))))
  },
  inputs = function(asked) {
    c(explored_runs(asked), list(
      figure = rlang::call2("plot_pass_rate_by", runs_symbol(asked)),
      `Pass rates` = rlang::call2("pass_rate", runs_symbol(asked))))
  },
  comparison = function(asked) {
    sides <- lapply(stats::setNames(nm = asked$results), as.name)
    list(both = rlang::call2("compare_results", !!!sides, .outputs = as.name(asked$output)),
      figure = rlang::call2("plot_comparison", quote(both), as.name(asked$output), asked$show, target = asked$target),
      Statistics = quote(summary(both)),
      Differences = quote(as.data.frame(both)))
  },
  law = function(asked) {
    list(`Under the other law` = if (length(asked$laws)) rlang::call2("reweight_runs", as.name(asked$result), !!!asked$laws,
      .outputs = as.name(asked$output)))
  }
)

# The calls of a view that there are.
explored_calls <- function(view, asked) Filter(Negate(is.null), explored_views[[view]](asked))

explored_runs <- function(asked) {
  if (length(asked$given)) list(runs = rlang::call2("given", as.name(asked$result), !!!asked$given))
}

runs_symbol <- function(asked) as.name(if (length(asked$given)) "runs" else asked$result)

explored_chance <- function(asked, target) {
  output <- as.name(asked$output)
  if (is.character(target)) target <- call("date", target)
  rlang::call2("chance", runs_symbol(asked), call("<=", output, target), call(">", output, target))
}

# The calls as a script that can be run: `sources` is how each result is come by.
explored_script <- function(calls, sources) {
  used <- intersect(names(sources), unlist(lapply(calls, all.names)))
  said <- vapply(calls, function(call) paste(trimws(deparse(call, width.cutoff = 100L)), collapse = " "), "")
  named <- names(calls) %in% c("runs", "both")
  c("library(ensayo)", unname(sources[used]), unname(ifelse(named, paste(names(calls), "<-", said), said)))
}

# What was typed, read by the closed language: expressions for given(), or an error.
explored_conditions <- function(text, result) {
  texts <- trimws(strsplit(text %||% "", "[;\n]")[[1]])
  texts <- texts[nzchar(texts)]
  conditions_from_text(texts, quantity_vocabulary(result$study), "Condition")
  lapply(texts, str2lang)
}

# A law as it is typed, pert(28, 34, 48), as the call that makes it.
explored_law <- function(text) {
  law <- law_from_text(trimws(text), "The law")
  heads_named <- function(expr) {
    if (!is.call(expr)) return(expr)
    expr[] <- lapply(expr, heads_named)
    head <- as.character(expr[[1]])
    if (!head %in% c(law_family_names, law_forms)) return(expr)
    if (any(is_fact(names(expr)[-1], head))) return(rlang::call2("law_from_facts", head, !!!as.list(expr)[-1]))
    expr[[1]] <- as.name(paste0("law_", head))
    expr
  }
  heads_named(str2lang(law_text(law)))
}

# A number as a target of an output: a day, as text, where it is one.
explored_target <- function(x, result, output) {
  if (is.null(x) || !is.finite(x)) return(NULL)
  if (output_kind_of(result, output) == "date") format(as_day(x)) else as.double(x)  # the page sends 38 as a whole number
}
