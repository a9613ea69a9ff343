# `ensayo check` of a workbook that does not describe a study itself.

cli_check_workbook <- function(call, book) {
  file <- call$arguments$file
  ends <- end_cells(book)
  results <- ends[cpp_calculated_cells(book, ends)]
  refused <- setdiff(names(ends), names(results))
  table <- candidate_table(book, results, 0.01)
  same <- length(results) > 0 && !is.null(check_base_cells(book, integer(), results))
  if (call$options$json) {
    writeLines(to_json(list(workbook = basename(file), results = names(results), not_calculated = refused, candidates = unclass_table(table))))
    return(exit_codes[["done"]])
  }
  labels <- vapply(results, function(at) label_beside(book, at) %||% "", "")
  value <- vapply(results, function(at) format(book$cells$number[at], digits = 7, trim = TRUE), "")
  shown <- utils::head(seq_along(results), 15)
  writeLines(c(workbook_lines(book, file), "", heading(sprintf("Results: what no other formula uses (%d)", length(results))),
    if (length(results)) text_table(drop_empty(list(cell = names(results)[shown], label = short_text(labels[shown], 40), value = value[shown])), indent = "  ")
      else "  None: no formula ends in a number.",
    if (length(results) > 15) sprintf("  ... and %d more", length(results) - 15),
    if (length(refused)) sprintf("  Not calculated: %s", paste(utils::head(refused, 5), collapse = ", ")),
    candidate_lines(table, results)))
  say(if (same) "Calculated here as the workbook has it." else "Nothing in it could be calculated.")
  say("Say which cells are uncertain: see `add_workbook()`, or put a sheet with name, cell, law and parameters into it.")
  exit_codes[["done"]]
}
