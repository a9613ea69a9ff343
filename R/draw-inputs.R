#' Draw the inputs of a study
#'
#' The draws that [simulate()][simulate.ensayo_study] would make, without running a model: all of them or a range of
#' runs, as a data frame or written to a file piece by piece.
#'
#' @param study A study with at least one input.
#' @param nsim Whole number of at least 1: the number of runs of the design, in all. It may be larger than memory
#'   holds: then ask for a range of `runs`, or for a `file`.
#' @param seed Whole number, text or `NULL`, as for [simulate()][simulate.ensayo_study].
#' @param ... Not used; anything here is an error.
#' @param design `"latin"`, `"random"`, `"midpoints"` or `"sobol"`: see the section on designs.
#' @param replicates Whole number that divides `nsim`: how many independent designs, one after another, the runs are
#'   made of.
#' @param block Number of runs within which correlated inputs of a Latin hypercube are put in order, `Inf` for all at
#'   once, or `NULL` for the rule: all up to 16,384 runs, else blocks of the larger of 1,024 and 10 times the root of
#'   the number of runs.
#' @param runs `NULL` for all, or two whole numbers: the first and the last run to draw. A run is the same in
#'   whatever range it is drawn.
#' @param index Whole numbers from 0: which draws of each input within a run. 0 is the draw of an input that is drawn
#'   once; 1, 2, ... are further ones, such as one for each step or occurrence, each a design of its own. Of several
#'   the table has a row for each run and index.
#' @param file `NULL`, or the path of a file to write, ending in `.csv` or `.parquet` (for which the package
#'   nanoparquet is needed).
#' @param overwrite `TRUE` to replace a file that exists.
#' @param threads Whole number: how many threads draw, or `NULL` for two, or one on a machine with one core. No value
#'   depends on it.
#' @param progress A function of two numbers, runs done and runs in all, or `NULL`; used when writing to a file.
#' @return A data frame with a row for each run: `run`, `replicate` and `index` (where there are several) and every input that
#'   varies, in its unit; of one that is drawn at each step, `inflow`, a column for each: `inflow[1]`, `inflow[2]`, ... With `file`
#'   its path, invisibly.
#' @section Designs:
#'   * `"latin"`, a Latin hypercube (McKay, Beckman and Conover 1979): each input has exactly one draw in each of
#'     `nsim` slices of equal probability, at a random place in its slice. Means are the sharper the nearer the model is
#'     to a sum of functions of one input each (Stein 1987); they are never worse than by independent runs beyond
#'     chance. Take it unless there is a reason not to.
#'   * `"random"`, independent runs: every interval and test of a textbook holds for them, and more runs can be added
#'     at will.
#'   * `"midpoints"`, a Latin hypercube with each draw in the middle of its slice (Patterson 1954): for small tables to
#'     be read by people. Tails are cut at half a slice, so spreads come out a little low.
#'   * `"sobol"`, a scrambled Sobol' sequence (Sobol' 1967, with the direction numbers of Joe and Kuo 2008, a random
#'     linear scramble and a digital shift after Matousek 1998): of 2^k runs one lies in each of 2^k slices of every
#'     input, and pairs and triples of inputs are filled evenly too. For a smooth model of some ten inputs or fewer and
#'     a mean or a percentile wanted to many digits, with `nsim` a power of two; with `replicates` to see how far
#'     figures are off. Inputs take its dimensions in order of definition, so that an input added before others
#'     changes theirs; it has 3,667.
#' @section Addresses: the number behind an input in a run depends on the seed, the input's first name, an index within
#'   the run (0 where an input is drawn once a run), the purpose and the run alone; under a Latin hypercube also on the
#'   number of runs. Two studies with the same seed share the numbers of inputs that have the same name. A whole number
#'   as a seed stands for itself (64 bits, two's complement), a text for 64 bits of its hash, and a number beyond
#'   2^63 for its digits as a text. Numbers come from Threefry-4x64 with 20 rounds (Salmon et al. 2011).
#' @section Laws: every law is sampled by inversion. Where the quantile is dear (beta, PERT, gamma, Student, truncated,
#'   mixtures and the like) a table of polynomials stands in for it, made anew for each call and checked as it is
#'   made to 1e-10 of the smaller tail's probability at points between those it goes through. At the value drawn for
#'   a number u the law's cumulative probability is off by at most 1e-10, and by 1e-9 of the smaller tail's
#'   probability, or the value is within four units in its last place of the true quantile; in the far tails, and
#'   where a law has a kink, the quantile itself is used. Discrete laws are looked up exactly.
#' @section Errors: `ensayo_error_argument` for arguments; `ensayo_error_model` for a study without inputs;
#'   `ensayo_error_correlation` where no joint law has the correlations; `ensayo_error_file` where the file exists or
#'   cannot be written.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048), diameter = law_triangular(0.246, 0.250, 0.252))
#' draw_inputs(main, nsim = 5, seed = 11)
#' draw_inputs(main, nsim = 1e9, seed = 11, runs = c(7341, 7343))
#' draw_inputs(main, nsim = 8, seed = "dry season", design = "sobol")
#' draw_inputs(main, nsim = 4, seed = 11, index = 1:3)
#' @export
draw_inputs <- function(study, nsim = 10000, seed = NULL, ..., design = "latin", replicates = 1, block = NULL,
                        runs = NULL, index = 0, file = NULL, overwrite = FALSE, threads = NULL, progress = show_progress) {
  check_study(study)
  check_no_dots(..., .options = c("nsim", "seed", "design", "replicates", "block", "runs", "index", "file", "overwrite",
    "threads"))
  plan <- draw_plan(nsim, seed, design, replicates, block, threads)
  runs <- check_runs(runs, plan$nsim)
  plan$index <- check_index(index)
  validate_inputs(study)
  if (!identical(plan$index, 0) && length(stepped_names(study))) {
    stop_argument("index", "0 where inputs have draws at each step", index, "Their columns are in the table, one for each step.")
  }
  if (is.null(file)) return(draw_range(study, plan, runs[1] - 1, runs[2] - runs[1] + 1))
  check_string(file)
  refuse_existing(file, check_flag(overwrite))
  write_draws(study, plan, runs, file, progress)
  invisible(file)
}

