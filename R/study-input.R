# Inputs. An input keeps its law while it is fixed, so that it can be set free again; its stream is the name it was
# first given, so that renaming it changes no draw. One that `shares` another's uncertainty takes that input's uniform
# numbers instead of its own.

new_input <- function(law, base, base_rule, texts, lower = NULL, upper = NULL) {
  fields <- list(law = law, base = base, base_rule = base_rule, unit = texts$unit, label = texts$label,
    note = texts$note, group = texts$group, lower = lower, upper = upper, shares = NULL, fixed = NULL, stream = NULL)
  structure(fields, class = "ensayo_input")
}

#' Describe an input
#'
#' An input is a law, or a number that never varies, with what readers want to know about it. A bare law or number in
#' [add_inputs()] is an input without trimmings.
#'
#' @param law A law such as [law_pert()] makes, or one finite number for a constant.
#' @param base Number or `NULL`: the single-point estimate, in the input's unit (a text for a law of categories). When
#'   `NULL` it is the figure a law was stated around, else the law's mode where the law has one as a parameter, else
#'   its mean; prints say which.
#' @param unit,label,note,group Texts or `NULL`: the unit, such as `"L/s"`; what readers call the input; where the
#'   figures came from; what it belongs with.
#' @param positive `TRUE` for a quantity that cannot be below 0: a length, a cost. [review()] then says how much of
#'   the law lies there; no draw is changed.
#' @param lower,upper Numbers or `NULL`: limits that the quantity cannot pass, for [review()] likewise.
#' @param steps `NULL` for an input that is drawn once a run; else how many steps, a whole number, or the steps themselves, numbers
#'   or dates in increasing order: it is then a series, drawn anew at each step from the same law.
#' @param persistence Number between -1 and 1: the rank correlation from each step to the next; 0 where every step is drawn by
#'   itself.
#' @param block Whole number or `NULL`: draws of recorded data ([law_empirical()], [add_rows()]) keep stretches of so many
#'   recorded values together.
#' @return An input, for [add_inputs()] and [replace_inputs()].
#' @section Inputs over steps: an error of the moment (today's demand) is drawn anew at each step, with `steps`; an error that is
#'   the same all the way (a coefficient that is not known) is drawn once, without. What lies between persists: a hot day follows
#'   a hot day. At every step the input has its law, whatever the persistence. Scores of the normal law carry it from step to
#'   step: with a persistence r the correlation over k steps is that of a score correlation (2 sin(pi r / 6))^k. A correlation
#'   with another input of the same steps holds within each step. Without persistence each step has a design of its own, such as
#'   a Latin hypercube; with it, what each step brings has.
#'
#'   Models that go step by step use the value of the step ([add_steps()]), functions get the values of all steps ([add_model()]),
#'   other formulas read a series as `max(inflow)` or `at(inflow, 3)`. A profile over the steps is a value known for each,
#'   `.known`, times such an input. In the base case the base value stands at all steps; [drivers()] take the mean over the steps,
#'   and [drivers_by_step()] each step.
#' @section Source: persistence is an autoregression of first order of normal scores that are turned into the law (Cario and Nelson
#'   1996, "Autoregressive to anything", Operations Research Letters 19(2)); stretches of recorded data go round in a circle
#'   (Politis and Romano 1992, "A circular block-resampling procedure for stationary data").
#' @section Errors: `ensayo_error_argument` where an argument is not of the stated kind.
#' @examples
#' input(law_pert(28, 34, 48), unit = "L/s", label = "Peak-hour demand")
#' input(law_normal(0.25, 0.002), unit = "m", positive = TRUE)
#' input(law_pert(35, 45, 60), unit = "m3", steps = 90, persistence = 0.7)
#' input(law_empirical(c(52, 47, 44, 49, 61, 58, 40)), steps = 90, block = 3)
#' @export
input <- function(law, base = NULL, unit = NULL, label = NULL, note = NULL, group = NULL, positive = FALSE,
                  lower = NULL, upper = NULL, steps = NULL, persistence = 0, block = NULL) {
  texts <- list(unit = check_string(unit, null = TRUE), label = check_string(label, null = TRUE),
    note = check_string(note, null = TRUE), group = check_string(group, null = TRUE))
  if (!is.null(lower)) lower <- check_number(lower)
  if (!is.null(upper)) upper <- check_number(upper)
  if (check_flag(positive)) lower <- max(lower, 0)
  if (!is_law(law)) {
    ok <- is.numeric(law) && !is.object(law) && length(law) == 1 && is.finite(law)
    if (!ok) stop_argument("law", "a law, or one finite number for a constant", law)
    if (!is.null(base) && !identical(as.double(base), as.double(law))) {
      stop_argument("base", "left out where the input is a constant, which is its own base value", base)
    }
    return(stepped_input(new_input(as.double(law), as.double(law), "constant", texts, lower, upper), steps, persistence, block))
  }
  given <- if (is.null(base)) base_unless_linked(law) else list(value = check_base(base, law), rule = "given")
  if (is.numeric(given$value) && !is.finite(given$value)) {
    stop_argument("base", "given, for this law has no finite mean", given$value)
  }
  stepped_input(new_input(law, given$value, given$rule, texts, lower, upper), steps, persistence, block)
}

