paid_works <- function(...) study("Works") |>
  add_tasks(dig = task(law_pert(8, 10, 18), cost_per_day = 2), pipes = task(law_pert(5, 9, 20), cost = law_pert(40, 45, 60), paid = "finish + 14 days"),
    lay = task(law_pert(6, 8, 14), after = "dig, pipes", cost_per_day = 3), ...)

test_that("the figure of money shows what the table says", {
  res <- simulate(paid_works(.start = "2027-03-01", .budget = 105, .currency = "kEUR"), 400, 1, progress = NULL)
  table <- as.data.frame(cash_table(res, "week"))
  plot <- plot_cash_flow(res, "week")
  n <- nrow(table)
  band <- ggplot2::layer_data(plot, 1)
  expect_equal(band$ymax, c(0, table$spent_P80))
  expect_equal(band$ymin, c(0, table$spent_P10))
  expect_match(plot$labels$title, sprintf("80 %% of runs spend at most %s kEUR; %s exceed the budget", format_decimals(table$spent_P80[n], output_decimals(res, "project_cost")),
    format_share(table$ever[n], 0)), fixed = TRUE)
  income <- paid_works(.budget = 60) |> add_tasks(payment = task(0, "lay", cost = -90, paid = "finish + 3 days")) |> simulate(200, 1, progress = NULL)
  expect_match(gsub("\n", " ", plot_cash_flow(income, by = 1)$labels$title),
    "need at most .* at a time, around day [0-9]+; .* exceed the budget at some time")
  expect_length(ggplot2::layer_data(plot_cash_flow(simulate(paid_works(), 50, 1, progress = NULL)), 2)$y, 0)  # no budget
  one <- simulate(study() |> add_tasks(a = task(1, cost = 3), .start = "2027-03-01"), 1, 1, progress = NULL)
  expect_identical(nrow(ggplot2::layer_data(plot_cash_flow(one), 3)), 2L)
})

test_that("the figure of date and cost counts its corners, and its line keeps both", {
  res <- simulate(paid_works(.start = "2027-03-01", .promised = "2027-03-24", .budget = 105), 400, 1, progress = NULL)
  d <- as.data.frame(res)
  plot <- plot_joint(res)
  in_time <- d$project_finish <= as.Date("2027-03-24")
  in_budget <- d$project_cost <= 105
  corners <- ggplot2::layer_data(plot, 5)
  share <- function(x) format_share(mean(x))
  expect_identical(as.character(corners$label), paste(c(share(in_time & in_budget), share(!in_time & in_budget), share(in_time & !in_budget),
    share(!in_time & !in_budget)), c("keep both", "keep only the budget", "keep only the date", "keep neither")))
  expect_match(gsub("\n", " ", plot$labels$title), "finish of the project by 2027-03-24, cost of the project of 105 at most")
  line <- ggplot2::layer_data(plot, 2)
  expect_true(all(vapply(seq_len(nrow(line)), function(i) mean(d$project_finish <= line$x[i] & d$project_cost <= line$y[i]), 0) >= 0.8))
  # the figures of the corners are those of the table
  chances <- as.data.frame(joint_chances(res, project_finish <= date("2027-03-24"), project_cost <= 105))$chance
  expect_match(as.character(corners$label[1]), format_share(chances[3]), fixed = TRUE)
  expect_match(as.character(corners$label[4]), format_share(chances[4]), fixed = TRUE)
  other <- plot_joint(res, lay[float], project_cost, x_limit = 12)
  expect_match(gsub("\n", " ", other$labels$title), "by 12")
  expect_fault(plot_joint(res, x_limit = "2027-02-31"), "argument", "x_limit")
})

test_that("digits tell percentiles apart where much is certain and little is not", {
  large <- study() |> add_tasks(a = task(law_uniform(4, 6), cost = 1e6, cost_per_day = 0.5), b = task(1, "a", cost = 5e5), .start = "2027-03-01",
    .budget = 1500002.75) |> simulate(500, 1, progress = NULL)
  cells <- cash_cells(cash_table(large, "month"), large)
  last <- vapply(cells[c("P10 in all", "P50 in all", "P80 in all")], function(column) column[length(column)], "")
  expect_length(unique(last), 3)
  expect_identical(unique(cells$budget), "1500002.75")
  expect_match(gsub("\n", " ", plot_joint(large)$labels$title), "1500002.75 at most", fixed = TRUE)
})

test_that("prints, command line and report have the money", {
  res <- simulate(paid_works(.start = "2027-03-01", .budget = 105), 400, 1, progress = NULL)
  folder <- withr::local_tempfile()
  write_result(res, folder)
  said <- call_cli("schedule", folder, "--by", "week")
  expect_identical(said$code, 0L)
  expect_match(said$output, "When the money is spent", all = FALSE)
  table <- as.data.frame(cash_table(res, "week"))
  row <- said$output[grepl(format(max(table$step)), said$output) & grepl("105", said$output)]
  expect_match(row, format_share(table$chance[nrow(table)]), fixed = TRUE)
  json <- jsonlite::fromJSON(paste(call_cli("schedule", folder, "--json", "--by", "week")$output, collapse = "\n"))
  expect_equal(json$cash$spent_P80, table$spent_P80)
  expect_identical(call_cli("schedule", folder, "--by", "fortnight")$code, 2L)
  days <- jsonlite::fromJSON(paste(call_cli("schedule", folder, "--json", "--by", "10")$output, collapse = "\n"))
  expect_equal(days$cash$spent_P80, as.data.frame(cash_table(res, 10))$spent_P80)
  # inputs behind a task's cost stand aside, whatever the measure
  for (measure in names(driver_measures)) expect_identical(nrow(rlang::inject(drivers(res, !!measure, outputs = project_cost))), 3L, info = measure)
  expect_equal(rlang::inject(drivers(res, "rank", outputs = project_cost))$value[1],
    max(abs(stats::cor(as.data.frame(res)[c("dig[duration]", "lay[duration]", "pipes[duration]")], as.data.frame(res)$project_cost, method = "spearman"))))
  page <- withr::local_tempfile(fileext = ".html")
  write_report(res, page)
  expect_match(paste(readLines(page), collapse = " "), "Money over time")
})
