# Compound sums: 300 of them in a study of 10,000 runs, each with a count of 15 a run and a lognormal size of its own. Drawn one by one,
# by the law, and as R does it, run by run. Run from the project's root.
source(file.path("bench", "ratio.R"))

many <- 300
runs <- 10000
sizes <- stats::setNames(lapply(seq_len(many), function(i) law_lognormal(mean = 3 + i / 20, sd = 5)), paste0("sum", seq_len(many)))
study_of <- function(make) study() |> add_inputs(!!!lapply(sizes, make)) |> add_outputs(first = sum1)
by_runs <- study_of(function(size) occurrences(law_poisson(15), size, by = "runs"))
by_law <- study_of(function(size) law_compound(law_poisson(15), size))
idiom <- function() for (size in sizes) {
  log_sd <- sqrt(log1p((5 / mean(size))^2))
  log_mean <- log(mean(size)) - log_sd^2 / 2
  vapply(rpois(runs, 15), function(n) sum(rlnorm(n, log_mean, log_sd)), 0)
}
drawn <- function(study) function() draw_inputs(study, runs, seed = 1, progress = NULL)

first <- system.time(drawn(by_law)())[["elapsed"]]
again <- system.time(drawn(by_law)())[["elapsed"]]
cat(sprintf("laws made, with their tables: %.0f ms each\n", 1000 * (first - again) / many))
show_ratios("300 sums of 15 sizes, 10,000 runs", ratio("each occurrence drawn, against R run by run", drawn(by_runs), idiom, 3),
  ratio("by the law, once made, against each occurrence drawn", drawn(by_law), drawn(by_runs), 3),
  ratio("a plain lognormal column, against a sum by the law", drawn(study_of(identity)), drawn(by_law)))

# of many occurrences; ten draws at a time, for one by the law takes two milliseconds
of_many <- function(rate) {
  size <- law_lognormal(mean = 3, sd = 5)
  by_runs <- study() |> add_inputs(a = occurrences(law_poisson(rate), size, by = "runs")) |> add_outputs(b = a)
  by_law <- study() |> add_inputs(a = law_compound(law_poisson(rate), size)) |> add_outputs(b = a)
  ten <- function(study) function() for (i in 1:10) drawn(study)()
  ratio(sprintf("one sum of %g sizes by the law, once made, against each occurrence drawn", rate), ten(by_law), ten(by_runs), 3)
}
show_ratios("Many occurrences, 10,000 runs", of_many(200), of_many(2000), of_many(5000))
