# Formulas evaluated on numbers that carry their derivatives (formula-taylor.R).

# What R would not find methods for by itself.
taylor_masks <- function() {
  smooth <- function(name, f) {
    force(f)
    plain <- get(name, envir = asNamespace(if (exists(name, envir = baseenv(), inherits = FALSE)) "base" else "stats"))
    function(...) if (any(vapply(list(...), is_taylor, NA))) f(...) else plain(...)
  }
  several <- Map(smooth, names(taylor_summaries), taylor_summaries)
  c(several, list(
    pmax = smooth("pmax", taylor_summaries$max), pmin = smooth("pmin", taylor_summaries$min), c = smooth("c", list),
    ifelse = function(test, yes, no) if (length(test) == 1) (if (isTRUE(as.logical(test))) yes else no) else base::ifelse(test, yes, no),
    atan2 = smooth("atan2", function(y, x) taylor_angle(y, x)),
    lbeta = smooth("lbeta", function(a, b) lgamma(a) + lgamma(b) - lgamma(a + b)),
    beta = smooth("beta", function(a, b) exp(lgamma(a) + lgamma(b) - lgamma(a + b))),
    lchoose = smooth("lchoose", function(n, k) lgamma(n + 1) - lgamma(k + 1) - lgamma(n - k + 1)),
    choose = smooth("choose", function(n, k) exp(lgamma(n + 1) - lgamma(k + 1) - lgamma(n - k + 1))),
    pnorm = smooth("pnorm", taylor_pnorm), dnorm = smooth("dnorm", taylor_dnorm), qnorm = smooth("qnorm", taylor_qnorm)
  ))
}

# The angle of the point, from the side on which its quotient is small.
taylor_angle <- function(y, x) {
  at <- c(value_of_taylor(y), value_of_taylor(x))
  if (all(at == 0)) {
    note_kink("`atan2()` has no angle there", as_taylor(y)$c1 != 0 | as_taylor(x)$c1 != 0)
  }
  made <- if (abs(at[2]) >= abs(at[1])) atan(y / x) else -atan(x / y)
  made[["c0"]] <- atan2(at[1], at[2])
  made
}

taylor_pnorm <- function(q, mean = 0, sd = 1) {
  z <- (q - mean) / sd
  at <- value_of_taylor(z)
  composed(z, stats::pnorm(at), stats::dnorm(at), -at * stats::dnorm(at) / 2, (at^2 - 1) * stats::dnorm(at) / 6)
}

taylor_dnorm <- function(x, mean = 0, sd = 1) {
  z <- (x - mean) / sd
  at <- value_of_taylor(z)
  d <- stats::dnorm(at)
  composed(z, d, -at * d, (at^2 - 1) * d / 2, (3 * at - at^3) * d / 6) / sd
}

taylor_qnorm <- function(p, mean = 0, sd = 1) {
  q <- stats::qnorm(value_of_taylor(p))
  d <- stats::dnorm(q)
  if (!is_taylor(p)) return(mean + sd * q)
  mean + sd * composed(p, q, 1 / d, q / (2 * d^2), (1 + 2 * q^2) / (6 * d^3))
}

# The formula language for such numbers; what acts on series has no derivatives.
taylor_language <- function() {
  from_base <- mget(c(elementwise_functions, "c"), envir = baseenv())
  from_stats <- mget(elementwise_stats, envir = asNamespace("stats"))
  none <- lapply(stats::setNames(nm = series_verbs), function(name) {
    function(...) stop_undifferentiable(sprintf("`%s()` reads a series", name))
  })
  masks <- taylor_masks()
  # within a run, as the language has them
  own <- list(pi = pi, mean = function(...) Reduce(`+`, list(...)) / ...length(),
    `if` = function(condition, yes, no) if (as.logical(condition)) yes else no,
    ifelse = function(condition, yes, no) if (as.logical(condition)) yes else no,
    `&&` = function(left, right) as.logical(left) && as.logical(right),
    `||` = function(left, right) as.logical(left) || as.logical(right),
    `%in%` = function(x, table) value_of_taylor(x) %in% table, date = date_verb, lookup = taylor_lookup)
  known <- c(from_base, from_stats)
  known[c(names(none), names(masks), names(own))] <- c(none, masks, own)
  list2env(known, parent = emptyenv())
}

# Along a table's straight lines; at a point where two of them meet there is a kink.
taylor_lookup <- function(table, x, y) {
  if (!missing(y) || !is.null(table$y)) stop_undifferentiable("it looks up a table of two quantities")
  at <- value_of_taylor(x)
  value <- lookup_in_run(table, at, , list(runs = 1, fail = function(...) NULL))
  if (!is_taylor(x)) return(value)
  k <- findInterval(at, table$x, rightmost.closed = TRUE)
  if (k < 1 || k >= length(table$x)) return(new_taylor(value, 0 * as_taylor(x)$c1))
  slope <- diff(table$values) / diff(table$x)
  if (at == table$x[k] && k > 1 && slope[k] != slope[k - 1]) note_kink("two lines of a look-up table meet there", as_taylor(x)$c1 != 0)
  composed(x, value, slope[k], 0, 0)
}

# A function of the user's own that finds these in place of R's.
taylor_function <- function(fun, seen = new.env()) {
  if (is.primitive(fun) || isNamespace(environment(fun))) return(fun)
  home <- environment(fun)
  key <- rlang::obj_address(home)
  if (is.null(seen[[key]])) {
    masks <- list2env(taylor_masks(), parent = parent.env(home))
    seen[[key]] <- new.env(parent = masks)
    for (name in ls(home, all.names = TRUE)) {
      value <- get(name, envir = home)
      assign(name, if (is.function(value)) taylor_function(value, seen) else value, envir = seen[[key]])
    }
  }
  environment(fun) <- seen[[key]]
  fun
}

# The formula's value with its derivatives: NaN along directions that cross a kink; `kinks` gets the words.
evaluate_taylor <- function(formula, columns, language, kinks = function(words) NULL) {
  functions <- lapply(formula$functions, function(bound) taylor_function(bound$fun))
  parent <- if (length(functions)) list2env(functions, parent = language) else language
  values <- c(lapply(formula$constants, plain_number), formula$tables, columns[formula$uses])
  kink_free(eval(formula$expr, list2env(values, parent = parent)), kinks)
}

kink_free <- function(expr, kinks) {
  crossed <- FALSE
  value <- withCallingHandlers(expr, ensayo_kink = function(kink) {
    kinks(conditionMessage(kink))
    crossed <<- crossed | kink$moves
  })
  without_crossed(value, crossed)
}

without_crossed <- function(value, crossed) {
  if (!any(crossed)) return(value)
  if (is.list(value) && !is_taylor(value)) return(lapply(value, without_crossed, crossed))
  value <- as_taylor(value)
  lost <- ifelse(crossed, NaN, 0)
  new_taylor(value$c0, value$c1 + lost, value$c2 + lost, value$c3 + lost)
}
