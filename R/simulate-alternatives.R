# Alternatives, simulated on the same draws.

#' @rdname alternatives
#' @param object Alternatives.
#' @param nsim,seed,workers As for a study, the same for every alternative.
#' @return `simulate()`: a list of results by name, for [compare_results()].
#' @export
simulate.ensayo_alternatives <- function(object, nsim = 10000, seed = NULL, ..., workers = NULL) {
  seed <- check_seed(seed)
  results <- with_workers(workers, lapply(object$studies, function(study) simulate(study, nsim = nsim, seed = seed, ...)))
  structure(results, class = c("ensayo_results", "list"))
}
