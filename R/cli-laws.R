# `ensayo laws [LAW]`

cli_laws <- function(args) {
  named <- length(args) > 0 && !startsWith(args[1], "-")
  call <- cli_parse(args, if (named) "laws LAW [options]" else "laws [options]",
    "List the laws with their parameters and when to use each; `ensayo laws LAW` tells of one.",
    options = list(cli_option_json()), positional = if (named) "law" else character())
  if (is.null(call)) return(exit_codes[["done"]])
  table <- laws()
  if (named) {
    name <- check_choice(call$arguments$law, table$law, "LAW", NULL)
    table <- table[table$law == name, ]
  }
  if (call$options$json) writeLines(to_json(unclass_table(table)))
  else if (named) writeLines(one_law_lines(table))
  else writeLines(law_list_lines(table))
  exit_codes[["done"]]
}

# A paragraph for each kind; for each law its parameters, and when to use it.
law_list_lines <- function(table) {
  titles <- c(continuous = "Continuous", discrete = "Discrete", data = "From data or points",
    derived = "From other laws")
  width <- max(nchar(table$law)) + 4
  paragraphs <- lapply(names(titles), function(kind) {
    rows <- table[table$kind == kind, ]
    lines <- Map(function(law, parameters, use) {
      c(paste0("  ", formatC(law, width = -(width - 2)), parameters),
        strwrap(use, 98, indent = width + 2, exdent = width + 2))
    }, rows$law, rows$parameters, rows$use)
    c(heading(titles[[kind]]), unlist(lines, use.names = FALSE), "")
  })
  c(unlist(paragraphs), "A bar stands between sets of parameters of which one is given; what has `=` may be left out.",
    "In a study file: `demand: {law: pert, min: 28, mode: 34, max: 48}`, `demand: pert(28, 34, 48)`, or by facts,",
    "`demand: {law: pert, P10: 30, mode: 34, P90: 42}`.")
}

one_law_lines <- function(row) {
  c(sprintf("%s: %s", row$law, row$use), sprintf("  parameters: %s", row$parameters),
    sprintf("  kind:       %s", row$kind), sprintf("  in R:       law_%s(); see `?law_%s`", row$law, row$law))
}
