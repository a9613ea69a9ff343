# Cost trees: items in a breakdown by codes, 1, 1.2, 1.2.3. A study keeps the rows as they were given, in `costs`, and calculates with
# ordinary inputs and outputs that are made of them (study-cost-parts.R).

#' Add a cost tree to a study
#'
#' What something costs, item by item, in a breakdown by codes. Each item becomes a quantity of its own, each code that others stand
#' under their total, and `costs` the total of all.
#'
#' @param .study A study.
#' @param tree A data frame with a row for each item, or what [read_costs()] reads; see the section on columns.
#' @param .name Text: what the total is called; items are `costs[1.2]`, in formulas `costs["1.2"]`.
#' @param .currency Text or `NULL`: the currency of the total.
#' @param .rates A named list: what one unit of another currency is worth in it, a number or a law for each, by currency.
#' @param .price_level Text or `NULL`: the price level of the total, such as `"2026"`.
#' @param .indices A named list: by what prices of another price level are multiplied, a number or a law for each, by level.
#' @param .together A named list: by group of items, the rank correlation of the costs of any two of them.
#' @return The study with the costs, and the inputs and outputs that they are calculated with, added at the end.
#' @section Columns: `code` and `label`; then of an item (a code that no other stands under) one of
#'   * `quantity` and `price`, numbers or laws: how many times what a unit costs;
#'   * `amount`, a number or a law;
#'   * `percent`, a number or a law, and `of`, the codes of which it is a per cent, with semicolons between (all other items of
#'     its level when left out): an allowance.
#'
#'   Its range is that of the laws, written out as in `pert(90, 100, 130)`; or `low %` and `high %` off the whole (-10 and 30, or 90
#'   and 130), or `low`, `most likely` and `high` in place of `amount`; these are triangular, or what `shape` says (`"pert"`,
#'   `"uniform"`). Others: `unit` (of the quantity), `currency`, `price level`, `group`, `note`, the reason for its range; and for what
#'   is under way `spent`, what it has cost to date, beside which the other columns say what remains, and `done`, `yes` where nothing
#'   does.
#' @section Totals: means add up and percentiles do not: [cost_table()] shows each code's own, and [allotments()] parts of a reserve
#'   that do.
#' @section Errors: `ensayo_error_file` for a cell or row that cannot be read, a code that stands twice, one whose parent is missing, or
#'   a code that has items under it and an amount of its own; `ensayo_error_argument` for a currency or price level that is mixed in
#'   without a rate or index; `ensayo_error_cycle` for an allowance of an allowance in a circle.
#' @examples
#' tree <- data.frame(
#'   code = c("1", "1.1", "1.2", "2", "2.1"),
#'   label = c("Pipes", "Main", "Valves", "Works", "Trench"),
#'   quantity = c(NA, 420, 12, NA, 400), price = c(NA, "pert(0.8, 0.9, 1.3)", 4, NA, 1.5),
#'   `low %` = c(NA, NA, -10, NA, -15), `high %` = c(NA, NA, 20, NA, 60), check.names = FALSE
#' )
#' renewal <- study("Renewal") |> add_costs(tree, .currency = "kEUR")
#' res <- simulate(renewal, nsim = 1000, seed = 11)
#' cost_table(res)
#' @export
add_costs <- function(.study, tree, .name = "costs", .currency = NULL, .rates = list(), .price_level = NULL, .indices = list(),
                      .together = list()) {
  check_study(.study)
  name <- check_new_names(stats::setNames(list(1), check_string(.name)), "total", c(quantity_names(.study), names(.study$tables)))
  if (!is.data.frame(tree)) stop_argument("tree", "a data frame", tree, "`read_costs()` makes one from a CSV file.")
  costs <- list(name = name, items = cost_items(tree), currency = check_string(.currency, null = TRUE),
    rates = check_factors(.rates, ".rates"), price_level = check_string(.price_level, null = TRUE),
    indices = check_factors(.indices, ".indices"), together = check_together(.together))
  if (name %in% names(.study$costs)) stop_argument(".name", "another name than that of a cost tree of the study", name)
  .study$costs[[name]] <- costs
  with_costs(.study)
}

check_together <- function(x, call = rlang::caller_env()) {
  x <- as.list(x)
  if (length(x) && (is.null(names(x)) || any(!nzchar(names(x))))) stop_argument(".together", "a named list of correlations", x,
    call = call)
  lapply(x, check_correlation, ".together", call)
}

