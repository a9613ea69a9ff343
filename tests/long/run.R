# Thousands of repeats of what `make test` does in small; `make test-long` keeps the record in bench/long.txt.
# Rscript tests/long/run.R [COMPOSITIONS] [STUDY FILES]

suppressMessages({
  library(testthat)
  library(ensayo)
})
counts <- suppressWarnings(as.integer(commandArgs(TRUE)))
counts <- ifelse(is.na(counts[1:2]), c(20000, 24000), counts[1:2])
inside <- new.env(parent = asNamespace("ensayo"))
for (file in c("helper-compositions.R", "helper-mutations.R")) sys.source(file.path("tests/testthat", file), inside)

# Seeds in shares, two at a time; the record is kept as it grows.
in_shares <- function(what, seeds, run) {
  started <- Sys.time()
  shares <- split(seeds, (seq_along(seeds) - 1) %/% 50)
  faults <- unlist(parallel::mclapply(shares, run, mc.cores = 2, mc.preschedule = FALSE))
  cat(sprintf("%s: %d, %d at fault, %.0f min\n", what, length(seeds), length(faults),
    as.double(Sys.time() - started, units = "mins")), faults, sep = "\n")
  length(faults)
}

# A listener on the loopback, to which the files' addresses point, counts what asks for it.
port <- 20000 + Sys.getpid() %% 20000
log <- tempfile()
listener <- parallel::mcparallel({
  server <- serverSocket(port)
  repeat {
    asked <- tryCatch(socketAccept(server, timeout = 3600), error = function(e) NULL)
    cat("asked\n", file = log, append = TRUE)
    if (!is.null(asked)) close(asked)
  }
})
cat(sprintf("%s, %s\n", format(Sys.Date()), R.version.string))
failed <- in_shares("Study files changed at random", seq_len(counts[2]), function(seeds) inside$mutation_faults(seeds, port))
requests <- if (file.exists(log)) length(readLines(log)) else 0
cat(sprintf("Requests that reached the listener: %d\n", requests))
tools::pskill(listener$pid)
failed <- failed + requests + in_shares("Laws composed at random", 1000 + seq_len(counts[1]), function(seeds) {
  suppressWarnings(inside$faulty_compositions(seeds, c(2, 4, 4, 2, 1)))
})
cat(sprintf("\n%d passed, %d failed, 0 skipped\n", sum(counts) - failed, failed))
quit(status = failed > 0)
