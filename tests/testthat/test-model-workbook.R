# The judge of these numbers is a real spreadsheet program, whose answers stand beside the workbooks.

test_that("workbooks of six trades give the judge's values in 50 runs, in both formats", {
  for (name in c("tariff", "estimate", "schedule", "measurement", "supply", "loans")) {
    runs <- judged_runs(name)
    numbers <- names(Filter(is.numeric, runs$outputs))
    expect_gt(length(numbers), 3)
    for (ending in c("xlsx", "ods")) {
      judged <- judged_study(workbook_path(name, ending), runs, numbers)
      columns <- stats::setNames(as.list(runs$inputs), names(judged$inputs))
      made <- study_evaluator(judged)(columns, seq_len(50))
      for (k in seq_along(numbers)) {
        value <- as.double(made$values[[k]]) + if (identical(judged$outputs[[k]]$kind, "date")) 25569 else 0
        expect_lt(max(abs(value - runs$outputs[[numbers[k]]]) / pmax(1, abs(value))), 1e-9, label = paste(name, ending, numbers[k]))
      }
      expect_identical(nrow(made$failures), 0L)
    }
  }
})

test_that("a workbook that reads like a calculation on paper gives its numbers", {
  file <- workbook_path("tariff", "xlsx")
  tariff <- study("Tariff") |> add_workbook(file, inputs = c(rate = "loan_rate", years = "loan_years"),
    outputs = c(first = "Plan!C12", interest = "Result!B10"))
  made <- study_evaluator(tariff)(list(rate = c(0.03, 0.05), years = c(10, 15)), 1:2)
  loan <- 4200 * (121 + 95) * 0.7
  payment <- loan * c(0.03, 0.05) / (1 - (1 + c(0.03, 0.05))^-c(10, 15))
  expect_equal(made$values$first, payment, tolerance = 1e-12)
  expect_equal(made$values$interest, payment * c(10, 15) - loan, tolerance = 1e-9)
})

test_that("runs are the same on one thread and on two, in blocks and alone", {
  supply <- study("Store") |> add_inputs(demand = law_normal(40, 6), days = law_uniform(1, 5)) |>
    add_workbook(workbook_path("supply", "xlsx"), inputs = c(demand = "Inputs!B1", days = "Inputs!B5"), outputs = c(cost = "Result!B1", empty = "Result!B3"))
  one <- simulate(supply, nsim = 1500, seed = 4, threads = 1)
  two <- simulate(supply, nsim = 1500, seed = 4, threads = 2)
  expect_identical(as.data.frame(one), as.data.frame(two))
  row <- as.data.frame(one)[1300, ]
  alone <- study_evaluator(supply)(as.list(row[c("demand", "days")]), 1300)
  expect_identical(alone$values$cost, row$cost)
})

test_that("an error is a failed run that names the first cell that had it", {
  tariff <- study("Tariff") |>
    add_inputs(diameter = law_uniform(100, 300)) |>
    add_workbook(workbook_path("tariff", "ods"), inputs = c(diameter = "diameter"), outputs = c(npv = "Result!B3", kept = "Result!B8"))
  res <- simulate(tariff, nsim = 400, seed = 1)
  lost <- failures(res)
  expect_setequal(lost$run[lost$output == "npv"], which(as.data.frame(res)$diameter < 150))
  # found first where the price is looked up, not where it ends up
  expect_true(all(lost$reason == "#N/A in Plan!C8" | lost$reason == "#N/A in Plan!B11"))
  expect_true(is.logical(as.data.frame(res)$kept))
})

test_that("categories reach cells as texts, and yes or no as such", {
  # B1: a pipe's make; B2: whether it is lined; the price of each make stands in a list
  book <- book_of("1", "1", "IF(A1=\"clay\",50,IF(A1=\"steel\",120,NA()))+IF(A2,30,0)", value = c(1, 1, 80))
  book$cells$type[1:2] <- c(3L, 2L)
  book$cells$text[1] <- "clay"
  workbook <- structure(list(file = "pipes.xlsx", book = book), class = "ensayo_workbook")
  pipes <- study("Pipes") |>
    add_inputs(make = law_discrete(c("clay", "Steel", "lead"), c(0.5, 0.4, 0.1)), lined = law_bernoulli(0.3)) |>
    add_workbook(workbook, inputs = c(make = "A1", lined = "A2"), outputs = c(price = "A3"), name = "pipes")
  res <- simulate(pipes, nsim = 400, seed = 3)
  runs <- as.data.frame(res)
  want <- c(clay = 50, Steel = 120, lead = NA)[as.character(runs$make)] + 30 * as.double(runs$lined)
  expect_equal(runs$price, unname(want))
  expect_identical(sum(runs$make == "lead"), nrow(failures(res)))
  expect_match(failures(res)$reason[1], "#N/A in Model!A3", fixed = TRUE)
  # the same from a file
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(pipes, file)
  expect_identical(as.data.frame(simulate(read_study(file), nsim = 400, seed = 3))$price, runs$price)
})
