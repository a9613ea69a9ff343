# What is printed, as one line.
format_lines <- function(x) gsub("\\s+", " ", paste(cli::ansi_strip(capture.output(print(x))), collapse = " "))

# JCGM 100:2008, H.1: an end gauge compared with a standard of the same nominal length; mm and degrees. Limits that are known to a
# tenth and to a half count 50 and 2 degrees of freedom (H.1.6).
end_gauge <- function() {
  study("End gauge") |>
    add_inputs(
      standard = input(law_measured(50.000623, expanded = 0.000075, k = 3, df = 18), unit = "mm", label = "Length of the standard"),
      difference = input(law_observed(n = 5, mean = 0.000215, sd = 0.000013, df = 24, of = "mean"), unit = "mm"),
      comparator_random = input(law_measured(0, expanded = 3.9e-6, k = 1, df = 5), unit = "mm"),
      comparator_systematic = input(law_measured(0, expanded = 6.7e-6, k = 1, df = 8), unit = "mm"),
      expansion = law_measured(11.5e-6, half_width = 2e-6), test_bed = law_measured(-0.1, expanded = 0.2, k = 1), swing = law_cycle(0.5),
      expansion_difference = law_measured(0, half_width = 1e-6, df = 50), temperature_difference = law_measured(0, half_width = 0.05, df = 2)) |>
    add_outputs(length = output(standard + difference + comparator_random + comparator_systematic -
      standard * (expansion_difference * (test_bed + swing) + expansion * temperature_difference), unit = "mm", label = "Length of the gauge"))
}

# H.2: five sets of simultaneous readings of voltage, current and phase.
impedance_readings <- data.frame(V = c(5.007, 4.994, 5.005, 4.990, 4.999), I = c(19.663, 19.639, 19.640, 19.685, 19.678),
  phi = c(1.0456, 1.0438, 1.0468, 1.0428, 1.0433))

impedance <- function() {
  study("Impedance") |> add_observations(impedance_readings, of = "mean") |>
    add_outputs(R = V / (I / 1000) * cos(phi), X = V / (I / 1000) * sin(phi), Z = V / (I / 1000))
}

# A study whose output is one expression of normal inputs.
of_inputs <- function(expr, ...) study("t") |> add_inputs(...) |> add_outputs(y = !!rlang::enexpr(expr))
