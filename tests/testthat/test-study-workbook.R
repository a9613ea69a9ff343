# Every supported function, and how workbooks stand in studies.

test_that("functions and operators give what the judge gives, in both formats", {
  office <- read_workbook_file(workbook_path("functions", "xlsx"))
  document <- read_workbook_file(workbook_path("functions", "ods"))
  # the judge takes TRUE for 1 in files of either kind; ISO/IEC 29500 does so in the other only
  logical <- c("=TRUE()>\"z\"", "=1=TRUE()", "=SUM(Data!A1:A10,5,\"6\")", "=SUM(Data!A1:B10)", "=COUNT(Data!A1:B10)", "=CONCATENATE(\"a\",1,TRUE())",
    "=\"a\"&TRUE()", "=TRUE()&1", "=AVERAGE(Data!B1:B9,1)", "=ISNUMBER(TRUE())", "=SUMPRODUCT(Data!B1:B9,Data!C1:C9)")
  # and writes large and small numbers in a way of its own
  numbers <- c("=1E+021&\"\"", "=0.0000000001&\"\"")
  expect_setequal(differing_cases(office), c(logical, numbers))
  expect_setequal(differing_cases(document), numbers)
  tried <- unique(unlist(regmatches(cases <- cell_formulas(office, which(office$cells$formula > 0)), gregexpr("[A-Z][A-Z0-9.]*(?=\\()", toupper(cases), perl = TRUE))))
  # those that the judge does not know have tests of their own
  expect_setequal(setdiff(workbook_functions(), c(tried, "XLOOKUP", "XMATCH", "SHEET", "SHEETS", "LET")), character())
})

test_that("functions that are newer than the judge give what the standard's text says", {
  cells <- c("XLOOKUP(25,{10,20,30},{1,2,3},\"none\")" = "none", "XLOOKUP(25,{10,20,30},{1,2,3},\"none\",-1)" = 2, "XLOOKUP(25,{10,20,30},{1,2,3},,1)" = 3,
    "XLOOKUP(\"b*\",{\"ab\",\"bc\",\"bd\"},{1,2,3},,2,-1)" = 3, "XMATCH(20,{10,20,30})" = 2, "XMATCH(25,{10,20,30},1)" = 3, "SHEETS()" = 1, "SHEET()" = 1,
    "-2^2" = 4, "2^3^2" = 64, "0.1+0.2-0.3" = 0, "SUM({1,2;3,4}*2)" = 20, "SUM(ABS({-1,2}))" = 3)
  for (formula in names(cells)) expect_equal(formula_value(formula), unname(type.convert(cells[[formula]], as.is = TRUE)), label = formula)
  expect_identical(formula_value("0^0"), "#NUM!")
  expect_identical(formula_value("(-8)^(1/3)"), "#NUM!")
  expect_identical(formula_value("1/0"), "#DIV/0!")
  # far tails and large means
  expect_equal(formula_value("NORM.S.INV(1E-300)"), stats::qnorm(1e-300), tolerance = 1e-14)
  expect_equal(formula_value("NORM.S.DIST(-37,TRUE)"), stats::pnorm(-37), tolerance = 1e-9)
  expect_equal(formula_value("STDEV(1E9+1,1E9+2,1E9+3)"), 1, tolerance = 1e-12)
  expect_equal(formula_value("SUM(1E16,1,-1E16)"), 1)
  expect_equal(formula_value("T.INV(1E-10,5)"), stats::qt(1e-10, 5), tolerance = 1e-12)
})

test_that("tables whose columns formulas call by their names are calculated as by the judge", {
  file <- workbook_path("tables", "xlsx")
  book <- read_workbook_file(file)
  expect_identical(differing_cases(book), character())
  expect_true("Items!$E$3:$E$6" %in% gsub(".*\\((.*)\\)", "\\1", book$names$formula))
  expect_identical(workbook_cells(file, "Items!E5")$formula, "=Items!$C5*Items!$D5")
  priced <- study("Priced") |> add_inputs(length = law_uniform(1000, 1500)) |> add_workbook(file, inputs = c(length = "Items!D3"), outputs = c(total = "Items!E7", up = "Cases!A2"))
  runs <- as.data.frame(simulate(priced, nsim = 40, seed = 1))
  expect_equal(runs$total, 62 * runs$length + 6560 + 10600 + 29920)
  expect_equal(runs$up, runs$total * 1.07)
})

