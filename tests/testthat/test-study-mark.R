known <- c("demand", "zone[1]", "start", "crew")

fill <- function(text, columns, n = length(columns[[1]]), dates = "start") {
  filled_marks(read_marks(text, known, "The template", dates), columns, n, dates)
}

test_that("marks are filled as they say, and everything else stays", {
  expect_identical(fill("a @[demand] b", list(demand = c(1/3, 1e-20)))$texts, c("a 0.3333333333333333 b", "a 1e-20 b"))
  expect_identical(fill("[@[demand %10.3f]]\n", list(demand = 34.5678))$texts, "[    34.568]\n")
  expect_identical(fill("@[demand %-9.2E]|", list(demand = 12345))$texts, "1.23E+04 |")
  expect_identical(fill("@[demand %05d] @[ demand %d ]", list(demand = 3e10 + 0.4))$texts, "30000000000 30000000000")
  expect_identical(fill("@[zone[1]]x", list(`zone[1]` = 5))$texts, "5x")
  expect_identical(fill("@@[demand]@[demand]@@[", list(demand = 2))$texts, "@[demand]2@[")
  expect_identical(fill("@[start] @[start %d.%m.%Y]", list(start = as.double(as.Date("2027-03-01"))))$texts,
    "2027-03-01 01.03.2027")
  expect_identical(fill("@[crew %-6s]|@[crew]", list(crew = "two"))$texts, "two   |two")
  expect_identical(fill("no mark, [x] {y} @ %d\n", list(demand = 1:2), 2)$texts, rep("no mark, [x] {y} @ %d\n", 2))
  expect_identical(read_marks("a\nb @[demand]\n\n@[demand] @@[ \n @[start]", known, "x", "start")$lines, c(2, 4, 5))
})

test_that("a value wider than its mark is lost, not pushed into its neighbour", {
  filled <- fill("@[demand %6.2f]@[demand %8.2f]", list(demand = c(12.345, 12345.6, 123456.7)))
  expect_identical(filled$texts[1], " 12.35   12.35")
  expect_identical(filled$lost, c(NA, rep("`demand` needs more than the 6 characters of its mark", 2)))
})

test_that("wrong marks are told with their line and the nearest name", {
  wrong <- function(text) tryCatch(read_marks(text, known, "The template `case.txt`", "start"), ensayo_error = identity)
  unknown <- wrong("x\n@[demnad]")
  expect_s3_class(unknown, "ensayo_error_name")
  expect_match(conditionMessage(unknown), "line 2.*demand.*@@\\[")
  for (format in c("%s%d", "%n", "%10.3lf", "%*d", "%")) {
    expect_s3_class(wrong(sprintf("@[demand %s]", format)), "ensayo_error_argument")
  }
  expect_s3_class(wrong("@[]"), "ensayo_error_name")
})
