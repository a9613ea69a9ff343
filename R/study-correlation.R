# Rank correlations between inputs: pairs as typed, the connected sets they make, and whether a joint law can have them.

#' Correlate inputs
#'
#' Adds correlations between inputs: a pair, a block of several with one value, or a whole matrix. Pairs that are not
#' given are 0.
#'
#' @param .study A study.
#' @param a,b Inputs that vary, bare or as text. Or `a` alone: several of them, `c(a, b, c)`, of which each pair gets
#'   `r`; or a symmetric matrix with row and column names, of which the entries other than 0 are added.
#' @param r Number from -1 to 1: the correlation.
#' @param kind `"rank"`: Spearman's rho, which holds whatever the laws are; `"score"`: Pearson's correlation of the
#'   normal scores, as a Gaussian copula has it. Studies keep, print and report rank correlations; a score correlation
#'   s is the rank correlation 6/pi asin(s/2) (Pearson 1907).
#' @param replace `TRUE` to change the correlation of a pair that has one; 0 then takes it away.
#' @param repair `TRUE`: where no joint law can have the correlations, take the nearest that one can have (Higham
#'   2002, IMA Journal of Numerical Analysis 22); [correlations()] tells how far each moved.
#' @return The study with the correlations added.
#' @details How the draws come to have it: [simulate()][simulate.ensayo_study]. Whether a joint law can have all the
#'   correlations of a set of inputs is checked as soon as every pair of the set is given, and always before draws are
#'   made.
#' @section Errors: `ensayo_error_name` where an input is unknown; `ensayo_error_argument` where `r` is not from -1 to
#'   1; `ensayo_error_correlation` where an input never varies, a pair has a correlation already, or no joint law can
#'   have the correlations (with the smallest eigenvalue and the inputs).
#' @seealso [read_correlation()] for matrices in files, [estimate_correlation()] from data, [add_rows()] for whole
#'   rows of a data set instead of correlations.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(demand = law_pert(28, 34, 48), friction = law_lognormal(mean = 0.021, sd = 0.003))
#' main |> add_correlation(demand, friction, 0.4)
#' r <- matrix(c(1, 0.4, 0.4, 1), 2, dimnames = rep(list(c("demand", "friction")), 2))
#' main |> add_correlation(r)
#' @export
add_correlation <- function(.study, a, b, r, kind = "rank", replace = FALSE, repair = FALSE) {
  check_study(.study)
  check_flag(replace)
  kind <- check_choice(kind, correlation_kinds)
  pairs <- if (!missing(b)) {
    known <- names(.study$inputs)
    data.frame(a = resolve_name(rlang::enquo(a), known, "an input of the study"),
      b = resolve_name(rlang::enquo(b), known, "an input of the study"), r = check_correlation(r, "r"))
  } else if (!missing(r)) {
    set <- resolve_members(rlang::enquo(a), .study)
    if (length(set) < 2) stop_argument("a", "two inputs or more, where `b` is left out", set)
    ends <- utils::combn(set, 2)
    data.frame(a = ends[1, ], b = ends[2, ], r = check_correlation(r, "r"))
  } else pairs_from_matrix(a)
  pairs$r <- rank_of(pairs$r, kind)
  .study <- add_pairs(.study, pairs, replace)
  for (set in correlated_sets(.study)) {
    if (check_flag(repair)) .study <- repaired_set(.study, set)
    for (other in set[-1]) check_drawn_alike(.study, set[1], other, "be correlated")
    if (nrow(pairs_within(.study, set)) == choose(length(set), 2)) check_correlation_set(.study, set)
  }
  .study
}

correlation_kinds <- c("rank", "score")

rank_of <- function(r, kind) if (kind == "score") 6 / pi * asin(r / 2) else r

check_correlation <- function(r, arg, call = rlang::caller_env()) {
  check_number(r, arg, at_least = -1, at_most = 1, call = call)
}

# Pairs as typed, checked all at once: a matrix of 200 inputs has 19,900 of them.
add_pairs <- function(study, pairs, replace, call = rlang::caller_env()) {
  for (name in unique(c(pairs$a, pairs$b))) check_can_correlate(study, name, call)
  same <- which(pairs$a == pairs$b)[1]
  if (!is.na(same)) {
    stop_ensayo("correlation", "A correlation is between two inputs.",
      sprintf("You gave %s twice.", quoted(pairs$a[same])),
      name = pairs$a[same], call = call)
  }
  key <- function(pairs) paste(pmin(pairs$a, pairs$b), pmax(pairs$a, pairs$b), sep = "\r")
  old <- study$correlations
  known <- match(key(pairs), key(old))
  again <- which(!is.na(known) | duplicated(key(pairs)))[1]
  if (!is.na(again) && (!replace || is.na(known[again]))) {
    r <- if (is.na(known[again])) pairs$r[match(key(pairs)[again], key(pairs))] else old$r[known[again]]
    stop_ensayo("correlation",
      sprintf("%s and %s must not have a correlation yet.", quoted(pairs$a[again]), quoted(pairs$b[again])),
      sprintf("Theirs is %s.",
        format(r)), "To change it, add `replace = TRUE`.", a = pairs$a[again], b = pairs$b[again],
      call = call)
  }
  pairs$given <- pairs$r
  kept <- old[!seq_len(nrow(old)) %in% known, , drop = FALSE]
  study$correlations <- rbind(kept, if (replace) pairs[pairs$r != 0, , drop = FALSE] else pairs)
  rownames(study$correlations) <- NULL
  study
}

