# `ensayo check` of a workbook that does not describe a study itself.

cli_check_workbook <- function(call, book) {
  file <- call$arguments$file
  ends <- end_cells(book)
  results <- ends[cpp_calculated_cells(book, ends, FALSE)]
  refused <- setdiff(names(ends), names(results))
  table <- candidate_table(book, results, 0.01)
  base <- if (length(results)) check_base_cells(book, integer(), results)
  if (call$options$json) {
    writeLines(to_json(list(workbook = basename(file), results = names(results), not_calculated = refused, candidates = unclass_table(table))))
    return(exit_codes[["done"]])
  }
  writeLines(c(workbook_lines(book, file), result_cell_lines(book, results, refused), candidate_lines(table, results), kept_lines(book, base$kept)))
  say(if (length(results)) "Calculated here as the workbook has it." else "Nothing in it could be calculated.")
  say("Which cells are uncertain? Add a sheet headed name, cell, law, parameters, unit, label.")
  exit_codes[["done"]]
}
