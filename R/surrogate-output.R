# A surrogate of several outputs as data, and what it predicts. It holds
#   coordinates   surrogate-coordinate.R
#   runs          the coordinates of the runs it is fitted to, a row a run
#   outputs       for each output: `rows`, the runs of which it has a value, and its `parts`, of which a number has one and a series one for
#                 each of its components, with `centre` and `loadings`; while it is a surrogate's, what was `found` on the way, and in a
#                 study its `score`
#   failing       the same of whether a run fails, 0 or 1; NULL where that cannot be told
#   lengths, gap  what counts as near, for each coordinate, and the distance from the nearest run up to which a point is among them
#   low, high     the ends of the runs
# A part has the coordinates it `used`, its `kind`, the `fit`, the values `y` it was fitted to, and `calibration`: how much larger its
# errors were in runs that it was not fitted to than it says itself.

surrogate_data <- function(coordinates, x, values, kinds, failed, designed) {
  outputs <- lapply(values, function(value) {
    rows <- which(is_finite_run(value) & !failed)
    fitted_output(if (is.matrix(value)) value[rows, , drop = FALSE] else as.double(value[rows]), x[rows, , drop = FALSE], rows, coordinates, kinds,
      designed)
  })
  failing <- if (any(failed)) fitted_failing(failed, x, coordinates, kinds, designed)
  data <- list(coordinates = coordinates, runs = x, outputs = outputs, failing = failing)
  c(data, cloud_of(data))
}

# One output, with what was found on the way.
fitted_output <- function(y, x, rows, coordinates, kinds, designed) {
  counts <- judging_runs(designed[rows])
  series <- if (is.matrix(y)) components_of(y)
  values <- if (is.null(series)) list(y) else lapply(seq_len(ncol(series$scores)), function(k) series$scores[, k])
  made <- lapply(values, surrogate_of_output, x = x, coordinates = coordinates, kinds = kinds, counts = counts)
  held <- vapply(made, function(one) one$best[[1]]$held$mean, numeric(length(rows))) |> matrix(length(rows))
  error <- vapply(made, function(one) one$best[[1]]$held$error, numeric(length(rows))) |> matrix(length(rows))
  parts <- lapply(seq_along(made), function(k) {
    best <- made[[k]]$best[[1]]
    list(used = made[[k]]$used, kind = best$kind, fit = best$fit, y = values[[k]],
      calibration = max(sqrt(mean(((values[[k]] - held[, k]) / error[, k])^2)), 1e-12))
  })
  folds <- made[[1]]$best[[1]]$folds
  list(rows = rows, centre = series$centre, loadings = series$loadings, parts = parts,
    found = output_findings(y, made, parts, held, error, folds, series, counts))
}

# The runs of the design, where there are ten.
judging_runs <- function(designed) if (sum(designed) >= 10) designed else rep(TRUE, length(designed))

output_findings <- function(y, made, parts, held, error, folds, series, counts) {
  whole <- if (is.null(series)) list(y = y, held = held[, 1]) else
    list(y = y, held = held %*% t(series$loadings) + rep(series$centre, each = nrow(y)))
  score <- predictive_score(whole$y, whole$held, folds, counts)
  candidates <- lapply(made, function(one) vapply(one$best, `[[`, 0, "r_squared"))
  weight <- vapply(made, function(one) one$best[[1]]$total, 0)
  lost <- Reduce(`+`, lapply(seq_along(made), function(k) made[[k]]$parts$part * weight[k])) / score$total
  scatter <- sqrt(Reduce(`+`, lapply(seq_along(made), function(k) (made[[k]]$parts$error * weight[k])^2))) / score$total
  idle <- Reduce(`&`, lapply(made, function(one) one$parts$idle))
  list(score = score, candidates = candidates, folds = folds, held = whole$held, counts = counts, off = sqrt(mean(as.matrix(whole$y - whole$held)[counts, ]^2)),
    error = if (is.null(series)) error[, 1] * parts[[1]]$calibration,
    parts = data.frame(input = made[[1]]$parts$input, part = lost, error = scatter, idle = idle))
}