test_that("LET gives names to what is calculated once", {
  expect_identical(formula_value("_xlfn.LET(_xlpm.x,5,_xlpm.y,_xlpm.x*2,_xlpm.y+_xlpm.x)"), 15)
  # the inner name hides the outer one, as far as it goes
  expect_identical(formula_value("LET(x,1,LET(x,2,x)+x)"), 3)
  expect_identical(formula_value("LET(x,3,x)+LET(x,4,x)"), 7)
  expect_identical(formula_value("IF(LET(x,1,x>0),SUM({1,2}*LET(k,10,k)),8)"), 30)
  expect_identical(formula_fault("LET(x,1,x)+x"), "name: x")
  expect_identical(formula_fault("LET(x,5)"), "arguments: LET")
  expect_identical(formula_fault("LET(5,x,1)"), "fault: a name is missing in LET")
  # a range has its name, too, and an input behind it is seen
  book <- book_of("2", "3", "LET(r,A1:A2,n,ROWS(r),SUM(r)/n)", value = c(2, 3, 2.5))
  made <- compiled_cells(book, 1L, 3L)
  expect_identical(cpp_run_workbook(made$program, list(c(5, 7)), 2, 1L)[[1]], c(4, 5))
})

test_that("formulas that cannot be read are named with what is wrong", {
  for (case in list(c("1+", "operand is missing"), c("(1", "parenthesis without an end"), c("1)", "not opened"), c("SUM(1 2)", "operator is missing"),
      c("{1,2;3}", "differ in length"), c("\"a", "text without an end"), c("#WHAT!", "error value"), c("1 ? 2", "character"), c("SUM(,", "operand|parenthesis"))) {
    expect_match(formula_fault(case[1]), case[2], label = case[1])
  }
  # however long or deep
  expect_identical(formula_value(paste0(strrep("(", 5000), "1", strrep(")", 5000))), 1)
  expect_identical(formula_value(paste0(strrep("1+", 3000), "1")), 3001)
  expect_identical(formula_value(strrep("-", 4000) |> paste0("1")), 1)
})

tariff_study <- function(...) study("Tariff") |>
  add_inputs(growth = law_triangular(0.002, 0.008, 0.02), price = law_pert(0.12, 0.17, 0.3)) |>
  add_workbook(workbook_path("tariff", "xlsx"), inputs = c(growth = "growth", price = "Inputs!B9", rate = "loan_rate"),
    outputs = list(npv = output("Result!B3", unit = "EUR", label = "Net present value"), cash = "Plan!B15:Q15", begins = "Plan!C2"), ...)

test_that("names, labels, series and kinds come from the cells", {
  expect_error(tariff_study(), "The output `begins` must hang on an input", class = "ensayo_error_model")
  tariff <- study("Tariff") |> add_workbook(workbook_path("tariff", "ods"), inputs = c(first = "Inputs!B24", rate = "loan_rate"),
    outputs = list(npv = output("Result!B3", unit = "EUR"), cash = "Plan!B15:Q15", begins = "Plan!C2", kept = "Result!B8"))
  expect_identical(tariff$inputs$rate$label, "Rate of the loan")
  expect_identical(unname(vapply(tariff$outputs, function(output) output$kind %||% "", "")), c("", "", "date", ""))
  expect_identical(tariff$outputs$cash$steps, 1:16)
  base <- base_case_of(tariff)$outputs
  expect_equal(base$npv, 636602.2386, tolerance = 1e-9)
  expect_identical(as.Date(base$begins, origin = "1970-01-01"), as.Date("2027-01-01"))
})

