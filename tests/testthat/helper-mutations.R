# Study files changed at random, as by a slip of the hand or with a bad will.

mutation_bases <- function() {
  lapply(c("gravity-main.yml", "reference.yml"), function(name) {
    readLines(system.file("studies", name, package = "ensayo"), encoding = "UTF-8")
  })
}

hostile_pieces <- function(port) c(
  sprintf("http://127.0.0.1:%d/x.csv", port), sprintf("\"http://127.0.0.1:%d/x.json\"", port), "/etc/hostname",
  "../../outside.csv", "~/outside.csv", "file:///etc/hostname", "system(\"touch planted\")", "base::system('touch planted')",
  "(function() file.create('planted'))()", "!expr file.create('planted')", "!!python/object/apply:os.system ['touch planted']",
  strrep("[", 3000), strrep("(", 5000), strrep("- ", 3000), paste0(strrep("a + ", 20000), "a"), strrep("x", 50000),
  "&a [*a, *a]", "1e999", "-1e308", "NaN", ".inf", "null", "~", "{}", "[]", "", "\t", "0x1F", "1_000", "12:30:45",
  "2026-13-45", "\"\\e[31mPASS 100 %\"", "\u202e", "if", "TRUE", "run", "mixture(list(normal(0,1)), weights = c(0))",
  "truncated(normal(0, 1), min = 500)", "largest(normal(0, 1), k = 1e15)", "discrete(c(), c())", "integers(0, 1e300)",
  paste0("mixture(list(", paste(rep("normal(0, 1)", 4000), collapse = ", "), "))"), "zone[1..999999999]", "poisson(1e300)"
)

mutated_study <- function(base, pieces) {
  lines <- base
  for (k in seq_len(sample(3, 1))) {
    i <- sample(length(lines), 1)
    switch(sample(8, 1),
      lines <- lines[-i],
      lines <- append(lines, lines[i], sample(length(lines), 1)),
      {
        at <- sample(nchar(lines[i]) + 1, 1)
        lines[i] <- paste0(substr(lines[i], 1, at - 1), sample(pieces, 1), substring(lines[i], at))
      },
      lines[i] <- sub(":.*$", paste0(": ", sample(pieces, 1)), lines[i]),
      lines[i] <- gsub("[0-9.]+", sample(pieces, 1), lines[i]),
      {
        at <- sample(nchar(lines[i]) + 1, 1)
        lines[i] <- paste0(substr(lines[i], 1, at - 1), substring(lines[i], at + sample(3, 1)))
      },
      lines[i] <- paste0("  ", lines[i]),
      lines[i] <- sub("[A-Za-z_]+", sample(pieces, 1), lines[i])
    )
  }
  lines
}

# What is wrong with how mutated files are read: an error without a class, more than five seconds, a planted file.
mutation_faults <- function(seeds, port = 9) {
  dir <- withr::local_tempdir()
  withr::local_dir(dir)
  bases <- mutation_bases()
  faults <- lapply(seeds, function(seed) {
    withr::with_seed(seed, writeLines(mutated_study(sample(bases, 1)[[1]], hostile_pieces(port)), "study.yml",
      useBytes = TRUE))
    started <- proc.time()[["user.self"]]
    setTimeLimit(elapsed = 20, transient = TRUE)
    said <- tryCatch({
      suppressWarnings(read_study("study.yml"))
      NULL
    }, ensayo_error = function(e) NULL, error = function(e) paste("no class:", substr(conditionMessage(e), 1, 200)))
    setTimeLimit()
    took <- proc.time()[["user.self"]] - started
    said <- c(said, if (took > 5) sprintf("%.1f s", took), if (file.exists("planted")) "planted")
    unlink("planted")
    if (length(said)) sprintf("seed %d: %s", seed, paste(said, collapse = "; "))
  })
  unlist(faults)
}
