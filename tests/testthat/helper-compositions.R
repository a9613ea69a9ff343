# Laws made of laws at random, each checked against routes that share nothing with the code: plain R's functions put
# together as the words say, draws by rejection and by taking the largest of k, integrals of the density.

# A family's law and what plain R says of it: F(x), P(X < x), draws.
plain_base <- function() {
  pick <- function(...) sample(list(...), 1)[[1]]
  size <- pick(1e-3, 1, 1, 30, 1e4)
  at <- pick(0, 0, 1, -20, 1e3) * size
  plain <- function(law, name, ..., scale = size, from = at) {
    arguments <- list(...)
    p <- getExportedValue("stats", paste0("p", name))
    r <- getExportedValue("stats", paste0("r", name))
    # R takes counts a little below a whole number for it
    place <- function(x) if (is_discrete(law)) floor((x - from) / scale + 1e-12 * pmax(abs(x - from), abs(from)) / scale)
      else (x - from) / scale
    list(law = law, F = function(x) do.call(p, c(list(place(x)), arguments)),
      draw = function(n) from + scale * do.call(r, c(list(n), arguments)))
  }
  shape <- pick(0.3, 0.7, 1, 2.5, 9)
  other <- pick(0.4, 1, 3, 12)
  switch(sample(14, 1),
    plain(law_normal(at, size), "norm"),
    plain(law_uniform(at, at + size), "unif"),
    plain(law_gamma(shape, size, min = at), "gamma", shape = shape),
    plain(law_beta(shape, other, min = at, max = at + size), "beta", shape, other),
    plain(law_exponential(rate = 1 / size, min = at), "exp"),
    plain(law_weibull(shape, size, min = at), "weibull", shape),
    plain(law_logistic(at, size), "logis"),
    plain(law_student(other + 0.5, at, size), "t", other + 0.5),
    plain(law_lognormal(meanlog = log(size), sdlog = shape / 3, min = at), "lnorm", 0, shape / 3),
    list(law = law_triangular(at, at + size * 0.3, at + size), F = function(x) {
      t <- pmin(pmax((x - at) / size, 0), 1)
      ifelse(t < 0.3, t^2 / 0.3, 1 - (1 - t)^2 / 0.7)
    }, draw = function(n) {
      u <- runif(n)
      at + size * ifelse(u < 0.3, sqrt(0.3 * u), 1 - sqrt(0.7 * (1 - u)))
    }),
    # a gap inside, and a class that is nearly empty
    list(law = law_histogram(at + size * c(0, 1, 1.5, 1.501, 3), c(2, 0, 1e-3, 1)), F = function(x) {
      approx(at + size * c(0, 1, 1.5, 1.501, 3), c(0, 2, 2, 2.001, 3.001) / 3.001, x, rule = 2)$y
    }, draw = function(n) approx(c(0, 2, 2.001, 3.001) / 3.001, at + size * c(0, 1, 1.501, 3), runif(n))$y *
      1 + 0),
    plain(at + size * law_poisson(shape * other), "pois", shape * other),
    plain(at + size * law_binomial(6, 0.3), "binom", 6, 0.3),
    {
      values <- at + size * c(-1, 0, 2.5)
      list(law = law_discrete(values, c(2, 5, 3)), F = function(x) c(0, 0.2, 0.7, 1)[findInterval(x, values) + 1],
        draw = function(n) sample(values, n, TRUE, c(2, 5, 3)))
    }
  )
}

# P(X < x) from F: of the laws here nothing lies so near before a value that has a probability of its own.
just_below <- function(F, x) F(x - pmax(abs(x) * 1e-11, 1e-300))

