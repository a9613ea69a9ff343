# What coupling costs a run, beside a bare loop that does the same work: milliseconds a run; and two workers beside one.
suppressMessages(library(ensayo))

each <- function(runs, expr) 1000 * system.time(expr)[["elapsed"]] / runs
quiet <- function(study, runs, ...) invisible(simulate(study, runs, seed = 1, progress = NULL, ...))
start <- study("Bench") |> add_inputs(a = law_uniform(1, 2), b = law_uniform(1, 2))
folder <- tempfile()
dir.create(folder)
draws <- as.data.frame(draw_inputs(start, 500, seed = 1))

# a function of R that takes no time
f <- function(a, b) a + b
study_f <- add_model(start, f)
quiet(study_f, 50)
rows <- data.frame(what = "a function of R", ours = each(500, quiet(study_f, 500)),
  bare = each(500, for (i in 1:500) f(draws$a[i], draws$b[i])))

# a program that reads a file and prints two lines: the bare loop writes the file, runs it and reads the lines
template <- file.path(folder, "case.txt")
writeLines(c("a @[a %10.4f]", "b @[b %10.4f]"), template)
study_p <- add_program(start, c("cat", "case.txt"), list(y = from_line(1, 2), z = from_line(2, 2)), templates = template)
quiet(study_p, 50)
bare <- function(i) {
  writeLines(c(sprintf("a %10.4f", draws$a[i]), sprintf("b %10.4f", draws$b[i])), file.path(folder, "bare.txt"))
  system2("cat", file.path(folder, "bare.txt"), stdout = TRUE)
}
rows <- rbind(rows, data.frame(what = "a program", ours = each(500, quiet(study_p, 500)), bare = each(500, for (i in 1:500) bare(i))))

# a program that stays: the bare loop writes a line and reads one
if (nzchar(Sys.which("perl"))) {
  script <- file.path(folder, "stays.pl")
  writeLines("$| = 1; while (<STDIN>) { /\"a\":([0-9.e+-]+)/; print \"{\\\"y\\\": $1}\\n\" }", script)
  study_j <- add_program(start, c("perl", script), "y", persistent = TRUE, name = "stays")
  quiet(study_j, 50)
  talk <- processx::process$new("perl", script, stdin = "|", stdout = "|")
  bare <- function(i) {
    talk$write_input(sprintf("{\"run\":%d,\"a\":%.17g,\"b\":%.17g}\n", i, draws$a[i], draws$b[i]))
    repeat {
      line <- talk$read_output_lines(1)
      if (length(line)) break
      talk$poll_io(1000)
    }
  }
  rows <- rbind(rows, data.frame(what = "a program that stays", ours = each(500, quiet(study_j, 500)),
    bare = each(500, for (i in 1:500) bare(i))))
  invisible(talk$kill())
}
rows$more <- rows$ours - rows$bare
cat("\nWhat coupling costs: milliseconds a run, beside a bare loop\n")
print(rows, row.names = FALSE, digits = 2)

study_w <- add_model(start, function(a) { Sys.sleep(0.01); a }, name = "y")
mirai::daemons(2)
quiet(study_w, 100)
two <- each(2000, quiet(study_w, 2000))
one <- each(2000, quiet(study_w, 2000, workers = 1))
invisible(mirai::daemons(0))
cat(sprintf("\nA function of 10 ms, 2,000 runs: two workers make %.2f times the runs of one session in the same time\n", one / two))
