# Figures of events and costs: what they draw, and titles that are true.

renewal <- function(n = 2000) {
  tree <- data.frame(code = c("1", "1.1", "1.2", "2"), label = c("Pipes", "Main", "Valves", "Trench"),
    amount = c(NA, "pert(370, 410, 520)", "pert(20, 24, 40)", "pert(540, 620, 900)"))
  study("Renewal") |> add_costs(tree, .currency = "kEUR") |>
    add_events(rock = event(0.3, law_pert(20, 50, 120), unit = "kEUR", label = "Rock", response = response(5, probability = 0.1)),
      steel = event(0.2, law_uniform(-30, -10), unit = "kEUR", label = "Steel gets cheaper"), never = event(0, 9, unit = "kEUR")) |>
    add_outputs(total = output(costs + sum(events) + sum(responses), unit = "kEUR", label = "Cost")) |>
    simulate(n, seed = 11, progress = NULL)
}

test_that("the curves of a split meet the percentile that its title speaks of", {
  res <- renewal()
  data <- split_plot_data(res, "total")
  expect_identical(total_at_risk(res), "total")
  expect_equal(data$marks$value, split_total(res, total)$P80[2:4])
  expect_equal(tail(data$curves$x[data$curves$part == levels(data$curves$part)[3]], 1), percentile_values(values_of(res, "total"), 99.8))
  gap <- diff(data$marks$value[c(1, 3)])
  expect_match(data$title, sprintf("Events put %s kEUR on the P80 of Cost", format_decimals(gap, output_decimals(res, "total"))))
  expect_no_warning(ggplot2::ggplotGrob(plot_split(res)))
})

test_that("events are drawn where they happen, on lines of the same addition to the mean, and labels keep apart", {
  data <- events_plot_data(renewal(), 25)
  expect_identical(data$rows$event, c("rock", "steel"))
  expect_identical(data$rows$sign, c("costs", "saves"))
  expect_equal(data$lines$x * data$lines$y, data$lines$level)
  expect_match(data$title, "Rock adds most to the mean")
  expect_silent(ggplot2::ggplotGrob(plot_events(renewal())))
  crowd <- data.frame(happens = rep(0.2, 30), size = seq(50, 52, length.out = 30), label = sprintf(" event number %d", 1:30))
  placed <- with_label_places(crowd, 0.5, c(1, 1000))
  named <- placed[nzchar(placed$label), ]
  expect_identical(named$label[1], crowd$label[1])
  expect_gt(nrow(named), 8)
  # on each side they keep apart, and near their own dots
  for (side in 0:1) expect_true(all(abs(diff(sort(log10(named$label_y[named$side == side]) / 3))) > 0.033))
  expect_lt(max(abs(log10(named$label_y / named$size) / 3)), 0.11)
  expect_true(all(named$label_y[1:2] == named$size[1:2]))
})

test_that("events are drawn however few, rare or alike they are", {
  plain <- function(..., nsim = 2000) simulate(study() |> add_inputs(x = law_normal(100, 5)) |> add_events(...) |>
    add_outputs(total = output(x + sum(events), unit = "kEUR")), nsim, 1)
  for (res in list(plain(burst = event(0.3, 5)), plain(burst = event(1, 5), fire = event(0, law_pert(1, 2, 4))),
    plain(burst = event(0.001, 50), fire = event(0.0005, 50)), plain(burst = event(0.5, law_pert(1, 2, 4)), nsim = 3),
    plain(burst = event(0.2, law_pert(1, 2, 4)), nsim = 1))) {
    for (figure in list(plot_events(res), plot_split(res), plot_gains(res))) expect_silent(ggplot2::ggplotGrob(figure))
    file <- withr::local_tempfile(fileext = ".html")
    write_report(res, file)
    expect_gt(file.size(file), 1e4)
  }
  rare <- ggplot2::ggplot_build(plot_events(plain(burst = event(0.001, 50))))$layout$panel_params[[1]]$x
  expect_identical(anyDuplicated(rare$get_labels()), 0L)
  many <- stats::setNames(lapply(1:100, function(i) event(i / 200, law_pert(1, i, 3 * i))), paste0("e", 1:100))
  figure <- plot_events(plain(!!!many))
  expect_match(figure$labels$subtitle, "Named: [0-9]+ of 100")
  expect_silent(ggplot2::ggplotGrob(figure))
  expect_match(format(plain(burst = event(0.3, 5))), "does not hold the event that is less likely than not", all = FALSE)
})