random_composition <- function(depth) {
  if (depth == 0) return(plain_base())
  inner <- random_composition(depth - 1)
  of <- inner$law
  switch(sample(c("truncated", "truncated", "mixture", "mixture", "scaled", "largest", "smallest"), 1),
    truncated = {
      cuts <- sort(sample(c(1e-9, 1e-3, 0.1, 0.35, 0.6, 0.9, 0.999), 2))
      ends <- quantile(of, cuts)
      if (runif(1) < 0.3) ends[1] <- -Inf else if (runif(1) < 0.4) ends[2] <- Inf
      # so near to an end of the law that doubles there do not tell its probability
      near <- ends != support(of) & abs(ends - support(of)) < 1e-9 * abs(ends)
      if (!(ends[1] < ends[2]) || any(near %in% TRUE)) return(inner)
      low <- just_below(inner$F, ends[1])
      kept <- inner$F(ends[2]) - low
      if (!is.finite(kept) || kept < 1e-3) return(inner)
      list(law = law_truncated(of, ends[1], ends[2]),
        F = function(x) (inner$F(pmin(pmax(x, ends[1]), ends[2])) - low) / kept * (x >= ends[1]),
        draw = function(n) {
          x <- numeric()
          for (try in 1:400) {
            new <- inner$draw(n)
            rounding <- 16 * .Machine$double.eps * abs(ends)  # plain R's draws may be put together in another order
            rounding[!is.finite(ends)] <- 0
            x <- c(x, new[new >= ends[1] - rounding[1] & new <= ends[2] + rounding[2]])
            if (length(x) >= n) return(x[seq_len(n)])
          }
          x
        })
    },
    mixture = {
      other <- if (runif(1) < 0.4) {
        value <- unname(quantile(of, sample(c(0.01, 0.4, 0.8), 1)))
        list(law = value, F = function(x) as.double(x >= value), draw = function(n) rep(value, n))
      } else random_composition(sample(0:1, 1))
      w <- sample(c(0.01, 0.3, 0.5, 0.9), 1)
      list(law = law_mixture(list(of, other$law), c(1 - w, w)), F = function(x) (1 - w) * inner$F(x) + w * other$F(x),
        draw = function(n) ifelse(runif(n) < w, other$draw(n), inner$draw(n)))
    },
    scaled = {
      times <- sample(c(-1, -2.5, 0.5, 3, -1e-3), 1)
      plus <- sample(c(0, 1, -100), 1)
      list(law = times * of + plus, F = function(x) {
        at <- (x - plus) / times
        slack <- pmax(abs(x), abs(plus)) / abs(times) * 1e-13
        # by less than a truncation steps back, or the two would meet
        if (times > 0) inner$F(at + slack) else 1 - inner$F(at - slack - 3e-12 * abs(at))
      }, draw = function(n) times * inner$draw(n) + plus, rough = TRUE)
    },
    largest = , smallest = {
      k <- sample(c(1, 2, 5, 40), 1)
      largest <- runif(1) < 0.5
      list(law = if (largest) law_largest(of, k) else law_smallest(of, k),
        F = function(x) if (largest) inner$F(x)^k else 1 - (1 - inner$F(x))^k,
        draw = function(n) {
          x <- inner$draw(n * k)  # a rejection may give up before it has them all
          x <- matrix(x[seq_len(length(x) %/% k * k)], ncol = k)
          x[cbind(seq_len(nrow(x)), max.col(if (largest) x else -x, "first"))]
        })
    }
  )
}

