# What makes the report's figures alive in a browser: its data, one script (inst/report/report.js), and a policy by which nothing
# else can run or be fetched.

# Runs up to which a page carries every value of an output; of more it carries so many at even ranks, by which a share is known
# to within 0.01 points.
most_live_values <- 20000
live_ranks <- 8001

# Runs that can be picked one by one.
most_live_runs <- 300

live_measures <- c(variance_share = "share of variance", rank = "rank correlation", first_order = "first-order variance index", swing = "swing of the mean")

# The elements at the end of a page; none where there is nothing to look at.
live_elements <- function(result, shown) {
  if (length(shown) == 0 || is_long_store(result$store)) return(NULL)
  data <- gsub("<", "\\u003c", to_json(live_data(result, shown)), fixed = TRUE)
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

live_data <- function(result, shown) {
  replicates <- telling_replicates(result)
  places <- if (!is.null(replicates)) match(replicates, unique(replicates))
  n <- run_count(result)
  c(list(runs = n, outputs = I(lapply(shown, live_output, result = result, places = places))),
    if (!is.null(places)) list(sizes = I(tabulate(places)), ratio = (stats::qnorm(0.025) / stats::qt(0.025, max(places) - 1))^2),
    live_runs(result, shown))
}

# Bytes of numbers, the lowest first.
packed_bytes <- function(x, size = 8) jsonlite::base64_enc(writeBin(x, raw(), size = size, endian = "little"))

live_output <- function(result, name, places) {
  values <- values_of(result, name)
  # conditions take days as whole ones
  if (output_kind_of(result, name) == "date") values <- floor(values)
  good <- which(is.finite(values))
  order <- good[order(values[good])]
  exact <- length(order) <= most_live_values
  kept <- if (exact) order else order[round(1 + (length(order) - 1) * (seq_len(live_ranks) - 1) / (live_ranks - 1))]
  base <- as.double(result$base$outputs[[name]] %||% NA)
  c(live_quantity(result, name), list(good = length(order), exact = exact, values = packed_bytes(as.double(values[kept])),
    replicates = if (exact && !is.null(places)) packed_bytes(as.integer(places[kept] - 1L), 2), base = if (is.finite(base)) base,
    limits = I(unique(spec_limits(result$study, name)$limit)), drivers = I(live_drivers(result, name))))
}

live_quantity <- function(result, name) {
  kind <- if (name %in% names(result$study$outputs)) output_kind_of(result, name) else result$store$kinds[[name]] %||% "number"
  decimals <- output_decimals(result, name)
  list(name = name, label = quantity_label(result$study, name), unit = quantity_unit(result$study, name) %||% "", kind = kind,
    decimals = if (is.finite(decimals)) decimals)
}

live_drivers <- function(result, name) {
  tables <- lapply(names(live_measures), function(measure) {
    table <- tryCatch(rlang::inject(drivers(result, !!measure, outputs = !!name)), ensayo_error = function(e) NULL)
    if (is.null(table)) return(NULL)
    table <- utils::head(table[enters_output(table) & is.finite(table$value), ], 12)
    if (nrow(table) == 0) return(NULL)
    is_share <- isTRUE(driver_measures[[measure]]$shares)
    rows <- lapply(seq_len(nrow(table)), function(i) {
      value <- table$value[i]
      list(label = quantity_label(result$study, table$input[i]), value = value, sign = table$sign[i], noise = !table$beyond_noise[i],
        shown = if (is_share) format_share(value, 0) else if (measure == "swing") with_unit(format_number(value, 3), quantity_unit(result$study, name)) else
          formatC(value, format = "f", digits = 2))
    })
    list(title = live_measures[[measure]], about = upper_first(driver_measures[[measure]]$about), rows = I(rows))
  })
  Filter(Negate(is.null), tables)
}

# The first runs, with all that was drawn and came of it.
live_runs <- function(result, shown) {
  names <- c(draw_names(result), main_outputs(result))
  names <- setdiff(names, series_names(result$study))
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