check_runs <- function(runs, nsim, call = rlang::caller_env()) {
  if (is.null(runs)) return(c(1, nsim))
  ok <- is.numeric(runs) && length(runs) == 2 && all(is.finite(runs)) && all(runs == floor(runs)) && runs[1] >= 1 &&
    runs[1] <= runs[2] && runs[2] <= nsim
  if (!ok) {
    stop_argument("runs", sprintf("two whole numbers from 1 to `nsim`, %s: the first and the last run", format(nsim)),
      if (is.numeric(runs)) paste(runs, collapse = ", ") else runs, call = call)
  }
  as.double(runs)
}

check_index <- function(index, call = rlang::caller_env()) {
  ok <- is.numeric(index) && length(index) > 0 && all(is.finite(index)) && all(index >= 0 & index == floor(index)) &&
    !anyDuplicated(index)
  if (!ok) stop_argument("index", "different whole numbers from 0", index, call = call)
  as.double(index)
}

# The table of `count` runs after the first `first`; of several draws within a run these stand together.
draw_range <- function(study, plan, first, count) {
  if (length(plan$index) > 1) {
    tables <- lapply(plan$index, function(index) {
      plan$index <- index
      table <- unclass_table(draw_range(study, plan, first, count))
      leading <- intersect(c("run", "replicate"), names(table))
      cbind(table[leading], index = index, table[setdiff(names(table), leading)])
    })
    all <- do.call(rbind, tables)
    return(new_table(as.list(all[order(all$run), ])))
  }
  run <- if (first + count <= .Machine$integer.max) seq.int(first + 1, length.out = count) else first + seq_len(count)
  columns <- flat_draws(study, draw_columns(study, plan, first, count), count, plan)
  new_table(c(list(run = run), replicate_column(plan, run), columns))
}

# A column for each step of an input that has steps.
flat_draws <- function(study, draws, count, plan) {
  flat_columns(with_series(study, draws, count, plan), function(name) vapply(as.list(study$inputs[[name]]$steps), step_words, ""))
}

# Which replicate each run is of, where there are several.
replicate_column <- function(plan, run) {
  if (plan$replicates > 1) list(replicate = (run - 1) %/% (plan$nsim / plan$replicates) + 1)
}

# Pieces that memory holds with ease go to a file of another name, which gets its own when it is whole.
write_draws <- function(study, plan, runs, file, progress, piece = 2^20) {
  if (series_width(study) > 0) piece <- max(1, 2^23 %/% series_width(study))
  if (length(correlated_sets(study))) piece <- max(piece, plan$block)
  append <- table_writer(file)
  part <- paste0(file, ".part")
  on.exit(unlink(part))
  starts <- seq(runs[1] - 1, runs[2] - 1, by = piece)
  for (first in starts) {
    count <- min(piece, runs[2] - first)
    append(unclass_table(draw_range(study, plan, first, count)), part, first == starts[1])
    if (!is.null(progress)) progress(first + count - runs[1] + 1, runs[2] - runs[1] + 1)
  }
  if (!file.rename(part, file)) stop_ensayo("file", sprintf("%s must be writable.", file), file = file)
}
