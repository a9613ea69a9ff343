# What makes the report's figures alive in a browser: its data, one script (inst/report/report.js), and a policy by which nothing
# else can run or be fetched.

# Runs up to which a page carries every value of an output; of more it carries so many at even ranks, by which a share is known
# to within 0.01 points.
most_live_values <- 20000
live_ranks <- 8001

# Runs that can be picked one by one.
most_live_runs <- 300

# The last two take so long of very many runs that a page leaves them out then.
live_measures <- c(variance_share = "share of variance", rank = "rank correlation", first_order = "first-order variance index", swing = "swing of the mean")

dear_measures <- c("first_order", "swing")
most_for_dear <- 1e5

# The elements at the end of a page; none where there is nothing to look at.
live_elements <- function(result, shown, beside = list()) {
  if (length(shown) == 0 || is_long_store(result$store)) return(NULL)
  data <- gsub("<", "\\u003c", to_json(live_data(result, shown, beside)), fixed = TRUE)
  list(report_section_hidden("Single runs", htmltools::tags$div(id = "single-runs")),
    htmltools::tags$script(type = "application/json", id = "ensayo-data", htmltools::HTML(paste(data, collapse = "\n"))),
    htmltools::tags$script(htmltools::HTML(live_script())))
}

report_section_hidden <- function(title, ...) htmltools::tags$section(hidden = NA, class = "live", htmltools::tags$h2(title), ...)

live_script <- function() paste(readLines(system.file("report", "report.js", package = "ensayo"), encoding = "UTF-8"), collapse = "\n")

# Scripts and styles of a page by their digests, pictures that it carries; nothing else.
page_policy <- function(styles, scripts) {
  digests <- function(texts) paste(sprintf("'sha256-%s'", vapply(texts, sha256_base64, "")), collapse = " ")
  sprintf("default-src 'none'; img-src data:; style-src %s; script-src %s; base-uri 'none'; form-action 'none'", digests(styles),
    if (length(scripts)) digests(scripts) else "'none'")
}

sha256_base64 <- function(text) {
  hex <- digest::digest(enc2utf8(text), "sha256", serialize = FALSE)
  jsonlite::base64_enc(as.raw(strtoi(substring(hex, seq(1, 63, 2), seq(2, 64, 2)), 16L)))
}

live_data <- function(result, shown, beside = list()) {
  replicates <- telling_replicates(result)
  places <- if (!is.null(replicates)) match(replicates, unique(replicates))
  driven <- live_drivers(result, shown)
  outputs <- lapply(shown, function(name) {
    c(live_output(result, name, places), list(drivers = I(driven[[name]]), beside = I(live_beside(beside, name))))
  })
  c(list(runs = run_count(result), outputs = I(outputs)),
    if (!is.null(places)) list(sizes = I(tabulate(places)), ratio = (stats::qnorm(0.025) / stats::qt(0.025, max(places) - 1))^2),
    live_runs(result, shown))
}

# Bytes of numbers, the lowest first.
packed_bytes <- function(x, size = 8) jsonlite::base64_enc(writeBin(x, raw(), size = size, endian = "little"))

# The same output of other results, at fewer ranks: shares of these are known to within 0.02 points.
live_beside <- function(beside, name) {
  there <- Filter(function(title) name %in% main_outputs(beside[[title]]) && !is_long_store(beside[[title]]$store), names(beside))
  lapply(there, function(title) {
    other <- beside[[title]]
    values <- live_output(other, name, NULL, most_beside)[c("good", "exact", "values")]
    c(list(label = title, runs = run_count(other), plain = is.null(telling_replicates(other))), values)
  })
}

most_beside <- 4001

live_output <- function(result, name, places, most = NULL) {
  values <- values_of(result, name)
  # conditions take days as whole ones
  if (output_kind_of(result, name) == "date") values <- floor(values)
  good <- which(is.finite(values))
  order <- good[order(values[good])]
  exact <- length(order) <= (most %||% most_live_values)
  ranks <- most %||% live_ranks
  kept <- if (exact) order else order[round(1 + (length(order) - 1) * (seq_len(ranks) - 1) / (ranks - 1))]
  base <- as.double(result$base$outputs[[name]] %||% NA)
  c(live_quantity(result, name), list(good = length(order), exact = exact, values = packed_bytes(as.double(values[kept])),
    replicates = if (exact && !is.null(places)) packed_bytes(as.integer(places[kept] - 1L), 2), base = if (is.finite(base)) base,
    limits = I(unique(spec_limits(result$study, name)$limit))))
}

live_quantity <- function(result, name) {
  decimals <- output_decimals(result, name)
  list(name = name, label = quantity_label(result$study, name), unit = quantity_unit(result$study, name) %||% "", kind = result$store$kinds[[name]] %||% "number",
    decimals = if (is.finite(decimals)) decimals)
}

# By output, a table for each measure that has figures.
live_drivers <- function(result, shown) {
  measures <- setdiff(names(live_measures), if (run_count(result) > most_for_dear) dear_measures)
  tables <- lapply(stats::setNames(nm = measures), function(measure) {
    tryCatch(rlang::inject(drivers(result, !!measure, outputs = c(!!!shown))), ensayo_error = function(e) NULL)
  })
  tables <- lapply(Filter(Negate(is.null), tables), function(table) table[enters_output(table) & is.finite(table$value), ])
  lapply(stats::setNames(nm = shown), function(name) {
    own <- Map(function(table, measure) live_measure(result, utils::head(table[table$output == name, ], 12), measure), tables, names(tables))
    unname(Filter(function(one) length(one$rows) > 0, own))
  })
}

live_measure <- function(result, table, measure) {
  value <- table$value
  shown <- if (isTRUE(driver_measures[[measure]]$shares)) format_share(value, 0) else if (measure == "swing") {
    vapply(format_number(value, 3), with_unit, "", unit = quantity_unit(result$study, table$output[1]))
  } else formatC(value, format = "f", digits = 2)
  rows <- lapply(seq_along(value), function(i) {
    list(label = quantity_label(result$study, table$input[i]), value = value[i], sign = table$sign[i], noise = !table$beyond_noise[i], shown = shown[[i]])
  })
  list(title = live_measures[[measure]], about = upper_first(driver_measures[[measure]]$about), rows = I(rows))
}

# The first runs, with all that was drawn and came of it.
live_runs <- function(result, shown) {
  names <- Filter(function(name) !is_drawn_series(result, name), c(draw_names(result), main_outputs(result)))
  at <- seq_len(min(run_count(result), most_live_runs))
  columns <- lapply(names, function(name) {
    values <- run_column(result, name)[at]
    if (is.factor(values)) values <- as.character(values)
    if (!is.character(values)) values <- signif(as.double(values), 7)
    c(live_quantity(result, name), list(values = I(if (is.character(values)) values else ifelse(is.finite(values), values, NA_real_))))
  })
  first <- drivers_of(result, shown[1])$input[1]
  list(numbers = I(run_numbers(result)[at]), columns = I(columns), across = if (isTRUE(first %in% names)) first else names[1], upwards = shown[1])
}