check_base <- function(base, law, call = rlang::caller_env()) {
  if (is_categorical(law)) check_choice(base, parameters_of(law)$values, "base", call)
  else check_number(base, "base", call = call)
}

# The base value of a law with linked parameters is known when the others' are.
base_unless_linked <- function(law) if (is_linked(law)) list(value = NULL, rule = "linked") else base_of_law(law)

is_input <- function(x) inherits(x, "ensayo_input")

as_input <- function(x, name, call = rlang::caller_env()) {
  if (is_input(x)) return(x)
  ok <- is_law(x) || (is.numeric(x) && !is.object(x) && length(x) == 1 && is.finite(x))
  if (!ok) {
    stop_ensayo("argument", sprintf("Input %s must be a law, an `input()` or one finite number.", quoted(name)),
      sprintf("You gave %s.", shown_value(x)), name = name, call = call)
  }
  input(x)
}

varies <- function(input) is_law(input$law) && is.null(input$fixed)

varying_names <- function(study) as.character(names(Filter(varies, study$inputs)))

# The value of an input that does not vary in the runs.
held_value <- function(input) input$fixed %||% input$law

# The base value of every input, in order of definition; the value of one that is held.
base_values <- function(study) {
  values <- list()
  for (name in input_order(study)) {
    input <- study$inputs[[name]]
    values[[name]] <- if (!varies(input)) held_value(input)
      else input$base %||% base_of_law(linked_law_at(input$law, values))$value
  }
  values[names(study$inputs)]
}

#' Add inputs to a study
#'
#' @param .study A study.
#' @param ... Named inputs: laws, numbers or [input()]s. A list under one name makes a family: `zone = list(a, b, c)`
#'   adds `zone[1]`, `zone[2]` and `zone[3]`. Also a list or a data frame of inputs, `!!!` and `!!name :=`; the data
#'   frame is a register as [input_register()] makes and [read_inputs()] reads, with a row for each input.
#' @return The study with the inputs added at the end.
#' @section Names: any name but words of the formula language (`pi`, `TRUE`, `if`, ...) and columns of every table of
#'   runs (`run`, `replicate`, `step`, `failed`). `length` and `length(x)` do not clash.
#' @section Families: formulas use a family as a whole by its name, and a group by the group's: `sum(zone)`,
#'   `max(zone)`, `weighted_sum(zone, area)`; see [add_outputs()]. One member is `zone[2]`.
#' @section Errors: `ensayo_error_name` for a name that is missing, taken or not allowed, or unknown in a parameter's
#'   formula; `ensayo_error_cycle` for inputs whose parameters need each other; `ensayo_error_argument` for what is
#'   not an input.
#' @examples
#' study("Gravity main") |>
#'   add_inputs(
#'     demand = input(law_pert(28, 34, 48), unit = "L/s", label = "Peak-hour demand"),
#'     friction = law_lognormal(mean = 0.021, sd = 0.003),
#'     length = 4200
#'   )
#' @export
add_inputs <- function(.study, ...) {
  check_study(.study)
  given <- with_families(spliced(rlang::dots_list(..., .homonyms = "keep"), inputs_from_table))
  names <- check_new_names(given, "input", c(quantity_names(.study), names(.study$tables)))
  taken <- vapply(given, inherits, NA, "ensayo_taken")
  given[taken] <- Map(taken_input, given[taken], names[taken], list(c(.study$inputs, stats::setNames(given, names))),
    list(rlang::current_env()))
  inputs <- Map(as_input, given, names, MoreArgs = list(call = rlang::current_env()))
  streams <- free_streams(taken = vapply(.study$inputs, function(input) input$stream, ""),
    wanted = vapply(seq_along(inputs), function(i) inputs[[i]]$stream %||% names[i], ""))
  for (i in seq_along(inputs)) inputs[[i]]$stream <- streams[i]
  .study$inputs[names] <- inputs
  bound_inputs(.study)
}