check_factors <- function(x, arg, call = rlang::caller_env()) {
  x <- as.list(x)
  if (length(x) && (is.null(names(x)) || any(!nzchar(names(x))))) stop_argument(arg, "a named list of numbers or laws", x, call = call)
  lapply(x, check_amount, arg, call)
}

cost_columns <- c("code", "label", "quantity", "unit", "price", "amount", "percent", "of", "low", "most likely", "high", "low percent",
  "high percent", "shape", "currency", "price level", "group", "note", "spent", "done")

cost_heading <- function(names) {
  plain <- gsub("[_ .]+", " ", tolower(trimws(names)))
  plain <- sub(" ?%$", " percent", plain)
  plain[plain == "unit price"] <- "price"
  plain[plain == "allowance percent"] <- "percent"
  trimws(plain)
}

#' @rdname add_costs
#' @param file Text: the CSV file's path.
#' @param study A study with a cost tree.
#' @param overwrite `TRUE` to replace a file that is there.
#' @return `read_costs()`: a data frame for `add_costs()`. `write_costs()`: `file`, invisibly; of a study without costs a blank one.
#' @export
read_costs <- function(file) {
  table <- read_table_file(check_string(file))
  names(table) <- cost_heading(names(table))
  cost_items(table, basename(file))  # so that a fault is found here, with the file's name
  new_table(table)
}

#' @rdname add_costs
#' @export
write_costs <- function(study, file, overwrite = FALSE) {
  check_study(study)
  refuse_existing(check_string(file), check_flag(overwrite))
  trees <- study$costs
  if (length(trees) > 1) stop_ensayo("argument", "A file holds one cost tree.", sprintf("The study has %d.", length(trees)))
  columns <- if (length(trees)) cost_cells(trees[[1]]$items) else stats::setNames(rep(list(character()), length(cost_columns)),
    cost_columns)
  names(columns) <- sub(" percent$", " %", names(columns))
  write_csv(as.data.frame(columns, check.names = FALSE), file)
  invisible(file)
}

# Items as records of what was given: `code`, `parent`, `label` and what their kind has.
cost_items <- function(tree, file = NULL, call = rlang::caller_env()) {
  tree <- lapply(unclass_table(tree), function(column) if (is.factor(column)) as.character(column) else column)
  names(tree) <- cost_heading(names(tree))
  unknown <- setdiff(names(tree), cost_columns)
  where <- file %||% "A cost tree"
  if (length(unknown)) {
    stop_ensayo("file", sprintf("%s must have columns that a cost tree knows.", where), sprintf("%s is none.", quoted(unknown[1])),
      suggestion(unknown[1], cost_columns), name = unknown[1], call = call)
  }
  if (is.null(tree$code)) stop_ensayo("file", sprintf("%s must have a column `code`.", where), sprintf("Its columns are %s.",
    paste(quoted(names(tree)), collapse = ", ")), call = call)
  codes <- trimws(as.character(tree$code))
  place <- function(i) paste0(if (!is.null(file)) paste0(file, ", "), sprintf("row %d, code %s", i, quoted(codes[i])))
  bad <- which(is.na(codes) | !grepl("^[A-Za-z0-9]+([.][A-Za-z0-9]+)*$", codes))
  if (length(bad)) {
    stop_ensayo("file", sprintf("%s must be a code such as 1, 1.2 or 1.2.3.", place(bad[1])), NULL, row = bad[1], call = call)
  }
  twice <- codes[duplicated(codes)]
  if (length(twice)) {
    stop_ensayo("file", sprintf("%s must have each code once.", where), sprintf("%s stands in rows %s.", quoted(twice[1]),
      paste(which(codes == twice[1]), collapse = " and ")), call = call)
  }
  parents <- ifelse(grepl(".", codes, fixed = TRUE), sub("[.][^.]*$", "", codes), "")
  orphan <- which(nzchar(parents) & !parents %in% codes)
  if (length(orphan)) {
    stop_ensayo("file", sprintf("%s must stand under a code of the tree.", place(orphan[1])), sprintf("There is no %s.",
      quoted(parents[orphan[1]])), "Add a row for it with a label.", row = orphan[1], call = call)
  }
  items <- lapply(seq_along(codes), function(i) {
    cells <- Filter(function(cell) length(cell) == 1 && !is.na(cell) && nzchar(trimws(as.character(cell))), lapply(tree,
      function(column) column[[i]]))
    cost_item(cells, codes[i], parents[i], any(parents == codes[i]), place(i), call)
  })
  stats::setNames(items, codes)
}