test_that("a study of a workbook is written and read again, with the same runs", {
  tariff <- study("Tariff") |> add_inputs(growth = law_triangular(0.002, 0.008, 0.02)) |>
    add_workbook(workbook_path("tariff", "xlsx"), inputs = c(growth = "growth", rate = "loan_rate"), outputs = c(npv = "Result!B3", kept = "Result!B8"))
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(tariff, file)
  again <- read_study(file)
  expect_identical(as.data.frame(simulate(again, nsim = 300, seed = 2)), as.data.frame(simulate(tariff, nsim = 300, seed = 2)))
  expect_identical(study_hash(again), study_hash(tariff))
  # by its name, beside the file
  folder <- withr::local_tempdir()
  file.copy(workbook_path("tariff", "xlsx"), folder)
  writeLines(c("ensayo: 1", "inputs:", "  growth: {law: triangular, min: 0.002, mode: 0.008, max: 0.02}", "models:", "  plan:", "    workbook: tariff.xlsx",
    "    inputs: {growth: growth, rate: loan_rate}", "    outputs:", "      npv: {cell: \"Result!B3\", unit: EUR}", "      kept: \"Result!B8\""), file.path(folder, "s.yml"))
  named <- read_study(file.path(folder, "s.yml"))
  expect_identical(as.data.frame(simulate(named, nsim = 300, seed = 2))$npv, as.data.frame(simulate(tariff, nsim = 300, seed = 2))$npv)
  # and cells that do not fit together are no workbook
  lines <- readLines(file)
  lines[grep("^      row: i ", lines)[1]] <- "      row: i 0 0"
  writeLines(lines, file)
  expect_error(read_study(file), class = "ensayo_error_file")
})

test_that("a workbook takes what formulas of the study give, also from a file, and no series", {
  tariff <- study("Tariff") |> add_inputs(low = law_uniform(0, 0.01)) |> add_outputs(growth = low + 0.005) |>
    add_workbook(workbook_path("tariff", "xlsx"), inputs = c(growth = "growth"), outputs = c(npv = "Result!B3"), name = "plan")
  folder <- withr::local_tempdir()
  file.copy(workbook_path("tariff", "xlsx"), folder)
  writeLines(c("ensayo: 1", "inputs:", "  low: {law: uniform, min: 0, max: 0.01}", "outputs:", "  growth: low + 0.005", "models:", "  plan:", "    workbook: tariff.xlsx",
    "    inputs: {growth: growth}", "    outputs: {npv: \"Result!B3\"}"), file.path(folder, "s.yml"))
  expect_identical(as.data.frame(simulate(read_study(file.path(folder, "s.yml")), nsim = 100, seed = 2))$npv, as.data.frame(simulate(tariff, nsim = 100, seed = 2))$npv)
  stepped <- study("S") |> add_inputs(rain = input(law_normal(0, 1), steps = 1:3))
  expect_error(add_workbook(stepped, workbook_path("tariff", "xlsx"), inputs = c(rain = "growth"), outputs = c(npv = "Result!B3")), "is a series", class = "ensayo_error_name")
})

test_that("a saved value that is off is found, however large other numbers are", {
  # A2 = A1 / 3 beside 1e15, from which A4 hangs
  wrong <- function(value) tryCatch({
    check_base_cells(book_of("0.3", "A1/3", "1E15", "A2+A3-A3", value = c(NA, value, NA, 0)), 1, c(2, 4))
    "same"
  }, ensayo_error = function(e) e$cell)
  expect_identical(wrong(0.1), "same")
  expect_identical(wrong(0.1 + 1e-9), "Model!A2")
  # and of what cancels, no more is asked than its operands have digits
  expect_identical(tryCatch({
    check_base_cells(book_of("3E6", "A1*1.1", "A2-3.3E6", value = c(NA, 3.3e6 + 4e-10, 0)), 1, 3)
    "same"
  }, ensayo_error = function(e) e$cell), "same")
})

