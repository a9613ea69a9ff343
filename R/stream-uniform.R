# Uniform numbers behind the draws: a pure function of seed, stream, index and run (and of the number of runs under a
# Latin hypercube), so that any run can be made again alone.

design_words <- c(latin = "Latin hypercube", random = "random draws", midpoints = "Latin hypercube at midpoints",
  sobol = "scrambled Sobol' sequence")

designs <- names(design_words)

# A whole number stands for itself (64 bits of two's complement); a text, and a number too large for that, for bits
# of its hash.
check_seed <- function(seed, call = rlang::caller_env()) {
  if (is.null(seed)) return(as.double(sample.int(.Machine$integer.max, 1)))
  if (rlang::is_string(seed) && nzchar(seed)) return(enc2utf8(seed))
  if (!(is.numeric(seed) && length(seed) == 1 && is.finite(seed) && seed == floor(seed))) {
    stop_argument("seed", "a whole number, or a text", seed, "The same seed gives the same draws.", call)
  }
  if (abs(seed) < 2^63) as.double(seed) else sprintf("%.0f", seed)
}

# How draws are laid out: everything besides the study that a run's draws depend on, and on how many threads they are
# made, on which they do not.
draw_plan <- function(nsim, seed, design, replicates, block, threads, call = rlang::caller_env()) {
  nsim <- check_count(nsim, "nsim", call = call)
  replicates <- check_count(replicates, "replicates", at_most = nsim, call = call)
  if (nsim %% replicates != 0) {
    stop_argument("nsim", sprintf("a multiple of `replicates`, %s", format(replicates)), nsim,
      "It is the number of runs in all; each replicate has an equal part of them.", call)
  }
  each <- nsim / replicates
  if (is.null(block)) block <- block_size(each)
  else if (!identical(block, Inf)) block <- check_count(block, "block", at_least = 2, call = call)
  list(
    nsim = nsim, seed = check_seed(seed, call), design = check_choice(design, designs, "design", call),
    replicates = replicates, block = min(block, each),
    threads = if (is.null(threads)) threads_to_use() else check_count(threads, "threads", at_most = 64, call = call)
  )
}

# `directions`: of the input's dimension, under a Sobol' design.
stream_address <- function(stream, seed, index = 0, directions = NULL) {
  address <- list(seed = seed, stream = stream, index = index)
  address$directions <- directions
  address
}

# Uniforms for `count` runs after the first `first`.
plan_uniforms <- function(address, plan, first = 0, count = plan$nsim) {
  cpp_draw_columns(list(address), list(NULL), list(), plan, first, count, plan$threads)[[1]]$x
}

# The same for one stream by itself.
stream_uniforms <- function(stream, seed, design, nsim, first = 0, count = nsim, index = 0, replicates = 1) {
  plan <- list(nsim = nsim, design = design, replicates = replicates, threads = 1)
  plan_uniforms(stream_address(stream, seed, index, if (design == "sobol") sobol_directions(1)[[1]]), plan, first,
    count)
}

# Of each of the first dimensions of the Sobol' sequence the polynomial's bits and the initial numbers (Joe and Kuo
# 2008, set D6), from a file with a line for each.
sobol_directions <- function(dimensions, call = rlang::caller_env()) {
  if (dimensions > sobol_dimensions) {
    stop_argument("design", sprintf("one that has room for %s inputs", format(dimensions)), "sobol",
      sprintf("\"sobol\" has %d dimensions; take \"latin\".", sobol_dimensions), call)
  }
  file <- system.file("designs", "sobol-directions.txt", package = "ensayo", mustWork = TRUE)
  lapply(strsplit(readLines(file, n = dimensions), " ", fixed = TRUE), as.double)
}

sobol_dimensions <- 3667

# Latin columns are put in order by blocks of runs, so that a range of runs can be had without the others. The size is
# a function of the number of runs alone.
block_size <- function(n) if (n <= 2^14) n else max(1024, ceiling(10 * sqrt(n)))
