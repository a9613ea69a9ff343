# How long the explorer's side of R takes to answer a target that was moved, at a million runs: the chances on both sides, with their
# simulation error, as they are sent to the page; beside a plain count of the runs on each side.
library(ensayo)
inside <- asNamespace("ensayo")
main <- read_study(system.file("studies", "gravity-main.yml", package = "ensayo"))
res <- simulate(main, nsim = 1e6, seed = 11)
pressure <- output_values(res, "pressure")
targets <- seq(34, 44, length.out = 30)
ours <- plain <- numeric(length(targets))
for (i in seq_along(targets)) {
  asked <- list(value = targets[i], output = "pressure", number = i)
  ours[i] <- system.time(answer <- inside$to_json(inside$explored_answer(res, "res", asked)))[["elapsed"]]
  plain[i] <- system.time(count <- c(sum(pressure <= targets[i]), sum(pressure > targets[i])) / length(pressure))[["elapsed"]]
}
cat(sprintf("a moved target at 1e6 runs is answered in %.3f s (median; longest %.3f s); counting alone takes %.3f s, ratio %.2f\n",
  median(ours), max(ours), median(plain), median(plain) / median(ours)))