test_that("the review says what is idle, apart from the workbook, or could not be compared", {
  tariff <- study("Tariff") |> add_inputs(growth = law_triangular(0.002, 0.01, 0.02), trench = law_pert(80, 95, 130)) |>
    add_workbook(workbook_path("tariff", "xlsx"), inputs = c(growth = "growth", trench = "Result!B14"), outputs = c(npv = "Result!B3"))
  found <- review(tariff)
  expect_true(any(found$about == "trench" & grepl("No result", found$seen)))
  expect_true(any(found$about == "growth" & grepl("0.01, and the workbook's cell has 0.008", found$seen)))
})

test_that("cells and names that do not fit are said", {
  file <- workbook_path("tariff", "xlsx")
  with_cells <- function(inputs, outputs) study("T") |> add_workbook(file, inputs, outputs)
  expect_error(with_cells(c(a = "Inputs!B99"), c(y = "Result!B3")), "B99 is empty", class = "ensayo_error_name")
  expect_error(with_cells(c(a = "grwth"), c(y = "Result!B3")), "Did you mean `growth`", class = "ensayo_error_name")
  expect_error(with_cells(c(a = "growth", b = "Inputs!B4"), c(y = "Result!B3")), "are both Inputs!B4", class = "ensayo_error_name")
  expect_error(with_cells(c(a = "Inputs!A4"), c(y = "Result!B3")), "holds `Growth", class = "ensayo_error_model")
  expect_error(with_cells(c(a = "growth"), c(y = "Result!B9")), "holds a text", class = "ensayo_error_model")
  expect_error(with_cells(c(a = "growth"), c(y = "Plan!B3:D5")), "is a block", class = "ensayo_error_name")
  expect_error(with_cells("growth", c(y = "Result!B3")), "named texts", class = "ensayo_error_argument")
  expect_error(with_cells(c(a = "Inputs!B3:B4"), c(y = "Result!B3")), "one cell", class = "ensayo_error_name")
})

test_that("what cannot be calculated is refused with the cell, and what to do", {
  refused <- function(...) tryCatch(check_base_cells(book_of(...), 1, 2), ensayo_error = function(e) paste(conditionMessage(e), collapse = " "))
  expect_match(refused("1", "A1+WEBSERVICE(A1)"), "Model!A2.*WEBSERVICE\\(\\) is not among")
  expect_match(refused("1", "A1+RAND()"), "draws a random number")
  expect_match(refused("1", "A3*A1", "NORM.INV(RAND(),10,2)"), "Model!A3.*looks like `normal\\(mean = 10, sd = 2\\)`")
  expect_match(refused("1", "A1+A3", "A2"), "circular")
  expect_match(refused("1", "OFFSET(A1,A1,0)"), "circular")
  expect_match(refused("1", "A1+[2]Other!B3"), "another workbook")
  expect_match(refused("1", "A1+Costs[Total]"), "table by their names")
  expect_match(refused("1", "A1+unknown"), "does not define")
  expect_match(refused("1", "A1+Lost!B2"), "not there")
  expect_match(refused("1", "A1+1", value = 99), "The workbook has 99, and its formula `=A1\\+1` gives 2 here")
  # names that stand for ever more names
  laughs <- book_of("1", "A1+n_0")
  laughs$names <- data.frame(name = paste0("n_", 0:40), sheet = 0L, formula = c(sprintf("n_%d+n_%d", 1:40, 1:40), "Model!A1"))
  expect_match(paste(tryCatch(check_base_cells(laughs, 1, 2), ensayo_error = conditionMessage), collapse = " "), "names stand for names")
  expect_length(end_cells(laughs), 1)
  moves <- tryCatch(compiled_cells(book_of("1", "OFFSET(A1,A1,0)", "5"), 1, 2), ensayo_error = conditionMessage)
  expect_match(paste(moves, collapse = " "), "differs from run to run")
  # what hangs on no input keeps the value that the file has
  kept <- check_base_cells(book_of("1", "A1+A3", "WEBSERVICE(\"x\")", value = c(NA, 8, 7)), 1, 2)
  expect_identical(kept$kept$what, "WEBSERVICE")
  expect_equal(kept$values$number[match(2, kept$reached)], 8)
})

