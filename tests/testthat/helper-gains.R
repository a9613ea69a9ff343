# What it is worth to be rid of an event, against fresh runs of the study without it: a sum, and a product of things.
gain_studies <- function() {
  sum <- study() |> add_inputs(pipe = law_pert(370, 410, 520), trench = law_pert(560, 620, 800)) |>
    add_events(rock = event(0.3, law_pert(40, 60, 160)), burst = event(0.15, law_pert(20, 50, 120)),
      claims = event(rate = 2, impact = law_lognormal(mean = 8, sd = 12)), flood = event(0.05, 150)) |>
    add_outputs(cost = pipe + trench + sum(events))
  list(sum = sum, product = replace_outputs(sum, cost = max(pipe, trench * 0.65) * (1 + sum(events) / 1000)))
}

fresh_gains <- function(study, limit, n, seed) {
  figures <- function(study, seed) {
    cost <- as.data.frame(simulate(study, n, seed, design = "random", progress = NULL))$cost
    c(mean_gain = mean(cost), gain = unname(quantile(cost, 0.8)), chance_gain = -mean(cost <= limit))
  }
  with <- figures(study, seed)
  t(vapply(names(study$events), function(event) with - figures(remove_events(study, !!event), seed + 1), with))
}

# The share of seeds, by event and figure, whose interval of 1.96 simulation errors holds what fresh runs of two seeds say.
gain_coverage <- function(study, limit, seeds, nsim = 4000, fresh = 4e5) {
  truth <- (fresh_gains(study, limit, fresh, 901) + fresh_gains(study, limit, fresh, 951)) / 2
  held <- lapply(seeds, function(seed) {
    res <- simulate(study, nsim, seed, design = "random", progress = NULL)
    gains <- as.data.frame(rlang::inject(removal_gain(res, "cost", cost <= !!limit, of = "events")))
    gains <- gains[match(rownames(truth), gains$name), ]
    abs(gains[colnames(truth)] - truth) <= 1.96 * gains[c("mean_error", "error", "chance_error")]
  })
  Reduce(`+`, held) / length(seeds)
}
