# Workbooks as models: cells are compiled once and calculated for blocks of runs (src/core/sheet_compile.h).

kind_workbook <- list(
  dear = FALSE,
  prepare = function(model, setting) {
    book <- model$book
    cells <- unlist(book$outputs)
    compiled <- compiled_cells(book, book$inputs, cells)
    first <- cumsum(lengths(book$outputs)) - lengths(book$outputs)
    function(values, runs, log) {
      columns <- lapply(mget(unname(model$uses), envir = values), cell_column, length(runs))
      made <- cpp_run_workbook(compiled$program, columns, length(runs), setting$threads)
      for (i in seq_along(model$gives)) {
        name <- model$gives[i]
        at <- first[i] + seq_along(book$outputs[[i]])
        read <- lapply(at, function(k) output_column(made[[k]], model, i, name, runs, log, function(lost) {
          cell_failures(book, compiled$program, columns, k, lost, runs, model$uses, log)
        }))
        value <- read[[1]]
        if (length(at) > 1) {
          value <- do.call(cbind, read)
          colnames(value) <- step_keys(seq_along(at))
        }
        assign(name, value, envir = values)
      }
    }
  },
  alone = function(model, setting) list()
)

cell_column <- function(column, n) {
  if (is.factor(column)) column <- as.character(column)
  if (!is.character(column)) storage.mode(column) <- if (is.logical(column)) "logical" else "double"
  rep_len(column, n)
}

# An output's column; runs in which it is an error or a text have failed. `explain` gives their reasons.
output_column <- function(made, model, i, name, runs, log, explain) {
  if (is.list(made)) {
    value <- ifelse(made$type %in% c(0, 2), made$number, NA)
    value[made$type == 4] <- 0
    lost <- which(made$type %in% c(1, 3))
    if (length(lost)) log$add(name, runs[lost], ifelse(made$type[lost] == 3, sprintf("the text %s where a number is meant", quoted(made$text[lost])), explain(lost)))
  } else value <- made
  if (model$dates[[i]]) value <- value - days_to_1970(model$book)
  if (model$yes_no[[i]]) value <- value != 0
  value
}

# The first cell that was an error, and which.
cell_failures <- function(book, program, columns, k, lost, runs, uses, log) {
  reasons <- broken_reasons(rep("", length(lost)), runs[lost], unname(uses), log)
  own <- which(reasons == "")
  if (length(own)) {
    told <- cpp_explain_workbook(program, columns, k, lost[own])
    reasons[own] <- sprintf("%s in %s", told$error, ifelse(told$cell > 0, cell_places(book, pmax(told$cell, 1)), "a cell"))
  }
  reasons
}
