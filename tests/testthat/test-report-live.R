live_page <- function(res) {
  file <- tempfile(fileext = ".html")
  write_report(res, file)
  paste(readLines(file, encoding = "UTF-8"), collapse = "\n")
}

live_data_in <- function(page) {
  jsonlite::fromJSON(sub("</script>.*", "", sub(".*<script type=\"application/json\" id=\"ensayo-data\">", "", page)), simplifyVector = FALSE)
}

# What a browser makes of a page: its elements as text, after `script` has run in it besides.
browsed <- function(page, script = NULL) {
  browser <- browser_path()
  if (!is.null(script)) {
    page <- sub("<meta http-equiv=\"Content-Security-Policy\"[^>]*>", "", page)
    page <- sub("</body>", paste0("<script>", script, "</script></body>"), page, fixed = TRUE)
  }
  folder <- withr::local_tempdir()
  file <- file.path(folder, "page.html")
  writeLines(page, file, useBytes = TRUE)
  out <- processx::run(browser, c(browser_options(folder), "--window-size=1200,2000", "--virtual-time-budget=4000", "--dump-dom", paste0("file://", file)), timeout = 120)
  expect_no_match(out$stderr, "CONSOLE", fixed = TRUE)
  out$stdout
}

told_share <- function(page, name, key) {
  tag <- regmatches(page, regexpr(sprintf("<p [^>]*data-told=\"%s\"[^>]*>", name), page))
  as.double(sub(sprintf(".*data-%s=\"([^\"]*)\".*", key), "\\1", tag))
}

main_result <- function(...) simulate(read_study(system.file("studies", "gravity-main.yml", package = "ensayo")), nsim = 2000, seed = 11, ...)
main <- main_result()
main_page <- live_page(main)

# Where the target of an output stands, by the label of its line.
told_target <- function(page, label) as.double(sub(sprintf(".*aria-label=\"Target for %s\"[^>]* aria-valuenow=\"([^\"]*)\".*", label), "\\1", page))

test_that("a page carries its values exactly, and lets nothing else run", {
  data <- live_data_in(main_page)
  names <- vapply(data$outputs, `[[`, "", "name")
  expect_setequal(names, c("pressure", "velocity", "headloss"))
  bytes <- jsonlite::base64_dec(data$outputs[[match("pressure", names)]]$values)
  expect_identical(readBin(bytes, "double", 2000, endian = "little"), sort(as.data.frame(main)$pressure))
  # the policy names the digests of what stands in the page, and no address
  policy <- gsub("&#39;", "'", sub(".*http-equiv=\"Content-Security-Policy\" content=\"([^\"]*)\".*", "\\1", main_page), fixed = TRUE)
  expect_match(policy, "^default-src 'none'; img-src data:; ")
  style <- sub("</style>.*", "", sub(".*<style>", "", main_page))
  script <- sub("</script>.*", "", sub(".*<script>", "", main_page))
  expect_true(grepl(sprintf("style-src 'sha256-%s'", sha256_base64(style)), policy, fixed = TRUE))
  expect_true(grepl(sprintf("script-src 'sha256-%s'", sha256_base64(script)), policy, fixed = TRUE))
  # a digest that is known: of "abc", FIPS 180-4's own example
  expect_identical(sha256_base64("abc"), "ungWv48Bz+pBQUDeXa4iI7ADYaOWF3qctBD/YfIAFa0=")
  expect_length(gregexpr("<script", main_page)[[1]], 2)
  # and no text of a study ends the data
  hostile <- study("</script><script>alert(1)</script>") |> add_inputs(x = input(law_uniform(0, 1), label = "<!-- </script>")) |>
    add_outputs(y = x + 1)
  expect_length(gregexpr("<script", live_page(simulate(hostile, nsim = 50, seed = 1)))[[1]], 2)
})

test_that("single runs have one value of each quantity", {
  res <- simulate(read_study(system.file("studies", "tank.yml", package = "ensayo")), nsim = 40, seed = 1)
  runs <- live_runs(res, "cost")
  expect_false(any(vapply(runs$columns, `[[`, "", "name") %in% stepped_names(res$study)))
  cost <- runs$columns[[match("cost", vapply(runs$columns, `[[`, "", "name"))]]
  expect_equal(unclass(cost$values), signif(as.data.frame(res)$cost, 7))
  # and measures of drivers are those of drivers()
  rank <- drivers(res, "rank", cost)
  told <- live_drivers(res, c("cost", "missing"))$cost[[2]]$rows
  expect_identical(vapply(told, `[[`, 0, "value"), utils::head(rank$value[enters_output(rank) & is.finite(rank$value)], 12))
})

