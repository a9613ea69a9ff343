# Figures, prints, the command line and the report of schedules say what the tables say.

works <- function(n = 1000) {
  file <- system.file("studies", "works.yml", package = "ensayo")
  simulate(read_study(file), n, 11, progress = NULL)
}

test_that("figures show the tables' figures", {
  res <- works()
  table <- as.data.frame(schedule_table(res))
  data <- schedule_plot_data(res, 45)
  expect_equal(data$rows$critical, table$critical[table$row %in% c("task", "milestone")])
  expect_match(paste(data$note, collapse = " "), format_share(pass_rate(res)$pass_rate[1]), fixed = TRUE)
  expect_match(data$title, format(table$finish_P80[table$row == "project"]), fixed = TRUE)
  expect_equal(nrow(schedule_plot_data(res, 10)$rows), 10)
  gains <- schedule_gains(res, c("shorter", "events"))
  drawn <- schedule_gains_plot_data(res, gains, 20)
  expect_equal(drawn$rows$gain, utils::head(gains$gain[gains$gain != 0 | gains$mean_gain != 0], 20))
  slip <- as.data.frame(slip_allowed(res, c(0, 5)))
  expect_setequal(slip_plot_data(res, c(0, 5), 45)$rows$slip, slip$start_later)
  for (figure in list(plot_schedule(res), plot_schedule(res, 8), plot_schedule_gains(res), plot_slip(res, 3))) {
    expect_silent(ggplot2::ggplotGrob(figure))
  }
  plain <- simulate(study() |> add_tasks(a = task(2)), 20, 1, progress = NULL)
  for (figure in list(plot_schedule(plain), plot_slip(plain), plot_slip(plain, 3), plot_critical_paths(plain))) {
    expect_silent(ggplot2::ggplotGrob(figure))
  }
})

test_that("the command line and the report tell of a schedule what the tables say", {
  dir <- withr::local_tempdir()
  res <- works(300)
  write_result(res, file.path(dir, "r"))
  said <- call_cli("schedule", file.path(dir, "r"))
  expect_identical(said$code, 0L)
  for (word in c("What is won", "How late each task may be", "Critical paths")) expect_match(said$output, word, all = FALSE)
  json <- jsonlite::fromJSON(call_cli("schedule", file.path(dir, "r"), "--json", "--slip", "3")$output)
  expect_equal(json$schedule$critical, schedule_table(res)$critical)
  expect_equal(json$slip$start_later, slip_allowed(res, 3)$start_later)
  file <- file.path(dir, "small.yml")
  writeLines(c("ensayo: 1", "study: Small", "tasks:", "  dig: {duration: \"pert(8, 10, 18)\"}", "  lay: {duration: 4, after: dig}"), file)
  expect_match(call_cli("schedule", file, "--runs", "200")$output, "lay", all = FALSE)
  write("run: {runs: 300, seed: 5}", file, append = TRUE)
  own <- jsonlite::fromJSON(call_cli("schedule", file, "--json")$output)
  expect_equal(own$schedule$finish_P80, schedule_table(simulate(read_study(file), 300, 5, progress = NULL))$finish_P80)
  expect_identical(call_cli("schedule", file, "--percentile", "150")$code, 2L)
  expect_identical(call_cli("schedule", file.path(dir, "r"), "--check")$code, 2L)
  expect_identical(call_cli("schedule", file, "--check")$code, 0L)
  expect_match(call_cli("show", file.path(dir, "r"))$output, "Schedule", all = FALSE)
  write_report(res, file.path(dir, "report.html"))
  page <- paste(readLines(file.path(dir, "report.html")), collapse = "\n")
  for (text in c("Schedule", "Trench, market", "critical")) expect_match(page, text, fixed = TRUE)
  plain <- file.path(dir, "plain")
  write_result(simulate(study() |> add_inputs(x = law_uniform(0, 1)) |> add_outputs(y = x), 20, 1, progress = NULL), plain)
  expect_identical(call_cli("schedule", plain)$code, 2L)
})

test_that("critical paths are drawn with the shares of the table", {
  res <- simulate(study() |> add_tasks(dig = task(law_pert(8, 10, 18), label = "Dig"), order = task(law_pert(5, 9, 20)),
    lay = task(law_pert(6, 8, 14), after = "dig, order")), 300, 11, progress = NULL)
  paths <- as.data.frame(critical_paths(res))
  plot <- plot_critical_paths(res)
  points <- ggplot2::layer_data(plot, 2)
  expect_equal(nrow(points), sum(paths$tasks))
  expect_identical(levels(plot$data$path), format_share(paths$share, 0))
  expect_identical(as.character(unique(plot$data$task[plot$data$always == "on all of them"])), "lay")
  expect_match(plot$labels$title, "there are 2 in all")
  one <- simulate(study() |> add_tasks(a = task(law_uniform(1, 2))), 20, 1, progress = NULL)
  expect_match(plot_critical_paths(one)$labels$title, "One chain")
})