add_pair <- function(study, a, b, r, replace, call = rlang::caller_env()) {
  add_pairs(study, data.frame(a = a, b = b, r = check_correlation(r, "r", call)), replace, call)
}

check_can_correlate <- function(study, name, call) {
  check_known_input(study, name, call)
  input <- study$inputs[[name]]
  if (!is_law(input$law)) {
    stop_ensayo("correlation", sprintf("Input %s must vary to be correlated.", quoted(name)), "It is a constant.",
      sprintf("Give it a law with `replace_inputs(%s = ...)`.", name), name = name, call = call)
  }
  if (!is.null(input$shares)) {
    stop_ensayo("correlation", sprintf("Input %s must have an uncertainty of its own to be correlated.", quoted(name)),
      sprintf("It shares that of %s.", quoted(input$shares)), sprintf("Correlate %s.",
        quoted(input$shares)), name = name,
      call = call)
  }
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
  live <- pairs$a %in% varying & pairs$b %in% varying & pairs$r != 0
  if (all(live)) pairs else pairs[live, , drop = FALSE]
}

# The connected sets of correlated inputs, each in order of definition.
correlated_sets <- function(study) {
  pairs <- live_correlations(study)
  members <- intersect(as.character(names(study$inputs)), c(pairs$a, pairs$b))
  set_of <- seq_along(members)
  first <- match(pairs$a, members)
  second <- match(pairs$b, members)
  for (i in seq_along(first)) {
    sets <- set_of[c(first[i], second[i])]
    if (sets[1] != sets[2]) set_of[set_of == max(sets)] <- min(sets)
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
  for (other in set[-1]) check_drawn_alike(study, set[1], other, "be correlated", call)
  if (persists(study, set)) persistence_scores(study, set, call)
  scores <- score_correlation(correlation_matrix(study, set))
  diag(scores) <- 1
  smallest <- smallest_eigenvalue(scores)
  if (smallest < -1e-8) {
    given <- nrow(pairs_within(study, set))
    inputs <- conflicting_inputs(scores, set)
    typed <- smallest_eigenvalue(correlation_matrix(study, set))
    stop_ensayo("correlation",
      sprintf("The correlations of %s must be possible together.", and_list(quoted(inputs))),
      if (typed < -1e-8) sprintf("No joint law has them: the smallest eigenvalue of their matrix is %s.",
        format(smallest, digits = 3))
      else sprintf("Draws are made by normal scores, whose matrix is out of reach by %s, though that of the ranks is not.",
        format(-smallest, digits = 2)),
      paste(if (typed >= -1e-8) sprintf("The nearest that can be drawn differ by at most %s.",
        format(largest_change(study, set), digits = 1))
        else if (given < choose(length(set), 2)) "Pairs that are not given are taken as 0; give them, or weaken the strongest."
        else "Weaken the strongest correlations, or check their signs.",
        "`repair = TRUE` takes the nearest that are possible."),
      inputs = inputs, eigenvalue = smallest, call = call)
  }
}

# How far a repair changes a set's rank correlations at most.
largest_change <- function(study, set) {
  max(abs(correlation_matrix(repaired_set(study, set), set) - correlation_matrix(study, set)))
}

# The inputs with a part in the direction that no joint law can have.
conflicting_inputs <- function(scores, set) {
  direction <- abs(eigen(scores, symmetric = TRUE)$vectors[, length(set)])
  set[direction > 0.05 * max(direction)]
}

# The same study with the nearest matrix that a joint law can have, in the place of a set's own.
repaired_set <- function(study, set) {
  asked <- correlation_matrix(study, set)
  scores <- score_correlation(asked)
  diag(scores) <- 1
  if (smallest_eigenvalue(scores) >= -1e-8) return(study)
  rank <- rank_of(nearest_correlation(scores), "score")
  at <- which(upper.tri(rank), arr.ind = TRUE)
  pairs <- data.frame(a = set[at[, 1]], b = set[at[, 2]], r = rank[at], given = asked[at])
  inside <- study$correlations$a %in% set & study$correlations$b %in% set
  study$correlations <- rbind(study$correlations[!inside, , drop = FALSE], pairs)
  rownames(study$correlations) <- NULL
  study
}

smallest_eigenvalue <- function(m) min(eigen(m, symmetric = TRUE, only.values = TRUE)$values)

# Alternating projections with Dykstra's correction: Higham (2002), algorithm 3.3.
nearest_correlation <- function(m, tolerance = 1e-9, most = 2000) {
  correction <- matrix(0, nrow(m), nrow(m))
  y <- m
  for (round in seq_len(most)) {
    r <- y - correction
    x <- semidefinite_part(r)
    correction <- x - r
    moved <- x
    diag(moved) <- 1
    if (max(abs(moved - y)) < tolerance) break
    y <- moved
  }
  # a last projection, scaled back to ones on the diagonal, is valid to the last digits
  x <- semidefinite_part(y)
  x / sqrt(outer(diag(x), diag(x)))
}

semidefinite_part <- function(m) {
  parts <- eigen(m, symmetric = TRUE)
  parts$vectors %*% (pmax(parts$values, 0) * t(parts$vectors))
}