# What is wrong with a law, as texts; none is what is hoped for.
composition_faults <- function(made, n = 600) {
  law <- ready_to_invert(made$law)
  faults <- character()
  fault <- function(right, text) if (!isTRUE(all(right))) faults <<- c(faults, text)
  ends <- support(made$law)
  p <- c(1e-100, 1e-30, 1e-12, 1e-6, 0.001, 0.03, 0.2, 0.5, 0.7, 0.95, 0.998, 1 - 1e-6, 1 - 1e-12)
  for (lower in c(TRUE, FALSE)) {
    x <- ask(law, "quantile", p, lower)
    fault(!is.unsorted(if (lower) x else rev(x)), paste("order", lower))
    fault(x >= ends[1] & x <= ends[2], paste("support", lower))
    fault(spans(law, x, p, lower), paste("inversion", lower))
  }
  # plain R's word, where its differences have digits
  x <- ask(law, "quantile", c(0.003, 0.05, 0.3, 0.7, 0.95, 0.998), TRUE)
  step <- pmax(max(abs(x)) * 1e-10, max(abs(numbers_in(law$par)), 0) * 1e-11, 1e-300)
  told <- ask(law, "cumulative", x, TRUE, FALSE)
  fault(told >= made$F(x - step) - 1e-6 & told <= made$F(x + step) + 1e-6, "cumulative")
  # draws of plain R, by their greatest distance from the law
  drawn <- made$draw(n)
  m <- as.list(ask(law, "moments"))
  m$sd <- sqrt(m$variance)
  if (length(drawn) == n) {
    values <- sort(unique(drawn))
    seen <- ecdf(drawn)
    step <- pmax(max(abs(values)) * 1e-12, 1e-300)
    above <- pmax(seen(values) - ask(law, "cumulative", values + step, TRUE, FALSE),
      ask(law, "cumulative", values - step, TRUE, FALSE) - seen(values))
    fault(max(above) * sqrt(n) < 2.8, "rejection")
    if (is.finite(m$excess_kurtosis) && m$excess_kurtosis < 30 && m$sd > 0) {
      fault(abs(mean(drawn) - m$mean) / m$sd * sqrt(n) < 5.5, "mean")
      fault(abs(var(drawn) / m$variance - 1) < 7 * sqrt((m$excess_kurtosis + 3) / n), "variance")
    }
  }
  # the draw engine's word
  u <- stream_uniforms("u", 1, "latin", n)
  engine <- draw_from(made$law, u)
  fault(engine >= ends[1] & engine <= ends[2], "drawn outside")
  fault(spans(law, engine, u, TRUE, 1e-8), "drawn")
  c(faults, density_faults(law), mode_faults(law, ask(law, "mode")), text_faults(made$law))
}

# Every finite number that a law is made of: none of its values is told more finely than these are.
numbers_in <- function(par) {
  found <- unlist(lapply(par, function(x) if (is_ready(x)) numbers_in(x$par) else if (is.list(x)) numbers_in(x) else
    if (is.numeric(x) && length(x)) range(x)))
  found[is.finite(found)]
}

# Whether x is a quantile for p: F just below it is at most p, and at it at least p.
spans <- function(law, x, p, lower, slack = 1e-9) {
  reach <- max(abs(numbers_in(law$par)), 0)
  step <- pmax((if (law$discrete) 1e-12 else 4 * .Machine$double.eps) * pmax(abs(x), reach), 1e-316)
  a <- ask(law, "cumulative", x - step, lower, FALSE)
  b <- ask(law, "cumulative", x + step, lower, FALSE)
  slack <- slack * pmin(p, 1 - p) + 1e-15 * (p > 0.5)
  pmin(a, b) <= p + slack & p - slack <= pmax(a, b)
}

# The density is the slope of the cumulative probability between the kinks that the law states.
density_faults <- function(law) {
  if (law$discrete) return(if (abs(sum(points_of(law)$shares) - 1) > 1e-9) "masses")
  missed <- density_missed(law, 0.01, 0.99, 25, 2)
  if (any(abs(missed) > 1e-3)) sprintf("density off by %s", signif(max(abs(missed)), 3))
}

# How far integrals of the density are from the probability between two of its quantiles, piece by piece. Where a piece
# spans places far from each other it is cut again.
density_missed <- function(law, from, to, pieces, again) {
  cuts <- ask(law, "quantile", seq(from, to, length.out = pieces), TRUE)
  knots <- knots_of(law)
  knots <- knots[knots > cuts[1] & knots < cuts[pieces]]
  near <- vapply(cuts, function(x) any(abs(knots - x) < 1e-9 * max(abs(cuts))), TRUE)
  cuts <- sort(c(knots, unique(cuts[!near])))
  k <- length(cuts)
  if (k < 2) return(0)
  # x goes as a power of 8 from both ends, so that infinite densities there do no harm; by the trapezoidal rule. Where it
  # rounds to an end, nothing is left of the piece.
  t <- (1:100) / 101
  width <- diff(cuts)
  x <- rep(cuts[-k], each = 100) + as.vector(outer(pbeta(t, 8, 8), width))
  height <- ask(law, "density", x, FALSE)
  height[x == rep(cuts[-k], each = 100) | x == rep(cuts[-1], each = 100)] <- 0
  height <- matrix(height, 100) * outer(dbeta(t, 8, 8) / 101, width)
  atoms <- ask(law, "atoms")
  own <- atoms$shares[match(cuts[-1], atoms$values)]
  above <- ask(law, "cumulative", cuts, FALSE, FALSE)
  missed <- colSums(height) - (above[-k] - above[-1] - ifelse(is.na(own), 0, own))
  missed[width < 1e-9 * pmax(abs(cuts[-1]), abs(cuts[-k]))] <- 0  # too narrow for doubles
  for (i in if (again > 0) which(abs(missed) > 1e-3)) {
    ends <- 1 - c(above[i], ask(law, "strict", cuts[i + 1], FALSE, FALSE))
    missed[i] <- sum(density_missed(law, ends[1], ends[2], 40, again - 1))
  }
  missed
}

