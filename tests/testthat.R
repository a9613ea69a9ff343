library(testthat)
library(ensayo)

# The archive's machines have a minute: there the files that are quick run, which try each room once. All run with NOT_CRAN=true.
quick <- c("check", "conditions", "format-rounded", "formula-date", "formula-family", "formula-lookup", "law-text", "law-around", "law-measured",
  "draw-inputs", "study-output", "study-line", "study-part", "reading-given", "reading-percentile", "table-csv", "text-workbook", "print")
everything <- identical(Sys.getenv("NOT_CRAN"), "true")
test_check("ensayo", filter = if (!everything) sprintf("^(%s)$", paste(quick, collapse = "|")))
