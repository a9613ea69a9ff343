test_that("the page holds everything and needs nothing else", {
  res <- quietly(read_study(demo_file()), 500)
  file <- withr::local_tempfile(fileext = ".html")
  expect_identical(write_report(res, file), file)
  page <- paste(readLines(file, encoding = "UTF-8"), collapse = "\n")
  for (text in c("Does the last tap keep 38 m", "Peak-hour demand", "name=\"viewport\"", "@media print",
    "class=\"law\"", "In short",
    "<code>spring - 12 - headloss</code>", "Seed", provenance(res)$hash, "between: [demand, friction]",
    "Share of variance")) {
    expect_match(page, text, fixed = TRUE)
  }
  expect_length(gregexpr("<figure[ >]", page)[[1]], 7)
  expect_false(grepl("(src|href)=\"(?!data:)", page, perl = TRUE))
  expect_match(page, format_share(pass_rate(res)$pass_rate[1]), fixed = TRUE)
  expect_fault(write_report(res, file, overwrite = FALSE), "file", "must not exist yet")
  expect_fault(write_report(res, "page.txt"), "argument", ".html")
  expect_fault(write_report(3, file), "argument", "result folder")
  expect_fault(write_report(res, file.path(tempdir(), "none", "page.html")), "file", "writable")
})

test_that("texts of the user cannot become markup, and failures are told", {
  s <- study("<script>alert(1)</script>") |>
    add_inputs(a = input(law_normal(0, 1), label = "A < B & C", note = "<b>bold</b>")) |> add_outputs(y = sqrt(a))
  file <- withr::local_tempfile(fileext = ".html")
  write_report(quietly(s, 100), file)
  page <- paste(readLines(file, encoding = "UTF-8"), collapse = "\n")
  # the page's own data and script, and no more
  expect_length(gregexpr("<script", page)[[1]], 2)
  expect_no_match(page, "<script>alert", fixed = TRUE)
  expect_no_match(page, "<b>bold", fixed = TRUE)
  expect_match(page, "A &lt; B &amp; C", fixed = TRUE)
  expect_match(page, "Failed runs", fixed = TRUE)
})

test_that("sentences say what the runs show", {
  res <- quietly(read_study(demo_file()), 10000, seed = 11)
  words <- c(output_sentences(res, "pressure"), spec_sentences(res), output_words(res, "pressure"))
  expect_match(words[1], "gives 40.87 m for pressure at the last tap", fixed = TRUE)
  expect_match(words[3], "P80, the planning percentile, is 42.4", fixed = TRUE)
  expect_match(words[4],
    sprintf("meets \u201cpressure >= 38\u201d; %s of runs do", format_share(pass_rate(res)$pass_rate[1])), fixed = TRUE)
  expect_match(words[5], "all runs do", fixed = TRUE)
  expect_match(words[6], "comes from peak-hour demand \\([0-9]+ %, lowers it\\) and friction factor")
})

test_that("the page tells reserves, parts, pass rates by bands and what drives outputs", {
  s <- study("Renewal", question = "What must be set aside?") |>
    add_inputs(pipe = input(law_pert(370, 410, 520), label = "Pipe"), trench = law_pert(540, 620, 900),
      days = law_pert(40, 60, 110)) |>
    add_outputs(total = output(pipe + trench, unit = "kEUR", label = "Total cost"),
      finish = date("2027-03-01") + days) |>
    add_specs(in_budget = total <= 1150, in_time = finish <= date("2027-05-20")) |>
    add_readings(late = finish > date("2027-05-10"), .planning = 90)
  res <- quietly(s, 500, 3)
  page <- withr::local_tempfile(fileext = ".html")
  write_report(res, page)
  text <- paste(readLines(page, encoding = "UTF-8"), collapse = "\n")
  for (words in c("What to hold in reserve, P90", "Parts and totals", "sum of parts less the total", "Chances", "late",
    "pass in its lowest band", "2027-0", "P90: the value not exceeded in 90",
    "Most of the spread of total cost")) {
    expect_match(text, words, fixed = TRUE)
  }
  reserve <- contingency(res, 90, total)
  expect_match(text, format_decimals(reserve$contingency, output_decimals(res, "total")), fixed = TRUE)
  expect_false(grepl("PRELIMINARY", text))
  write_report(given(res, days > 60), page, percentiles = c(20, 80))
  text <- paste(readLines(page, encoding = "UTF-8"), collapse = "\n")
  expect_match(text, "given days &gt; 60", fixed = TRUE)
  expect_match(text, "P20", fixed = TRUE)
})

test_that("vectors are shortened, and what is stretched is not", {
  expect_identical(shortened_vectors("<path d=\"M 1.23456 2.5 L 10.001234 0.999\"/>\n<use transform=\"matrix(0.001234,0,0,1)\"/>"),
    "<path d=\"M 1.23 2.5 L 10.00 0.99\"/>\n<use transform=\"matrix(0.001234,0,0,1)\"/>")
})
