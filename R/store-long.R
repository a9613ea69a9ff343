# Columns that memory should not hold at once: their figures come from passes over the pieces of the store, a piece and
# the few values around what is asked in memory at a time. They answer as vectors of good values do.

# Bytes up to which a column is read at once.
column_at_most <- 4e8

is_long_store <- function(store) store$kind == "folder" && 8 * store$count > column_at_most

long_column <- function(store, name) {
  column <- structure(list(store = store, name = name), class = "ensayo_long_column")
  column$moments <- over_pieces(column, NULL, function(all, values) {
    m <- cpp_moments(values)
    if (m$count == 0) all else if (is.null(all)) m else joined_moments(all, m)
  }) %||% cpp_moments(numeric())
  column
}

#' @export
length.ensayo_long_column <- function(x) .subset2(x, "moments")$count

good_numbers <- function(x) if (all_finite(x)) x else x[is.finite(x)]

is_long <- function(x) inherits(x, "ensayo_long_column")

# Puts the numbers of one piece after another to what came of those before.
over_pieces <- function(column, all, put) {
  pieces <- store_pieces(column$store)
  for (i in seq_len(nrow(pieces))) {
    values <- store_piece(column$store, column$name, pieces$first[i], pieces$count[i])[[1]]
    all <- put(all, as.double(values))
  }
  all
}

moments_of <- function(x) if (is_long(x)) x$moments else cpp_moments(x)

# Moments about the mean put together as in Chan, Golub and LeVeque (1979).
joined_moments <- function(a, b) {
  scale <- max(a$scale, b$scale)
  plain <- function(m) c(m$m2, m$m3, m$m4) * (m$scale / scale)^(2:4) * m$count
  p <- plain(a)
  q <- plain(b)
  n <- a$count
  k <- b$count
  all <- n + k
  d <- (b$mean - a$mean) / scale
  sums <- c(
    p[1] + q[1] + d^2 * n * k / all,
    p[2] + q[2] + d^3 * n * k * (n - k) / all^2 + 3 * d * (n * q[1] - k * p[1]) / all,
    p[3] + q[3] + d^4 * n * k * (n^2 - n * k + k^2) / all^3 + 6 * d^2 * (n^2 * q[1] + k^2 * p[1]) / all^2 +
      4 * d * (n * q[2] - k * p[2]) / all) / all
  list(count = all, mean = a$mean + (b$mean - a$mean) * k / all, min = min(a$min, b$min), max = max(a$max, b$max),
    m2 = sums[1], m3 = sums[2], m4 = sums[3], scale = scale)
}

# How many values are below a value, equal to it, and good.
counts_about <- function(x, value) {
  if (!is_long(x)) return(cpp_counts_about(as.double(x), value))
  over_pieces(x, c(below = 0, equal = 0, finite = 0), function(all, values) {
    all + cpp_counts_about(values[is.finite(values)], value)
  })
}

# Some values, in place of all where these are too many: for what smoothing shows.
some_values <- function(x, most = 1e6) {
  if (!is_long(x)) return(x)
  values <- as.double(store_piece(x$store, x$name, 0, min(most, x$store$count))[[1]])
  values[is.finite(values)]
}

# Values by their ranks, exactly: a pass counts how many lie in each of many cells, which get narrower around what is
# asked until few enough values are left to be collected and sorted.
order_statistics <- function(x, ranks) {
  if (!is_long(x)) return(cpp_order_statistics(as.double(x), ranks))
  found <- rep(NA_real_, length(ranks))
  # each cell has its lower edge; the last one holds the largest value alone
  edges <- first_edges(x, ranks)
  repeat {
    counts <- cell_counts(x, edges)
    below <- c(0, cumsum(counts))
    cell <- findInterval(ranks - 0.5, below)
    single <- holds_one_value(edges[cell], edges[cell + 1])
    found[single] <- edges[cell[single]]
    wanted <- sort(unique(cell[is.na(found)]))
    if (length(wanted) == 0) return(found)
    if (sum(counts[wanted]) <= values_collected) break
    edges <- sort(unique(c(edges[1], x$moments$max, Inf, unlist(lapply(wanted, function(i) {
      cells_between(edges[i], edges[i + 1], max(2, long_cells %/% length(wanted)))
    })))))
  }
  is_wanted <- c(FALSE, seq_along(edges) %in% wanted)  # a place for values below all edges: there are none
  kept <- sort(unlist(over_pieces(x, list(), function(all, values) {
    values <- good_numbers(values)
    c(all, list(values[is_wanted[findInterval(values, edges) + 1]]))
  })))
  before <- cumsum(c(0, counts[wanted]))
  open <- which(is.na(found))
  found[open] <- kept[ranks[open] - below[cell[open]] + before[match(cell[open], wanted)]]
  found
}

long_cells <- 2^16
values_collected <- 1e7

# Cells in which the ranks are to be found, as some of the values have it; where they are not after all, the cell that holds
# them gets narrower as others do.
first_edges <- function(x, ranks) {
  some <- sort(some_values(x))
  m <- length(some)
  p <- ranks / length(x)
  reach <- 5 * sqrt(m * p * (1 - p)) + 2
  low <- floor(m * p - reach)
  high <- ceiling(m * p + reach)
  ends <- c(x$moments$min, x$moments$max)
  c(sort(unique(c(ends, some[low[low >= 1]], some[high[high <= m]]))), Inf)
}

# Edges of cells from one value to another.
cells_between <- function(low, high, count) {
  along <- (seq_len(count) - 1) / count
  sort(unique(c(pmin(pmax((1 - along) * low + along * high, low), high), low, high)))
}

# No double lies between the edges, or nothing lies above the lower one.
holds_one_value <- function(low, high) {
  middle <- low / 2 + high / 2
  high == Inf | middle <= low | middle >= high
}

cell_counts <- function(x, edges) {
  over_pieces(x, numeric(length(edges) - 1), function(all, values) {
    all + tabulate(findInterval(good_numbers(values), edges), length(edges) - 1)
  })
}