# Nothing is more likely than the most likely value.
mode_faults <- function(law, mode) {
  if (is.na(mode)) return(NULL)
  atoms <- ask(law, "atoms")
  if (length(atoms$values)) {
    if (!any(atoms$shares[atoms$values == mode] >= max(atoms$shares) * (1 - 1e-9))) return("mode of values")
    return(NULL)
  }
  heights <- ask(law, "density", ask(law, "quantile", ppoints(60), TRUE), TRUE)
  near <- mode + max(abs(mode), diff(ask(law, "quantile", c(0.25, 0.75), TRUE))) * 2^-c(30, 40, 46, 52)
  near <- c(near, mode, 2 * mode - near, mode * (1 - 2^-52), mode * (1 + 2^-52))
  if (max(ask(law, "density", near, TRUE)) < max(heights) - 1e-6) "mode"
}

text_faults <- function(law) {
  if (!identical(law_from_text(law_text(law), "a law"), law)) "text"
}

# The faults of compositions by their seeds; `depths` weighs laws as they are, laws of laws, and so on to four deep.
faulty_compositions <- function(seeds, depths = c(4, 6, 3, 0.7, 0.3)) {
  found <- lapply(seeds, function(seed) withr::with_seed(seed, {
    made <- tryCatch(random_composition(sample(0:4, 1, prob = depths)), error = function(e) list(fault = paste("making:", conditionMessage(e))))
    faults <- if (is.null(made$law)) made$fault
      else tryCatch(composition_faults(made), error = function(e) paste("error:", conditionMessage(e)))
    if (length(faults)) sprintf("seed %d, %s: %s", seed, if (!is.null(made$law)) law_text(made$law), paste(faults, collapse = "; "))
  }))
  unlist(found)
}

# Whether n draws stay inside their law, and its least and largest draw are no farther out than those of n may be.
extreme_faults <- function(law, n, seed) {
  x <- draw_inputs(study() |> add_inputs(x = law), n, seed = seed, design = "random")$x
  if (!is.numeric(x)) return(NULL)  # categories
  ready <- ready_law(law)
  ends <- ask(ready, "support")
  # to the rounding of a draw: next to an end doubles may not tell probabilities apart
  apart <- function(x) max(4 * .Machine$double.eps * abs(x), 5e-324)
  beyond <- c(ask(ready, "cumulative", min(x) + apart(min(x)), TRUE, FALSE),
    ask(ready, "strict", max(x) - apart(max(x)), FALSE, FALSE))
  chance <- -expm1(n * log1p(-pmin(beyond, 1)))
  c(if (anyNA(x) || min(x) < ends[1] || max(x) > ends[2]) "outside its support",
    if (any(chance < 1e-8)) sprintf("farther out than %s runs reach", format(n)))
}

faults_of_extremes <- function(laws, n, seeds) {
  unlist(Map(function(law, seed) {
    faults <- extreme_faults(law, n, seed)
    if (length(faults)) sprintf("seed %d, %s: %s", seed, law_text(law), paste(faults, collapse = "; "))
  }, laws, seeds))
}

faulty_extremes <- function(seeds, n, depths = c(1, 4, 4, 2, 1)) {
  faults_of_extremes(lapply(seeds, function(seed) {
    withr::with_seed(seed, random_composition(sample(0:4, 1, prob = depths)))$law
  }), n, seeds)
}
