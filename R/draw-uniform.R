# Uniform numbers behind the draws: a pure function of seed, stream, index and run (and the number of runs under a Latin
# hypercube), so that any run can be made again alone.

designs <- c("latin", "random")

check_seed <- function(seed, call = rlang::caller_env()) {
  if (is.null(seed)) return(as.double(sample.int(.Machine$integer.max, 1)))
  check_count(seed, "seed", at_least = -2^53, mend = "Any whole number will do; the same seed gives the same draws.",
    call = call)
}

# Uniforms of one stream for the runs `first + 1` to `first + count` out of `nsim`.
stream_uniforms <- function(stream, seed, design, nsim, first = 0, count = nsim, index = 0) {
  switch(design,
    latin = cpp_latin_uniforms(seed, stream, index, nsim, first, count),
    random = cpp_random_uniforms(seed, stream, index, first, count)
  )
}