test_that("gains, trees, allotments and bridges draw their tables' figures", {
  res <- renewal()
  gains <- removal_gain(res, total)
  data <- gains_plot_data(res, "total", gains, 20)
  expect_equal(data$rows$gain, gains$gain)
  expect_equal(data$rows$high - data$rows$low, 2 * half_interval(gains$error, res))
  expect_equal(data$rows$net[1], gains$gain[1] - gains$cost[1])
  costs <- costs_plot_data(res, res$study$costs$costs, 3, 60)
  table <- cost_table(res)
  expect_equal(costs$rows$mean[1:5], table$mean)
  expect_match(costs$title, "Trench is the most uncertain item")
  parts <- allotments_plot_data(res, "total", 3)
  whole <- allotments(res, total)
  expect_equal(sum(parts$rows$allotment), whole$allotment[1], tolerance = 1e-9)
  expect_match(as.character(parts$rows$label[4]), "others")
  later <- simulate(close_events(res$study, rock = 80), 2000, 11, progress = NULL)
  bridge <- bridge_results(res, later, total)
  drawn <- bridge_plot_data(bridge, 15)
  expect_equal(drawn$rows$value[c(1, nrow(drawn$rows))], bridge$value[c(1, nrow(bridge))])
  expect_equal(drawn$rows$top[2] - drawn$rows$bottom[2], abs(bridge$change[2]))
  for (figure in list(plot_gains(res), plot_costs(res), plot_allotments(res, most = 3), plot_bridge(bridge))) expect_no_warning(ggplot2::ggplotGrob(figure))
  expect_fault(plot_bridge(gains), "argument", "bridge_results")
  expect_fault(plot_costs(simulate(study() |> add_inputs(a = law_uniform(0, 1)) |> add_outputs(b = a), 10, 1, progress = NULL)), "argument", "costs")
})

report_html <- function(res) {
  file <- withr::local_tempfile(fileext = ".html")
  write_report(res, file)
  readLines(file, warn = FALSE)
}

test_that("the command line and the report tell of events and costs what the tables say", {
  dir <- withr::local_tempdir()
  res <- renewal()
  write_result(res, file.path(dir, "r"))
  said <- call_cli("events", file.path(dir, "r"), "--target", "total <= 1150", "--of", "events,responses")
  expect_identical(said$code, 0L)
  expect_match(said$output, "ranges alone", all = FALSE)
  json <- jsonlite::fromJSON(call_cli("events", file.path(dir, "r"), "--json")$output)
  expect_equal(json$gains$gain, removal_gain(res, total, of = "events")$gain)
  costs <- call_cli("costs", file.path(dir, "r"), "--reserve", "100")
  expect_match(costs$output, "chance that it is enough", all = FALSE)
  expect_equal(jsonlite::fromJSON(call_cli("costs", file.path(dir, "r"), "--json")$output)$costs$P80, cost_table(res)$P80)
  expect_identical(call_cli("events", file.path(dir, "r"), "--of", "all")$code, 2L)
  expect_match(call_cli("show", file.path(dir, "r"))$output, "worth to be rid of", all = FALSE)
  expect_match(format(res), "The base case holds none of the 3 events", all = FALSE)
  page <- paste(report_html(res), collapse = "\n")
  for (text in c("What it is worth to be rid of an event", "Allotments", "Rock")) expect_match(page, text, fixed = TRUE)
})