test_that("random cells are told the law that they look like", {
  forms <- c("=NORM.INV(RAND(),10,2)" = "normal(mean = 10, sd = 2)", "=10+2*NORMSINV(RAND())" = "normal(mean = 10, sd = 2)",
    "=NORM.S.INV(RAND())*2+10" = "normal(mean = 10, sd = 2)", "=5+RAND()*(9-5)" = "uniform(min = 5, max = 9)", "=(9-5)*RAND()+5" = "uniform(min = 5, max = 9)",
    "=RANDBETWEEN(1,6)" = "integers(min = 1, max = 6)", "=LOGNORM.INV(RAND(),1,0.5)" = "lognormal(meanlog = 1, sdlog = 0.5)",
    "=EXP(NORMINV(RAND(),1,0.5))" = "lognormal(meanlog = 1, sdlog = 0.5)", "=-LN(RAND())*20" = "exponential(mean = 20)",
    "=BETA.INV(RAND(),2,3,10,20)" = "beta(shape1 = 2, shape2 = 3, min = 10, max = 20)", "=GAMMA.INV(RAND(),2,3)" = "gamma(shape = 2, scale = 3)",
    "=IF(RAND()<0.15,1,0)" = "bernoulli(probability = 0.15)", "=100*(-LN(1-RAND()))^(1/2.5)" = "weibull(shape = 2.5, scale = 100)")
  draw <- withr::with_seed(5, stats::runif(200))
  for (form in names(forms)) {
    expect_identical(random_law(form), forms[[form]], label = form)
    # and the law has the quantiles that the formula gives
    if (grepl("RANDBETWEEN|IF", form)) next
    law <- law_from_text(forms[[form]], "here")
    u <- if (grepl("^=-LN\\(RAND", form)) 1 - draw else draw
    given <- vapply(draw, function(p) formula_value(gsub("RAND()", format(p, digits = 17), sub("^=", "", form), fixed = TRUE)), 0)
    expect_equal(given, quantile(law, u), tolerance = 1e-7, label = form)
  }
  expect_null(random_law("=RAND()+RAND()"))
  expect_null(random_law("=5+RAND()*(9-4)"))
})

test_that("candidates are the constants behind results, by how far they move them", {
  found <- workbook_candidates(workbook_path("tariff", "xlsx"), c(interest = "Result!B10"))
  expect_setequal(found$cell, c("Inputs!B13", "Pipes!B4", "Inputs!B15", "Inputs!B16", "Inputs!B17", "Inputs!B18", "Pipes!A4", "Plan!C1", "Plan!D1", "Plan!E1", "Plan!F1",
    "Plan!G1", "Plan!H1", "Plan!I1", "Plan!J1", "Plan!K1", "Plan!L1", "Plan!M1", "Plan!N1"))
  # interest is proportional to what is lent
  expect_equal(found$moves[found$cell == "Inputs!B16"], 0.01, tolerance = 1e-9)
  expect_equal(found$label[found$cell == "Inputs!B17"], "Rate of the loan")
})

test_that("candidates are found where a cell says which other is meant", {
  # A2 picks the cell A1 rows below A3
  book <- book_of("1", "OFFSET(A3,A1,0)*2", "5", "7", "9")
  found <- candidate_table(book, c(result = 2L), 0.01)
  expect_identical(found$cell, "Model!A4")
  expect_equal(found$moves, 0.01)
})

test_that("a sheet in the workbook is a study", {
  described <- read_study(testthat::test_path("..", "workbooks", "described.xlsx"))
  expect_identical(names(described$inputs), c("price", "volume"))
  expect_identical(described$inputs$price$base, 12)
  res <- simulate(described, nsim = 500, seed = 3)
  draws <- as.data.frame(res)
  expect_equal(draws$profit, draws$price * draws$volume - 9500)
  expect_identical(names(described$specs), "profit >= 0")
  expect_error(read_study(workbook_path("tariff", "xlsx")), "sheet that says which", class = "ensayo_error_file")
})