cost_item <- function(cells, code, parent, is_total, place, call) {
  text <- function(key) if (!is.null(cells[[key]])) trimws(as.character(cells[[key]]))
  number <- function(key) read_number(sub("\\s*%$", "", as.character(cells[[key]])), sprintf("%s, %s", place, quoted(key)))
  amount <- function(key) {
    if (is.null(cells[[key]])) return(NULL)
    written <- as.character(cells[[key]])
    amount_from_record(if (key == "percent") sub("\\s*%$", "", written) else written, sprintf("%s, %s", place, quoted(key)))
  }
  item <- list(code = code, parent = parent, label = text("label"), unit = text("unit"), group = text("group"), note = text("note"),
    currency = text("currency"), price_level = text("price level"))
  fault <- function(expected, came = NULL, mend = NULL) stop_ensayo("file", sprintf("%s %s", place, expected), came, mend, code = code,
    call = call)
  own <- intersect(c("quantity", "price", "amount", "percent", "low", "high", "most likely", "low percent", "high percent", "spent"),
    names(cells))
  if (is_total) {
    if (length(own)) fault("must have no costs of its own, for others stand under it.", sprintf("It gives %s.", and_list(quoted(own))))
    return(Filter(Negate(is.null), item))
  }
  item$spent <- if (!is.null(cells$spent)) number("spent")
  item$done <- if (!is.null(cells$done)) read_flag(cells$done, sprintf("%s, `done`", place))
  item[c("quantity", "price", "amount", "percent")] <- lapply(c("quantity", "price", "amount", "percent"), amount)
  if (isTRUE(item$done)) item[c("quantity", "price", "amount", "percent")] <- NULL
  item <- with_cost_range(Filter(Negate(is.null), item), cells, number, fault)
  kinds <- c(!is.null(item$quantity) || !is.null(item$price), !is.null(item$amount), !is.null(item$percent))
  if (isTRUE(item$done)) {
    if (is.null(item$spent)) fault("must say what was spent, for it is done.", "`spent` is empty.")
  } else if (sum(kinds) != 1) {
    fault("must have `quantity` and `price`, or `amount`, or `percent`.",
      if (any(kinds)) "It has more than one of these." else "It has none.",
      if (!any(kinds) && !is.null(item$spent)) "Where nothing remains, write `yes` under `done`.")
  } else if (kinds[1] && (is.null(item$quantity) || is.null(item$price))) {
    fault("must have both `quantity` and `price`.")
  }
  if (!is.null(text("of"))) {
    if (is.null(item$percent)) fault("has `of`, which goes with `percent`.")
    item$of <- trimws(strsplit(text("of"), ";", fixed = TRUE)[[1]])
  }
  item
}

# `low %` and `high %` become a factor, low and high in place of an amount its law.
with_cost_range <- function(item, cells, number, fault) {
  relative <- intersect(c("low percent", "high percent"), names(cells))
  plain <- intersect(c("low", "most likely", "high"), names(cells))
  if (length(relative) == 0 && length(plain) == 0 || isTRUE(item$done)) return(item)
  shape <- if (is.null(cells$shape)) "triangular" else trimws(as.character(cells$shape))
  if (!shape %in% c("triangular", "pert", "uniform")) fault("has a `shape` that is none.", sprintf("It is %s.", quoted(shape)),
    "Known: triangular, pert, uniform.")
  if (length(relative) && length(plain)) fault("must give its range in per cent, or as low and high.", "It gives both.")
  if (length(relative) == 1) fault("must give both `low %` and `high %`.")
  if (length(relative) == 2) {
    ends <- percent_ends(number("low percent"), number("high percent"), "A range", function(expected, came = NULL, mend = NULL)
      fault("must say how far low and high are off in per cent.", came, mend))
    if (any(ends != 0)) item$factor <- law_around(1, low = 1 - ends[1] / 100, high = 1 + ends[2] / 100, shape = shape)
    return(item)
  }
  if (!is.null(item$quantity) || !is.null(item$percent)) fault("gives low and high beside other figures.", "These are an amount's.")
  if (!is.null(item$amount)) fault("gives an amount, and low and high.", NULL, "Leave `amount` out: `most likely` says it.")
  needed <- if (shape == "uniform") c("low", "high") else c("low", "most likely", "high")
  if (length(setdiff(needed, plain))) fault(sprintf("must give %s.", and_list(quoted(needed))))
  values <- vapply(needed, number, 0)
  if (is.unsorted(values)) fault(sprintf("must have its %s in order.", and_list(quoted(needed))), sprintf("They are %s.",
    and_list(vapply(values, format_given, ""))))
  item$amount <- if (values[[1]] == values[[length(values)]]) values[[1]] else do.call(paste0("law_", shape), as.list(unname(values)))
  item
}

