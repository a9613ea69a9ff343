# A first study of nothing but a register: its inputs, and their sum, their product or formulas.

# `formula` is "sum", "product", or formulas with semicolons between them, each with a name before it where wanted.
quick_study <- function(file, sheet = NULL, formula = "sum", specs = NULL, unit = NULL) {
  place <- basename(file)
  inputs <- inputs_from_table(with_short_names(read_register_table(file, sheet), place), place)
  if (length(inputs) == 0) stop_ensayo("file", sprintf("%s must have a row for each input.", place), "It has headings alone.", file = file)
  study <- add_inputs(study(sub("[.][A-Za-z]+$", "", place)), inputs)
  formulas <- quick_formulas(formula, names(study$inputs))
  unit <- unit %||% quick_unit(study, formula)
  outputs <- lapply(formulas, function(text) list(formula = text))
  outputs[[length(outputs)]]$unit <- unit
  parts <- study_parts()
  study <- parts$outputs$read(study, outputs, list())
  if (length(specs)) parts$specs$read(study, as.list(specs), list()) else study
}

quick_formulas <- function(text, inputs) {
  if (text %in% c("sum", "product") && !text %in% inputs) {
    name <- setdiff(c(if (text == "sum") "total" else "product", "result", "outcome"), inputs)[1]
    verb <- if (text == "sum") "sum" else "prod"
    return(stats::setNames(list(sprintf("%s(%s)", verb, paste(vapply(inputs, name_in_formula, ""), collapse = ", "))), name))
  }
  pieces <- trimws(strsplit(text, ";", fixed = TRUE)[[1]])
  pieces <- pieces[nzchar(pieces)]
  if (length(pieces) == 0) stop_ensayo("argument", "A formula must be given.", "It is empty.", argument = "formula")
  named <- regmatches(pieces, regexec("^([[:alpha:]][[:alnum:]_.]*)[[:space:]]*=(?!=)[[:space:]]*(.*)$", pieces, perl = TRUE))
  names <- vapply(named, function(found) if (length(found)) found[2] else "", "")
  free <- setdiff(c("result", "outcome"), c(inputs, names))[1]
  names[!nzchar(names)] <- make.unique(rep(free, sum(!nzchar(names))), sep = "_")
  stats::setNames(as.list(ifelse(lengths(named) > 0, vapply(named, function(found) found[3], ""), pieces)), names)
}

name_in_formula <- function(name) if (make.names(name) == name) name else sprintf("`%s`", name)

# Of a sum whose parts have one unit.
quick_unit <- function(study, formula) {
  units <- unique(vapply(study$inputs, function(input) input$unit %||% "", ""))
  if (formula == "sum" && length(units) == 1 && nzchar(units)) units
}

# People name things as they speak of them, "Trunk main, DN 250"; formulas need names without spaces. What was written becomes the label.
with_short_names <- function(table, file) {
  said <- trimws(as.character(table$name))
  short <- gsub("^_+|_+$", "", gsub("[^[:alnum:]_.]+", "_", said))
  short <- ifelse(grepl("^[0-9]", short), paste0("x", short), short)
  changed <- nzchar(short) & short != said & make.names(said) != said
  if (!any(changed)) return(table)
  short[changed] <- make.unique(c(said[!changed], tolower(short[changed])), sep = "_")[sum(!changed) + seq_len(sum(changed))]
  label <- if (is.null(table$label)) rep("", length(said)) else table$label
  table$label <- ifelse(changed & !nzchar(label), said, label)
  table$name <- ifelse(changed, short, said)
  shown <- utils::head(which(changed), 3)
  tell_ensayo(sprintf("%s of %s can stand in formulas under a shorter name: %s%s.", count_of(sum(changed), "name"), file,
    and_list(sprintf("%s for %s", table$name[shown], quoted(said[shown]))), if (sum(changed) > 3) " and so on" else ""), NULL, "name")
  table
}
