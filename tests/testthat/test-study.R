test_that("the design's script runs as written and reads as it should", {
  main <- gravity_main()
  expect_s3_class(main, "ensayo_study")
  res <- simulate(main, nsim = 10000, seed = 11)
  expect_snapshot(print(main))
  expect_identical(summary(res)$output, c("velocity", "headloss", "pressure"))
  expect_equal(nrow(percentiles(res, c(10, 50, 90))), 9)
  expect_equal(nrow(pass_rate(res)), 3)
  expect_equal(nrow(drivers(res)), 12)
  expect_equal(chance(res, pressure < 40)$condition, "pressure < 40")
})

test_that("verbs return new studies and leave the old ones", {
  before <- three_normals()
  after <- before |> add_outputs(y = a + b) |> add_correlation(a, b, 0.3) |> add_specs(y > 0) |> fix_inputs(c)
  expect_identical(before, three_normals())
  expect_length(after$outputs, 1)
  expect_fault(add_inputs(3, a = 1), "argument", "must be a study")
  expect_fault(study(3), "argument", "`title`")
})

test_that("base values follow the law's mode, else its mean, and say so", {
  table <- input_table(study() |> add_inputs(
    p = law_pert(28, 34, 48), n = law_normal(3, 1), g = input(law_normal(3, 1),
      base = 2.5), k = 7, m = -law_triangular(1, 2, 4)
  ))
  expect_identical(table$base, c(34, 3, 2.5, 7, -2))
  expect_identical(table$base_rule, c("mode", "mean", "given", "constant", "mode"))
})

test_that("inputs come bare, in lists, from tables and with spliced names", {
  by_hand <- study() |> add_inputs(a = law_normal(0, 1), b = input(law_pert(1, 2, 4), unit = "m"), k = 3)
  laws <- list(a = law_normal(0, 1), b = input(law_pert(1, 2, 4), unit = "m"), k = 3)
  name <- "a"
  expect_identical(study() |> add_inputs(laws), by_hand)
  expect_identical(study() |> add_inputs(!!!laws), by_hand)
  expect_identical(study() |> add_inputs(!!name := law_normal(0, 1), b = laws$b) |> add_inputs(k = 3), by_hand)
  table <- data.frame(name = c("a", "b", "k"), law = c("normal", "pert", "constant"), mean = c(0, NA, NA),
    sd = c(1, NA, NA),
    min = c(NA, 1, NA), mode = c(NA, 2, NA), max = c(NA, 4, NA), value = c(NA, NA, 3), unit = c(NA, "m", NA))
  expect_identical(study() |> add_inputs(table), by_hand)
  expect_identical(add_inputs(by_hand), by_hand)
  expect_fault(study() |> add_inputs(list(3)), "name", "needs a name")
  expect_fault(study() |> add_inputs(table[-1]), "argument", "column `name`")
  expect_fault(study() |> add_inputs(transform(table, law = "norml")), "file", "normal")
})

test_that("names are checked and normalised", {
  s <- three_normals()
  expect_fault(add_inputs(s, a = 1), "name", "`a` is used twice", "replace_inputs()")
  expect_fault(study() |> add_inputs(x = 1, x = 2), "name", "`x` is used twice")
  expect_fault(add_outputs(s, a = b), "name", "used twice")
  expect_fault(add_inputs(s, law_normal(0, 1)), "name", "needs a name")
  for (name in c("pi", "TRUE", "Inf", "if", "run", "replicate", "step", "failed")) {
    expect_fault(add_inputs(s, !!name := 1), "name", name)
    expect_fault(add_outputs(s, !!name := a), "name", name)
  }
  # one spelling of an accented name, whichever way it was typed
  composed <- "\u00e9paisseur"
  decomposed <- "e\u0301paisseur"
  s <- study() |> add_inputs(!!decomposed := law_normal(0, 1))
  expect_identical(names(s$inputs), composed)
  s <- add_outputs(s, y = !!as.symbol(decomposed) * 2)
  expect_identical(s$outputs$y$formula$uses, composed)
  expect_silent(study() |> add_inputs(`peak demand` = 1, length = 2, T = 3, y = 4))
})

test_that("inputs are replaced, fixed, renamed and removed", {
  s <- gravity_main()
  r <- replace_inputs(s, demand = law_normal(36, 2))
  expect_identical(r$inputs$demand$unit, "L/s")
  expect_identical(r$inputs$demand$base, 36)
  expect_identical(replace_inputs(s, demand = input(law_normal(36, 2)))$inputs$demand$unit, NULL)
  kept <- study() |> add_inputs(x = input(law_normal(0, 1), base = 2)) |> replace_inputs(x = law_normal(5, 1))
  expect_identical(kept$inputs$x$base, 2)
  expect_fault(replace_inputs(s, demnd = 3), "name", "Did you mean `demand`?")
  expect_fault(replace_inputs(s, demand = 3), "correlation", "fix_inputs(demand = ...)")
  expect_equal(quietly(fix_inputs(s, demand = 36))$base$inputs$demand, 36)
  expect_equal(quietly(fix_inputs(s, demand))$base$inputs$demand, 34)
  expect_equal(nrow(correlations(quietly(fix_inputs(s, "demand")))), 0)
  expect_fault(fix_inputs(s, dmand), "name", "`demand`")
  expect_fault(fix_inputs(s, demand = "a"), "argument", "`demand`")
  renamed <- rename_inputs(s, flow = demand)
  expect_identical(renamed$outputs$velocity$formula$text, "flow/1000/(pi * diameter^2/4)")
  expect_identical(quietly(renamed)$outputs, quietly(s)$outputs)
  expect_fault(rename_inputs(s, pi = demand), "name", "`pi`")
  expect_fault(remove_inputs(s, demand), "name", "used by `velocity`")
  spare <- add_inputs(s, spare = law_normal(0, 1)) |> add_correlation(spare, spring, 0.2)
  expect_identical(remove_inputs(spare, spare), s)
  # a new input under a freed name gets a stream of its own
  again <- rename_inputs(s, flow = demand) |> add_inputs(demand = law_normal(0, 1))
  expect_false(again$inputs$demand$stream == again$inputs$flow$stream)
})

