# In process: quick, and the exit code is at hand.
call_cli <- function(...) {
  output <- NULL
  said <- utils::capture.output(output <- utils::capture.output(code <- cli_main(c(...))), type = "message")
  list(code = code, output = output, said = said)
}
small_file <- function(dir, formula = "a + 1") {
  file <- file.path(dir, "small.yml")
  writeLines(c("study: Small", "inputs:", "  a: {law: normal, mean: 3, sd: 1}", "outputs:", paste("  y:", formula),
    "specs: [y > 3]",
    "run: {runs: 100, seed: 5}"), file)
  file
}
