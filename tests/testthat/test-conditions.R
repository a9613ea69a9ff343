test_that("the nearest name is a slip of the hand, not any name", {
  expect_identical(nearest_name("demnd", c("demand", "friction")), "demand")
  expect_identical(nearest_name("DEMAND", c("demand")), "demand")
  expect_null(nearest_name("b", c("a", "c")))
  expect_null(nearest_name("spring", c("demand", "friction")))
  expect_null(nearest_name("x", character()))
})

test_that("errors carry fields and restate themselves with a place", {
  error <- expect_error(stop_ensayo("name", "This.", "That.", "Mend.", name = "x"), class = "ensayo_error_name")
  expect_identical(error$name, "x")
  again <- expect_error(stop_restated(error, "line 3", line = 3), class = "ensayo_error_name")
  expect_match(conditionMessage(again), "line 3: This.", fixed = TRUE)
  expect_match(conditionMessage(again), "Mend.", fixed = TRUE)
  expect_identical(again[c("name", "line")], list(name = "x", line = 3))
})