# What reading turns into the same items again: columns of texts.
cost_cells <- function(items) {
  rows <- lapply(items, function(item) {
    factor <- if (is_law(item$factor)) told_of(item$factor)$arguments
    list(code = item$code, label = item$label, quantity = amount_record(item$quantity), unit = item$unit,
      price = amount_record(item$price), amount = amount_record(item$amount), percent = amount_record(item$percent),
      of = if (length(item$of)) paste(item$of, collapse = "; "), `low percent` = if (!is.null(factor)) round(100 * factor$low, 10),
      `high percent` = if (!is.null(factor)) round(100 * factor$high, 10),
      shape = if (!is.null(factor) && factor$shape != "triangular") factor$shape, currency = item$currency,
      `price level` = item$price_level, group = item$group, note = item$note, spent = item$spent, done = if (isTRUE(item$done)) "yes")
  })
  keys <- unique(unlist(lapply(rows, function(row) names(Filter(Negate(is.null), row)))))
  columns <- lapply(stats::setNames(nm = intersect(cost_columns, keys)), function(key) {
    vapply(rows, function(row) cell_text(row[[key]]), "", USE.NAMES = FALSE)
  })
  columns
}

part_costs <- list(
  title = "Costs",
  record = function(study) {
    lapply(study$costs, function(tree) {
      more <- Filter(Negate(is.null), list(currency = tree$currency, rates = if (length(tree$rates)) lapply(tree$rates, amount_record),
        price_level = tree$price_level, indices = if (length(tree$indices)) lapply(tree$indices, amount_record),
        together = if (length(tree$together)) tree$together))
      cells <- cost_cells(tree$items)
      rows <- lapply(seq_along(cells$code), function(i) Filter(nzchar, lapply(cells[-1], `[`, i)))
      c(more, list(items = stats::setNames(rows, cells$code)))
    })
  },
  read = function(study, record, file) file_costs(study, record, file),
  reviewed = function(study, asked) review_costs(study),
  table = function(study) cost_listing(study)
)

file_costs <- function(study, record, file) {
  if (is.null(record)) return(study)
  check_section(record, "costs")
  for (name in names(record)) {
    tree <- record[[name]]
    place <- sprintf("Costs %s", quoted(name))
    check_keys(tree, c("items", "file", "currency", "rates", "price_level", "indices", "together"), place)
    if (is.null(tree$items) == is.null(tree$file)) stop_ensayo("file", sprintf("%s must give `items`, or a `file`.", place))
    items <- if (!is.null(tree$file)) read_costs(beside(tree$file, file$folder)) else {
      keys <- unique(unlist(lapply(tree$items, names)))
      cells <- lapply(stats::setNames(nm = keys), function(key) vapply(tree$items, function(row) as.character(row[[key]] %||% ""), ""))
      as.data.frame(c(list(code = names(tree$items)), cells), check.names = FALSE)
    }
    factors <- function(key) lapply(tree[[key]] %||% list(), amount_from_record, sprintf("%s, %s", place, quoted(key)))
    study <- in_place(place, add_costs(study, items, normal_name(name), tree$currency, factors("rates"), tree$price_level,
      factors("indices"),
      lapply(tree$together %||% list(), read_number, sprintf("%s, `together`", place))))
  }
  study
}

# A row for each code, for readers.
cost_listing <- function(study) {
  rows <- do.call(rbind, c(list(data.frame(code = character(), label = character(), amount = character(), note = character())),
    lapply(study$costs, function(tree) {
    cells <- as.data.frame(cost_cells(tree$items), check.names = FALSE)
    part <- function(key) cells[[key]] %||% rep("", nrow(cells))
    amount <- ifelse(nzchar(part("quantity")), paste(part("quantity"), "x", part("price")), ifelse(nzchar(part("percent")),
      paste(part("percent"), "%", ifelse(nzchar(part("of")), paste("of", part("of")), "")), part("amount")))
    range <- ifelse(nzchar(part("low percent")), sprintf(", %s to %s %%", part("low percent"), part("high percent")), "")
    data.frame(code = cells$code, label = part("label"), amount = paste0(amount, range), note = part("note"))
  })))
  new_table(as.list(rows))
}
