# Thousands of repeats of what `make test` does in small; `make test-long` keeps the record in bench/long.txt.
# Rscript tests/long/run.R [NAME=COUNT ...], with the parts below and how often each is repeated; 0 leaves it out.

suppressMessages({
  library(testthat)
  library(ensayo)
})
counts <- c(compositions = 20000, files = 24000, traced = 3000, extremes = 200, fits = 200, seeds = 400, kills = 20,
  formulas = 10000, compounds = 9, gains = 100, schedules = 1000, surrogates = 100, rare = 100, workbooks = 2000)
given <- strsplit(commandArgs(TRUE), "=")
counts[vapply(given, `[`, "", 1)] <- vapply(given, function(part) as.double(part[2]), 0)
inside <- new.env(parent = asNamespace("ensayo"))
for (file in c("compositions", "laws", "mutations", "fits", "noise", "begun", "formulas", "compound", "gains", "schedule", "surrogate", "workbook")) {
  sys.source(sprintf("tests/testthat/helper-%s.R", file), inside)
}
failed <- 0

# Seeds in shares, two at a time.
in_shares <- function(what, seeds, run, size = 50) {
  if (length(seeds) == 0) return(invisible())
  started <- Sys.time()
  shares <- split(seeds, (seq_along(seeds) - 1) %/% size)
  back <- parallel::mclapply(seq_along(shares), function(i) {
    found <- run(shares[[i]])
    # how far it is, and what was found, for whoever watches; the record comes at the end
    message(sprintf("%s: share %d of %d", what, i, length(shares)), if (length(found)) paste0("\n", found, collapse = ""))
    list(found)
  }, mc.cores = 2, mc.preschedule = FALSE)
  # a process that was killed, for taking all memory or so, has found something too
  lost <- which(!vapply(back, is.list, TRUE))
  faults <- c(unlist(back[setdiff(seq_along(back), lost)]),
    sprintf("seeds %s to %s: no answer came back", vapply(shares[lost], min, 0), vapply(shares[lost], max, 0)))
  cat(sprintf("%s: %d, %d at fault, %.0f min\n", what, length(seeds), length(faults),
    as.double(Sys.time() - started, units = "mins")), faults, sep = "\n")
  failed <<- failed + length(faults)
}

cat(sprintf("%s, %s\n", format(Sys.Date()), R.version.string))
in_shares("Laws composed at random", 1000 + seq_len(counts["compositions"]), function(seeds) {
  suppressWarnings(inside$faulty_compositions(seeds, c(2, 4, 4, 2, 1)))
})

in_shares("Formulas made at random, compiled, against R's own evaluation", 20000 + seq_len(counts["formulas"]), function(seeds) {
  suppressWarnings(inside$faulty_formulas(seeds))
})

in_shares("Simulations killed at a random moment and run again", seq_len(counts["kills"]), function(seeds) {
  inside$faulty_kills(seeds)
})

laws <- if (counts["extremes"] > 0) c(inside$law_grid(), inside$discrete_grid())
in_shares("Laws of the gallery, 1e7 draws of each", seq_along(laws), function(which) {
  inside$faults_of_extremes(laws[which], 1e7, which)
}, 10)
in_shares("Laws composed at random, 1e7 draws of each", 50000 + seq_len(counts["extremes"]), function(seeds) {
  inside$faulty_extremes(seeds, 1e7)
}, 10)

in_shares("Workbooks changed at random", seq_len(counts["workbooks"]), function(seeds) {
  inside$faulty_workbooks(seeds, system.file("studies", if (seeds[1] %% 100 == 1) "tariff.ods" else "tariff.xlsx", package = "ensayo"))
})

if (counts["files"] > 0) {
  # a listener on the loopback, to which the files' addresses point, counts what asks for it
  port <- 20000 + Sys.getpid() %% 20000
  log <- tempfile()
  listener <- parallel::mcparallel({
    server <- serverSocket(port)
    repeat {
      asked <- tryCatch(socketAccept(server, timeout = 3600), error = function(e) NULL)
      if (is.null(asked)) next
      cat("asked\n", file = log, append = TRUE)
      close(asked)
    }
  })
  in_shares("Study files changed at random", seq_len(counts["files"]), function(seeds) {
    inside$mutation_faults(seeds, port)
  })
  requests <- if (file.exists(log)) length(readLines(log)) else 0
  cat(sprintf("Requests that reached the listener: %d\n", requests))
  failed <- failed + requests
  tools::pskill(listener$pid)
}