# A series as few components: as many as hold 99.9 % of its variance about the mean, at most eight.
components_of <- function(y) {
  centre <- colMeans(y)
  made <- svd(y - rep(centre, each = nrow(y)))
  share <- cumsum(made$d^2) / sum(made$d^2)
  count <- if (sum(made$d^2) == 0) 1 else min(which(share >= 0.999)[1], 8, nrow(y) - 1)
  keep <- seq_len(count)
  list(centre = centre, loadings = made$v[, keep, drop = FALSE], scores = made$u[, keep, drop = FALSE] * rep(made$d[keep], each = nrow(y)))
}

# Where runs fail, as a chance between 0 and 1: told from at least five runs that failed and five that did not.
fitted_failing <- function(failed, x, coordinates, kinds, designed) {
  if (min(sum(failed), sum(!failed)) < 5) return(NULL)
  made <- fitted_output(as.double(failed), x, seq_along(failed), coordinates, kinds, designed)
  if (made$found$score$r_squared <= 0) return(NULL)
  made
}

# Points among the runs: as near to one of them, and within their ends in each coordinate, as the runs are among themselves.
cloud_of <- function(data) {
  x <- data$runs[data_rows(data), , drop = FALSE]
  spread <- apply(x, 2, stats::sd)
  spread[!is.finite(spread) | spread == 0] <- 1
  # how far off an idle input is does not matter
  used <- seq_along(spread) %in% unlist(lapply(data$outputs, function(output) lapply(output$parts, `[[`, "used")))
  spread[!used] <- 1e300
  list(lengths = spread, gap = 1.5 * stats::quantile(cpp_nearest(x, x, spread, TRUE, threads_to_use()), 0.99, names = FALSE),
    low = ifelse(used, apply(x, 2, min), -Inf), high = ifelse(used, apply(x, 2, max), Inf))
}

# What is needed to predict, made once: a part's own state, and what belongs to all.
ready_surrogate <- function(data) {
  ready_output <- function(output) {
    output$states <- lapply(output$parts, function(part) {
      x <- data$runs[output$rows, part$used, drop = FALSE]
      surrogate_kind(part$kind)$ready(part$fit, x, part$y, data$coordinates[part$used])
    })
    output
  }
  data$outputs <- lapply(data$outputs, ready_output)
  if (!is.null(data$failing)) data$failing <- ready_output(data$failing)
  data
}

# An output's values, `"mean"` or `"error"`, at the coordinates `x`: of a series a matrix with a column for each step.
surrogate_values <- function(output, x, question = "mean") {
  values <- vapply(seq_along(output$parts), function(k) {
    part <- output$parts[[k]]
    found <- surrogate_kind(part$kind)[[question]](output$states[[k]], x[, part$used, drop = FALSE])
    if (question == "error") found * part$calibration else found
  }, numeric(nrow(x))) |> matrix(nrow(x))
  if (is.null(output$loadings)) return(values[, 1])
  if (question == "error") return(sqrt(values^2 %*% t(output$loadings)^2))
  weighted_sums(values, output$loadings) + rep(output$centre, each = nrow(x))
}

# Sums over components in one order, whatever the number of rows.
weighted_sums <- function(values, loadings) {
  out <- matrix(0, nrow(values), nrow(loadings))
  for (k in seq_len(ncol(values))) out <- out + values[, k] %o% loadings[, k]
  out
}

failing_chance <- function(data, x) {
  if (is.null(data$failing)) rep(0, nrow(x)) else pmin(pmax(surrogate_values(data$failing, x), 0), 1)
}

# Points that are not among the runs, or of a category that they have not.
is_beyond_runs <- function(data, x) {
  beyond <- rowSums(x < rep(data$low, each = nrow(x)) | x > rep(data$high, each = nrow(x))) > 0
  far <- cpp_nearest(x, data$runs[data_rows(data), , drop = FALSE], data$lengths, FALSE, threads_to_use()) > data$gap
  (beyond | far) %in% TRUE | is.na(beyond)
}

data_rows <- function(data) sort(unique(unlist(lapply(data$outputs, `[[`, "rows"))))