test_that("of many runs a page carries so many values that shares are known to 0.01 points", {
  res <- simulate(study() |> add_inputs(x = law_uniform(0, 1)) |> add_outputs(y = x^2), nsim = 50000, seed = 1)
  output <- live_output(res, "y", NULL)
  expect_false(output$exact)
  told <- simulate(study() |> add_inputs(x = law_uniform(0, 1)) |> add_outputs(y = x^2), nsim = 30000, seed = 1, replicates = 5)
  expect_match(browsed(live_page(told)), "their simulation error takes every run of each replicate", fixed = TRUE)
  values <- readBin(jsonlite::base64_dec(output$values), "double", 1e5, endian = "little")
  all <- sort(as.data.frame(res)$y)
  expect_length(values, live_ranks)
  expect_identical(range(values), range(all))
  # the ranks between two values that are known are 1/8000 of the runs
  expect_lte(max(diff(findInterval(values, all))), ceiling(50000 / (live_ranks - 1)) + 1)
})

test_that("a browser shows the same chances as chance() where a target is typed, dragged or moved by keys", {
  # under its own policy, as it stands
  opened <- browsed(main_page)
  at <- chance(main, pressure <= 38, pressure > 38)
  expect_identical(told_share(opened, "pressure", "below"), at$chance[1])
  expect_equal(told_share(opened, "pressure", "low"), at$low[1], tolerance = 1e-7)
  expect_equal(told_share(opened, "pressure", "high"), at$high[1], tolerance = 1e-7)
  expect_identical(told_share(opened, "pressure", "above"), at$chance[2])
  expect_match(opened, sprintf("<strong>%s</strong> are above", gsub(" ", "&nbsp;", format_share(at$chance[2]))), fixed = TRUE)
  typed <- browsed(main_page, "const box = document.querySelector('section[data-output=pressure] input'); box.value = '40,5'; box.dispatchEvent(new Event('input'));")
  expect_identical(told_share(typed, "pressure", "below"), chance(main, pressure <= 40.5)$chance)
  # what may be thousands or decimals is not guessed: the target stays
  unsure <- browsed(main_page, "const box = document.querySelector('section[data-output=pressure] input'); box.value = '40,500'; box.dispatchEvent(new Event('input'));")
  expect_identical(told_share(unsure, "pressure", "below"), at$chance[1])
  expect_match(unsure, "Give a number such as 1250 or 0.5", fixed = TRUE)
  dragged <- browsed(main_page, "const svg = document.querySelector('section[data-output=pressure] svg'), box = svg.getBoundingClientRect();
    const event = (kind, x) => svg.dispatchEvent(new PointerEvent(kind, {clientX: box.left + x * box.width, clientY: box.top + 100, bubbles: true, pointerId: 1}));
    event('pointerdown', 0.3); event('pointermove', 0.6); event('pointerup', 0.6);")
  value <- told_target(dragged, "Pressure at the last tap")
  expect_gt(value, 38)
  expect_identical(told_share(dragged, "pressure", "below"), chance(main, pressure <= !!value)$chance)
  keys <- browsed(main_page, "const grip = document.querySelector('section[data-output=pressure] .grip'); for (const key of ['ArrowRight', 'PageUp', 'ArrowLeft']) grip.dispatchEvent(new KeyboardEvent('keydown', {key}));")
  moved <- told_target(keys, "Pressure at the last tap")
  expect_gt(moved, 38)
  expect_identical(told_share(keys, "pressure", "above"), chance(main, pressure > !!moved)$chance)
  # a run that is picked shows all of it; another measure its own figures; an output can be left out
  picked <- browsed(main_page, "document.querySelectorAll('.dot')[6].dispatchEvent(new MouseEvent('click', {bubbles: true}));
    const choose = document.querySelector('section[data-output=pressure] select'); choose.value = 1; choose.dispatchEvent(new Event('change'));
    const show = document.querySelector('.asks input[type=checkbox]'); show.checked = false; show.dispatchEvent(new Event('change'));")
  expect_match(picked, "<table data-run=\"7\">", fixed = TRUE)
  expect_match(picked, sprintf("<td>Pressure at the last tap</td><td class=\"number\">%s</td>", format_decimals(as.data.frame(main)$pressure[7], output_decimals(main, "pressure"))), fixed = TRUE)
  expect_match(picked, sprintf(">%s<", formatC(drivers_of(main, "pressure", "rank")$value[1], format = "f", digits = 2)), fixed = TRUE)
  expect_match(picked, "<section data-output=\"pressure\" hidden=\"\">", fixed = TRUE)
})

test_that("replicates, failed runs, dates and many runs are told as R tells them", {
  replicated <- main_result(replicates = 10)
  opened <- browsed(live_page(replicated))
  at <- chance(replicated, pressure <= 38)
  expect_equal(told_share(opened, "pressure", "low"), at$low, tolerance = 1e-7)
  expect_equal(told_share(opened, "pressure", "high"), at$high, tolerance = 1e-7)
  mixed <- study("Mixed") |> add_inputs(late = law_uniform(0, 30), x = law_normal(0, 1)) |>
    add_outputs(finish = date("2027-03-01") + late, root = sqrt(x)) |> add_specs(finish <= date("2027-03-20"), root < 1)
  res <- simulate(mixed, nsim = 30000, seed = 3)
  opened <- browsed(live_page(res))
  expect_lt(abs(told_share(opened, "finish", "below") - chance(res, finish <= date("2027-03-20"))$chance), 1e-4)
  expect_match(opened, "are on or before 2027-03-20", fixed = TRUE)
  expect_identical(told_share(opened, "root", "below"), chance(res, root <= 1)$chance)
  expect_equal(told_share(opened, "root", "below") + told_share(opened, "root", "above"), 0.5, tolerance = 0.02)
  expect_match(opened, sprintf("%s failed.", gsub(" ", "&nbsp;", format_share(mean(is.na(as.data.frame(res)$root))))), fixed = TRUE)
})

test_that("results of alternatives stand beside, and can be switched off", {
  main <- read_study(system.file("studies", "gravity-main.yml", package = "ensayo"))
  results <- simulate(alternatives(main, lined = list(friction = law_lognormal(mean = 0.018, sd = 0.0025))), nsim = 6000, seed = 11)
  page <- live_page(results)
  data <- live_data_in(page)
  beside <- data$outputs[[match("pressure", vapply(data$outputs, `[[`, "", "name"))]]$beside
  expect_identical(beside[[1]]$label, "lined")
  expect_false(beside[[1]]$exact)
  opened <- browsed(page)
  told <- function(page) {
    section <- sub("</section>.*", "", sub(".*<section data-output=\"pressure\">", "", page))
    sub(".*<span data-beside=\"lined\">([^<]*)</span>.*", "\\1", section)
  }
  at <- chance(results$lined, pressure <= 38)
  shown <- as.double(sub(".*: ([0-9.]+).*", "\\1", gsub("\u00a0|&nbsp;", " ", told(opened)))) / 100
  expect_lt(abs(shown - at$chance), 7e-4)  # a tenth of a point is shown, and ranks are 1/4000 apart
  off <- browsed(page, "const box = document.querySelector('section[data-output=pressure] .beside input'); box.checked = false; box.dispatchEvent(new Event('change'));")
  expect_identical(told(off), "lined")
  expect_match(off, "class=\"curve other other-0\" style=\"display: none;\"", fixed = TRUE)
  # without scripts they are compared, too
  expect_match(page, "<h2>Side by side</h2>", fixed = TRUE)
  expect_match(page, "pressure: lined is higher than as is by", fixed = TRUE)
  # folders, from R and from the command line
  folder <- file.path(withr::local_tempdir(), c("as-is", "lined"))
  Map(write_result, results, folder)
  file <- tempfile(fileext = ".html")
  write_report(folder[1], file, beside = c(lined = folder[2]))
  expect_identical(live_data_in(paste(readLines(file, encoding = "UTF-8"), collapse = "\n"))$outputs[[1]]$beside[[1]]$label, "lined")
  expect_identical(call_cli("report", folder[1], "--beside", folder[2])$code, 0L)
  expect_match(readLines(file.path(folder[1], "report.html"), encoding = "UTF-8"), "lined is higher than this result", all = FALSE)
  expect_error(write_report(results$lined, file, beside = list(results$lined)), class = "ensayo_error_argument")
  expect_error(write_report(results$lined, file, beside = list(`this result` = results$lined)), class = "ensayo_error_argument")
  expect_error(write_report(results, tempfile(fileext = ".xlsx")), class = "ensayo_error_argument")
})

test_that("a page of ten outputs and 10,000 runs has less than 3 MB", {
  many <- study() |> add_inputs(a = law_normal(0, 1), b = law_uniform(0, 1), c = law_pert(1, 2, 5))
  for (i in 1:10) many <- add_outputs(many, !!paste0("y", i) := a * !!i + b^2 + sin(!!i * c))
  file <- tempfile(fileext = ".html")
  write_report(simulate(many, nsim = 10000, seed = 1), file)
  expect_lt(file.size(file), 3e6)
})
