# Runs are added until every target says that its figure is known as exactly as asked.

# Targets with their names looked up: each with the words for its figure and, for a condition, its formula.
bound_targets <- function(targets, study, statistics, call = rlang::caller_env()) {
  if (inherits(targets, "ensayo_target")) targets <- list(targets)
  ok <- is.list(targets) && length(targets) > 0 && all(vapply(targets, inherits, TRUE, "ensayo_target"))
  if (!ok) {
    stop_ensayo("argument", "Targets are made by `known_within()`.", sprintf("You gave %s.", shown_value(targets)),
      "Such as `known_within(pressure, \"P95\", within = 0.2)`; several in a list.", call = call)
  }
  lapply(targets, function(target) target$bind(target, study, statistics, call))
}

# Two-stage stopping (Stein 1945, Annals of Mathematical Statistics 16(3)), with replicates as observations, as batches
# are in JCGM 101:2008, 7.9: the first ones tell how many it takes; these are run, and more where it was too few.
runs_until <- function(result, targets, most, progress, threads) {
  repeat {
    now <- do.call(rbind, lapply(targets, function(target) target$now(result, target)))
    p <- result$provenance
    each <- p$nsim / p$replicates
    short <- max(0, (now$error / now$allowed)[!now$met %in% TRUE]^2, na.rm = TRUE)
    if (all(now$met %in% TRUE) || p$nsim + each > most) break
    wanted <- if (is.finite(short)) ceiling(p$replicates * max(short, 1) * 1.02) else 2 * p$replicates
    replicates <- min(max(wanted, p$replicates + 1), most %/% each)
    result <- add_runs(result, (replicates - p$replicates) * each, threads = threads, progress = progress)
  }
  result$provenance$until <- now
  result
}
