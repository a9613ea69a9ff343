# Ranks with ties sharing their mean rank, as Spearman's rho takes them, of a list of columns without missing values.
mid_ranks <- function(columns, threads = threads_to_use()) cpp_mid_ranks(lapply(columns, as.double), threads)

# Correlations of a list of columns with another list's, a row for each of the first: Spearman's rho of ranks, else
# Pearson's r. NaN where one of the two columns is constant.
correlations_between <- function(x, y, ranks, threads = threads_to_use()) {
  cpp_correlations(lapply(x, as.double), lapply(y, as.double), ranks, threads)
}

# Two unless told otherwise: what a shared machine grants without asking.
threads_to_use <- function() min(2, cpp_hardware_threads())