# The files that a process opens and the addresses it asks for while it reads study files, besides its own and the
# system's: as strace(1) sees them.
opened_by <- function(code) {
  log <- tempfile()
  script <- tempfile(fileext = ".R")
  writeLines(c(
    "library(ensayo)", "inside <- new.env(parent = asNamespace(\"ensayo\"))",
    sprintf("sys.source(%s, inside)", deparse(normalizePath("tests/testthat/helper-mutations.R"))), code), script)
  system2("strace", c("-f", "-qq", "-e", "trace=open,openat,connect,execve", "-o", log,
    file.path(R.home("bin"), "Rscript"), script))
  calls <- readLines(log, warn = FALSE)
  calls <- sub("^[0-9]+ +", "", calls[!grepl("resumed>", calls)])
  own <- c(R.home(), normalizePath(.libPaths()), "/usr", "/lib", "/proc", "/sys", "/etc/localtime",
    file.path(dirname(tempdir()), "Rtmp"))
  path <- sub("^[^\"]*\"([^\"]*)\".*", "\\1", calls)
  absolute <- startsWith(path, "/")
  in_own <- Reduce(`|`, lapply(own, function(folder) startsWith(path, folder)))
  upwards <- !absolute & grepl("..", path, fixed = TRUE)
  unique(c(calls[startsWith(calls, "connect")], path[absolute & !in_own | upwards]))
}

if (counts["traced"] > 0) {
  if (!nzchar(Sys.which("strace"))) stop("strace is needed: install it, or leave it out with traced=0")
  started <- Sys.time()
  plain <- opened_by("invisible(read_study(system.file(\"studies/gravity-main.yml\", package = \"ensayo\")))")
  opened <- setdiff(opened_by(sprintf("inside$mutation_faults(%d + seq_len(%d))", counts["files"], counts["traced"])),
    plain)
  cat(sprintf("Study files changed at random, traced: %d, %d opened outside their folder, %.0f min\n", counts["traced"],
    length(opened), as.double(Sys.time() - started, units = "mins")), opened, sep = "\n")
  failed <- failed + length(opened)
}

in_shares("Schedules made at random, four runs each, against a plain calculation tick by tick", seq_len(counts["schedules"]), function(seeds) {
  unlist(lapply(seeds, inside$schedule_faults))
})
in_shares("Slip allowed, against delaying each task of a network", seq_len(min(counts["schedules"], 20)), function(seeds) {
  unlist(lapply(seeds, inside$slip_faults))
}, 5)

compounds <- setdiff(names(inside$known_compounds()), "many")  # of 100,000 sizes a run
in_shares("Compound sums by law and by a million runs, against exact probabilities", seq_len(min(counts["compounds"],
  length(compounds))), function(which) inside$faulty_runs(compounds[which], 1e6, 7), 1)

# Gains without an event: intervals hold what fresh runs say in 90 of 100 seeds and more.
for (kind in if (counts["gains"] > 0) names(inside$gain_studies())) {
  held <- inside$gain_coverage(inside$gain_studies()[[kind]], c(sum = 1200, product = 470)[[kind]], seq_len(counts["gains"]), 10000, 1e6)
  cat(sprintf("Gains against fresh runs, of a %s: intervals of 95 %% held in these shares of %d seeds\n", kind, counts["gains"]))
  print(held, digits = 3)
  failed <- failed + sum(held < 0.9)
}

# What surrogates state, idle inputs and rare chances: in 90 of 100 seeds and more.
in_most <- function(what, seeds, run) {
  missed <- unlist(parallel::mclapply(split(seeds, seeds %% 2), run, mc.cores = 2))
  cat(sprintf("%s: missed in %d of %d seeds\n", what, length(missed), length(seeds)), missed, sep = "\n")
  failed <<- failed + (length(missed) > 0.1 * length(seeds))
}
if (counts["surrogates"] > 0) {
  for (name in names(inside$surrogate_studies())) in_most(sprintf("Predictive R squared of %s from 100 runs", name), seq_len(counts["surrogates"]),
    function(seeds) inside$scores_missed(name, 100, seeds))
  in_most("Four idle inputs of nine from 100 runs", seq_len(counts["surrogates"]), function(seeds) inside$idle_missed(100, seeds))
}
if (counts["rare"] > 0) for (name in names(inside$rare_cases())) in_most(sprintf("Rare chance, %s, 2,000 runs", name), seq_len(counts["rare"]),
  function(seeds) inside$rare_missed(name, seeds))

families <- if (counts["fits"] > 0) seq_along(inside$regular_laws)
in_shares("Families fitted to data of their own", families, function(which) {
  inside$faulty_fits(names(inside$regular_laws)[which], counts["fits"])
}, 1)

# Idle inputs 3 to 7 %, intervals 92 to 98 %; of the moment-independent measure, and of a Latin hypercube, rather more.
# d1 is idle.
if (counts["seeds"] > 0) {
  rates <- do.call(rbind, lapply(c("random", "latin"), function(design) {
    cbind(design = design, inside$noise_rates(seq_len(counts["seeds"]), c(100, 1000), cores = 2, design = design))
  }))
  held <- rowMeans(rates[c("a", "b", "c", "e")])
  rates$right <- rates$idle_called >= 0.03 & rates$idle_called <= 0.07 & held >= 0.92 &
    held <= ifelse(rates$measure == "moment_independent" | rates$design == "latin", 1, 0.98)
  print(rates, row.names = FALSE, digits = 3)
  failed <- failed + sum(!rates$right)
}
cat(sprintf("\n%d failed\n", failed))
quit(status = failed > 0)
