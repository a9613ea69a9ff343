# Ratios side by side: what plain R takes, over what Ensayo takes, the median of paired repeats in one run. Above 1
# Ensayo is that many times as fast. Compare machines by ratios, never by seconds.
library(ensayo)

ratio <- function(what, ours, plain, repeats = 5) {
  seconds <- function(f) system.time(f(), gcFirst = TRUE)[["elapsed"]]
  ours()
  plain()
  pairs <- replicate(repeats, c(ours = seconds(ours), plain = seconds(plain)))
  data.frame(what = what, ratio = signif(stats::median(pairs["plain", ] / pairs["ours", ]), 3),
    ours_s = signif(stats::median(pairs["ours", ]), 3), plain_s = signif(stats::median(pairs["plain", ]), 3))
}

show_ratios <- function(title, ...) {
  cat("\n", title, "\n", sep = "")
  old <- options(width = 200)
  on.exit(options(old))
  print(rbind(...), row.names = FALSE, right = FALSE)
}

# A Latin hypercube's margin, and ranks by the fastest sort that R has.
latin <- function(n) (sample.int(n) - stats::runif(n)) / n
fast_rank <- function(x) {
  ranks <- integer(length(x))
  ranks[order(x, method = "radix")] <- seq_along(x)
  ranks
}