# The study with the formulas of linked parameters read, and what inputs share checked.
bound_inputs <- function(study, call = rlang::caller_env()) {
  study <- with_taken(study, call)
  known <- quantity_vocabulary(study, names(study$inputs))
  study$inputs[] <- Map(function(input, name) {
    input$law <- bind_links(input$law, known_at_step(known, input$steps), sprintf("Input %s", quoted(name)))
    input
  }, study$inputs, names(study$inputs))
  for (name in names(Filter(function(input) !is.null(input$shares), study$inputs))) check_sharing(study, name, call)
  study <- in_study_sense(study)
  input_order(study)
  check_links_over_steps(study, call)
  for (name in names(Filter(function(input) is_law(input$law) && is_linked(input$law), study$inputs))) {
    in_place(sprintf("Input %s in the base case", quoted(name)), base_values(study)[[name]])
  }
  study
}

# Inputs that are made anew keep the streams of those of their names; of the same law, also at what they are held, and a base that was given.
with_streams <- function(inputs, known) {
  at <- match(names(inputs), names(known))
  Map(function(input, name, at) {
    old <- if (!is.na(at)) known[[at]]
    input$stream <- old$stream %||% name
    if (identical(old$law, input$law)) input[c("fixed", "base", "base_rule")] <- old[c("fixed", "base", "base_rule")]
    input
  }, inputs, names(inputs), at)
}

check_sharing <- function(study, name, call) {
  from <- study$inputs[[name]]$shares
  check_known_input(study, from, call)
  check_drawn_alike(study, name, from, "share an uncertainty", call)
  other <- study$inputs[[from]]
  if (is_law(study$inputs[[name]]$law) && is_law(other$law) && is.null(other$shares)) return(invisible())
  stop_ensayo("argument", sprintf("%s can share the uncertainty of an input with one of its own.", quoted(name)),
    sprintf("%s has %s.", quoted(from),
      if (is.null(other$shares)) "none" else sprintf("that of %s", quoted(other$shares))),
    if (!is.null(other$shares)) sprintf("Share that of %s.", quoted(other$shares)), name = name, call = call)
}

# `zone = list(law, law, law)` and the file's `zone[1..3]` as `zone[1]`, `zone[2]`, `zone[3]`.
with_families <- function(given) {
  names <- names(given) %||% rep("", length(given))
  parts <- lapply(seq_along(given), function(i) {
    x <- given[[i]]
    span <- regmatches(names[i], regexec("^(.*)\\[([0-9]+)[.][.]([0-9]+)\\]$", names[i]))[[1]]
    if (length(span)) {
      members <- seq(as.integer(span[3]), as.integer(span[4]))
      return(stats::setNames(rep(list(x), length(members)), sprintf("%s[%d]", span[2], members)))
    }
    if (is.list(x) && !is.object(x) && nzchar(names[i])) {
      return(stats::setNames(x, sprintf("%s[%s]", names[i], names(x) %||% seq_along(x))))
    }
    stats::setNames(list(x), names[i])
  })
  do.call(c, c(list(list()), parts))
}

# Streams that nobody in the study has: the names, unless an input that was renamed took its stream along, or two names
# stand for the same key in the generator. `key_of` is an argument so that a test can make that happen.
free_streams <- function(taken, wanted, key_of = cpp_name_keys) {
  used <- new.env(parent = emptyenv())
  for (key in key_of(taken)) used[[key]] <- TRUE
  vapply(wanted, function(name) {
    while (!is.null(used[[key_of(name)]])) name <- paste0(name, "'")
    used[[key_of(name)]] <- TRUE
    name
  }, "", USE.NAMES = FALSE)
}

# Named dots, with unnamed lists and data frames opened into them.
spliced <- function(dots, from_table) {
  opened <- lapply(seq_along(dots), function(i) {
    x <- dots[[i]]
    unnamed <- is.null(names(dots)) || !nzchar(names(dots)[i])
    if (unnamed && is.data.frame(x)) return(from_table(x))
    if (unnamed && is.list(x) && !is.object(x)) return(x)
    stats::setNames(list(x), names(dots)[i] %||% "")
  })
  do.call(c, c(list(list()), opened))
}
