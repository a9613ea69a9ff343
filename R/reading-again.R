# Runs of a result made again with other values of some quantities, and how exactly differences between the two are known.

# Values of an output in some runs, where `changed` has other columns, or single values, of inputs. Only what the output needs is
# calculated.
calculated_again <- function(result, output, changed, rows = seq_len(run_count(result))) {
  study <- result$study
  needed <- needed_outputs(study, output)
  study <- study_for(study, needed)
  wanted <- intersect(result$store$names, names(study$inputs))
  kept <- lapply(store_columns(result$store, setdiff(wanted, names(changed))), column_at, rows)
  held <- lapply(Filter(Negate(varies), study$inputs), held_value)
  columns <- c(held[setdiff(names(held), names(changed))], kept, changed)
  for (name in Filter(function(name) is_stepped(study$inputs[[name]]) && is.double(kept[[name]]),
    names(kept))) columns[[name]] <- of_runs(kept[[name]])
  evaluator <- study_evaluator(study, run_setting(result$provenance$seed, plan = plan_again(result$provenance)))
  on.exit(end_evaluator(evaluator))
  outcome <- evaluator(columns, run_numbers(result)[rows])
  values <- in_asked_unit(result, output, rep_len(as.double(outcome$values[[output]]), length(rows)))
  failed <- outcome$failures$run[outcome$failures$output %in% needed]
  values[match(failed, run_numbers(result)[rows], 0)] <- NA
  values
}

# The influence of each run on a percentile (Hampel 1974): the error of its mean is the percentile's, and that of a difference of
# influences the error of a difference on shared runs.
percentile_influence <- function(values, percentile) {
  p <- percentile / 100
  n <- length(values)
  # the density there, from percentiles to both sides
  reach <- min(0.5 * n^(-1 / 5) * sqrt(p * (1 - p)), p / 2, (1 - p) / 2)
  reach <- max(reach, min(1.5 / n, p / 2, (1 - p) / 2))
  q <- percentile_values(values, 100 * c(p, p - reach, p + reach))
  density <- 2 * reach / (q[3] - q[2])
  if (!is.finite(density)) return(rep(0, n))
  (p - (values <= q[1])) / density
}
