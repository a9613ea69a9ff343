test_that("a value has one text, which no session and no encoding changes", {
  x <- list(b = 1.5, a = c("x", "a\"b", "[y]", NA, "\u00e9"), n = NULL, f = TRUE, g = c(TRUE, NA), d = as.Date("2027-01-02"),
    q = quote(a + b), w = 3L, none = character(), l = list(1, mean))
  text <- paste0("{order:2,1,7,4,5,3,9,10,8,6;\"a\":character(\"x\",\"a\\\"b\",\"[y]\",NA,\"\u00e9\");\"b\":numeric(0x1.8p+0);",
    "\"d\":Date(0x1.455p+14);\"f\":logical(TRUE);\"g\":logical(TRUE,  NA);\"l\":[numeric(0x1p+0),function];\"n\":null;",
    "\"none\":character();\"q\":\"a + b\";\"w\":integer(3)}")
  expect_identical(canonical_text(x), text)
  x$a <- iconv(x$a, "UTF-8", "latin1")
  expect_identical(canonical_text(x), text)
  expect_identical(canonical_text("\xff"), "character(\"<ff>\")")
  expect_identical(canonical_text(structure(list(1), class = "any")), "[numeric(0x1p+0)]")
  # a name twice has the place of its first; one that is missing comes last
  expect_identical(canonical_text(stats::setNames(list(1, 2, 3, NA), c("b", NA, "a", "b"))),
    "{order:2,4,1,2;\"a\":numeric(0x1.8p+1);\"b\":numeric(0x1p+0);\"b\":logical(NA);NA:numeric(0x1p+1)}")
  expect_identical(canonical_text(stats::setNames(list(), character())), "{order:;:}")
  expect_identical(canonical_text(list(matrix(c(NA, NaN, Inf, -0), 2), matrix(NA), pairlist(k = as.name("x")), factor("b"))),
    "[matrix(NA,NaN,Inf,-0x0p+0),matrix(NA),{order:1;\"k\":\"x\"},factor(b)]")
})