test_that("correlations are checked", {
  s <- three_normals() |> add_inputs(k = 3)
  expect_fault(add_correlation(s, a, b, 1.2), "argument", "from -1 to 1", "1.2")
  expect_fault(add_correlation(s, a, bb, 0.2), "name", "bb")
  expect_fault(add_correlation(s, a, k, 0.2), "correlation", "`k` must vary")
  expect_fault(add_correlation(s, a, a, 0.2), "correlation", "twice")
  one <- add_correlation(s, "a", b, 0.2)
  expect_fault(add_correlation(one, b, a, 0.3), "correlation", "Theirs is 0.2", "replace = TRUE")
  expect_equal(add_correlation(one, b, a, 0.3, replace = TRUE)$correlations$r, 0.3)
  expect_equal(nrow(add_correlation(one, b, a, 0, replace = TRUE)$correlations), 0)
  impossible <- s |> add_correlation(a, b, 0.9) |> add_correlation(b, c, 0.9)
  expect_fault(add_correlation(impossible, a, c, -0.9), "correlation", "`a`, `b` and `c`", "smallest eigenvalue")
  expect_fault(impossible |> add_outputs(y = a) |> quietly(), "correlation", "Pairs that are not given")
  expect_silent(impossible |> add_correlation(a, c, 0.9))
  m <- matrix(c(1, 0.9, -0.9, 0.9, 1, 0.9, -0.9, 0.9, 1), 3, dimnames = rep(list(c("a", "b", "c")), 2))
  expect_fault(add_correlation(s, m), "correlation", "eigenvalue")
  m[m < 0] <- 0.9
  expect_equal(correlation_matrix(add_correlation(s, m), c("a", "b", "c")), m)
  expect_fault(add_correlation(s, unname(m)), "argument", "names on both sides")
  m[1, 2] <- 0.1
  expect_fault(add_correlation(s, m), "argument", "symmetric")
})

test_that("specs are conditions and say so when they are not", {
  s <- three_normals() |> add_outputs(y = a + b)
  expect_fault(add_specs(s, y = 38), "argument", "y == 38", "y >= 38")
  expect_fault(add_specs(s, y + 1), "argument", "TRUE or FALSE")
  expect_fault(add_specs(s, yy > 1), "name", "Did you mean `y`?")
  expect_fault(add_specs(s, y > 1, y > 1), "name", "used twice")
  s <- add_specs(s, high = y >= 1, y < 3 & (-2 <= y), a > 0 || b > 0)
  expect_named(s$specs, c("high", "y < 3 & (-2 <= y)", "a > 0 || b > 0"))
  expect_equal(spec_limits(s, "y"), data.frame(spec = c("high", rep("y < 3 & (-2 <= y)", 2)),
    operator = c(">=", "<", ">="), limit = c(1, 3, -2)))
})

test_that("a study that cannot be simulated says why", {
  expect_fault(simulate(study(), 10), "model", "at least one input")
  expect_fault(simulate(three_normals(), 10), "model", "at least one output")
})

test_that("a graph of many outputs is walked once", {
  # each uses the two before it: paths double with every second one
  formulas <- lapply(seq_len(60), function(i) {
    if (i < 3) quote(a + b) else str2lang(sprintf("y%d / 2 + y%d / 3", i - 1, i - 2))
  })
  s <- three_normals() |> add_outputs(!!!stats::setNames(lapply(formulas, rlang::new_quosure), paste0("y", 1:60)))
  res <- quietly(s, 50)
  expect_setequal(drivers(res, outputs = y60)$input[1:2], c("a", "b"))
  expect_match(drivers(res, outputs = y60)$remark[3], "does not enter")
  expect_identical(reach_of(s)("y60"), c("a", "b"))
  expect_identical(reach_of(s, c("y29", "y30"))("y60"), c("y29", "y30"))
  expect_identical(sum(outputs_that_vary(s)), 60L)
  expect_identical(sum(outputs_that_vary(fix_inputs(s, a = 1, b = 1))), 0L)
  backwards <- do.call(add_outputs, c(list(three_normals()), lapply(rev(stats::setNames(formulas, paste0("y", 1:60))),
    rlang::new_quosure)))
  expect_identical(output_order(backwards$outputs)[c(1, 2, 60)], c("y2", "y1", "y60"))
})

test_that("studies of thousands of quantities have a hash", {
  names <- sprintf("quantity_with_a_long_name_%d", 1:2000)
  s <- add_inputs(study("Many"), stats::setNames(rep(list(law_normal(0, 1)), 2000), names))
  expect_match(study_hash(s), "^[0-9a-f]{32}$")
  expect_false(study_hash(s) == study_hash(replace_inputs(s, quantity_with_a_long_name_7 = 1)))
})
