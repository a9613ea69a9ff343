# Rank correlations between inputs: pairs as typed, the connected sets they make, and whether a joint law can have them.

#' Correlate inputs
#'
#' Adds rank correlations (Spearman's rho) between inputs. Pairs that are not given are 0.
#'
#' @param .study A study.
#' @param a,b Inputs that vary, bare or as text. Or `a` alone: a symmetric matrix with row and column names, of which
#'   the entries other than 0 are added.
#' @param r Number from -1 to 1: the rank correlation.
#' @param replace `TRUE` to change the correlation of a pair that has one; 0 then takes it away.
#' @return The study with the correlation added.
#' @details How the draws come to have it: [simulate()][simulate.ensayo_study]. Whether a joint law can have all the
#'   correlations of a set of inputs is checked as soon as every pair of the set is given, and always before draws are
#'   made.
#' @section Errors: `ensayo_error_name` where an input is unknown; `ensayo_error_argument` where `r` is not from -1
#'   to 1;
#'   `ensayo_error_correlation` where an input never varies, a pair has a correlation already, or no joint law
#'   can have the correlations (with the smallest eigenvalue and the inputs).
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(demand = law_pert(28, 34, 48), friction = law_lognormal(mean = 0.021, sd = 0.003))
#' main |> add_correlation(demand, friction, 0.4)
#' r <- matrix(c(1, 0.4, 0.4, 1), 2, dimnames = rep(list(c("demand", "friction")), 2))
#' main |> add_correlation(r)
#' @export
add_correlation <- function(.study, a, b, r, replace = FALSE) {
  check_study(.study)
  check_flag(replace)
  known <- names(.study$inputs)
  if (missing(b) && missing(r)) {
    pairs <- pairs_from_matrix(a)
    for (i in seq_len(nrow(pairs))) .study <- add_pair(.study, pairs$a[i], pairs$b[i], pairs$r[i], replace)
  } else {
    a <- resolve_name(rlang::enquo(a), known, "an input of the study")
    b <- resolve_name(rlang::enquo(b), known, "an input of the study")
    .study <- add_pair(.study, a, b, r, replace)
  }
  for (set in correlated_sets(.study)) {
    if (nrow(pairs_within(.study, set)) == choose(length(set), 2)) check_correlation_set(.study, set)
  }
  .study
}

add_pair <- function(study, a, b, r, replace, call = rlang::caller_env()) {
  r <- check_number(r, at_least = -1, at_most = 1, call = call)
  for (name in c(a, b)) {
    check_known_input(study, name, call)
    if (!is_law(study$inputs[[name]]$law)) {
      stop_ensayo("correlation", sprintf("Input %s must vary to be correlated.", quoted(name)), "It is a constant.",
        sprintf("Give it a law with `replace_inputs(%s = ...)`.", name), name = name, call = call)
    }
  }
  if (a == b) {
    stop_ensayo("correlation", "A correlation is between two inputs.", sprintf("You gave %s twice.", quoted(a)),
      name = a, call = call)
  }
  pairs <- study$correlations
  same <- (pairs$a == a & pairs$b == b) | (pairs$a == b & pairs$b == a)
  if (any(same) && !replace) {
    stop_ensayo("correlation", sprintf("%s and %s must not have a correlation yet.", quoted(a), quoted(b)),
      sprintf("Theirs is %s.", format(pairs$r[same])), "To change it, add `replace = TRUE`.", a = a, b = b, call = call)
  }
  pairs <- pairs[!same, , drop = FALSE]
  if (r != 0 || !replace) pairs <- rbind(pairs, data.frame(a = a, b = b, r = r))
  rownames(pairs) <- NULL
  study$correlations <- pairs
  study
}

pairs_from_matrix <- function(m, call = rlang::caller_env()) {
  if (is.data.frame(m)) m <- as.matrix(m)
  ok <- is.matrix(m) && is.numeric(m) && nrow(m) == ncol(m) && !is.null(rownames(m)) &&
    identical(rownames(m), colnames(m)) && !anyNA(m) && isSymmetric(unname(m)) && all(diag(m) == 1)
  if (!ok) {
    stop_argument("a", "a symmetric matrix of numbers with ones on its diagonal and the inputs' names on both sides", m,
      "Or name two inputs: `add_correlation(study, a, b, r)`.", call)
  }
  at <- which(upper.tri(m) & m != 0, arr.ind = TRUE)
  data.frame(a = rownames(m)[at[, 1]], b = rownames(m)[at[, 2]], r = m[at])
}

refuse_correlated <- function(study, name, what, call = rlang::caller_env()) {
  if (name %in% c(study$correlations$a, study$correlations$b)) {
    stop_ensayo("correlation", sprintf("Input %s is correlated and cannot %s.", quoted(name), what), NULL,
      sprintf("To hold it at one value, use `fix_inputs(%s = ...)`; its correlations then rest.", name),
      name = name, call = call)
  }
}

# Correlations between inputs that vary in the runs: those of a fixed input rest.
live_correlations <- function(study) {
  varying <- varying_names(study)
  pairs <- study$correlations
  pairs[pairs$a %in% varying & pairs$b %in% varying & pairs$r != 0, , drop = FALSE]
}

# The connected sets of correlated inputs, each in order of definition.
correlated_sets <- function(study) {
  pairs <- live_correlations(study)
  members <- intersect(names(study$inputs), c(pairs$a, pairs$b))
  set_of <- stats::setNames(seq_along(members), members)
  for (i in seq_len(nrow(pairs))) {
    both <- set_of[c(pairs$a[i], pairs$b[i])]
    set_of[set_of %in% both] <- min(both)
  }
  unname(split(members, set_of))
}

pairs_within <- function(study, set) {
  pairs <- study$correlations
  pairs[pairs$a %in% set & pairs$b %in% set, , drop = FALSE]
}

# The full matrix of rank correlations of a set.
correlation_matrix <- function(study, set) {
  m <- diag(length(set))
  dimnames(m) <- list(set, set)
  pairs <- pairs_within(study, set)
  m[cbind(pairs$a, pairs$b)] <- pairs$r
  m[cbind(pairs$b, pairs$a)] <- pairs$r
  m
}

# Correlation of the normal scores that gives a rank correlation: Pearson (1907); see Kruskal (1958), eq. 5.2.
score_correlation <- function(rank_correlation) 2 * sin(pi / 6 * rank_correlation)

# A matrix of rank correlations can be made where that of the normal scores has no negative eigenvalue.
check_correlation_set <- function(study, set, call = rlang::caller_env()) {
  scores <- score_correlation(correlation_matrix(study, set))
  diag(scores) <- 1
  smallest <- min(eigen(scores, symmetric = TRUE, only.values = TRUE)$values)
  if (smallest < -1e-8) {
    given <- nrow(pairs_within(study, set))
    stop_ensayo("correlation",
      sprintf("The correlations of %s must be possible together.", paste(quoted(set), collapse = ", ")),
      sprintf("No joint law has them: the smallest eigenvalue of their matrix is %s.", format(smallest, digits = 3)),
      if (given < choose(length(set), 2)) "Pairs that are not given are taken as 0; give them, or weaken the strongest."
      else "Weaken the strongest correlations, or check their signs.",
      inputs = set, eigenvalue = smallest, call = call)
  }
}
