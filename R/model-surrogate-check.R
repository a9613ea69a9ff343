# What a surrogate's data must be before it predicts: a file may hold anything.

check_surrogate_data <- function(model) {
  data <- model$data
  fault <- tryCatch(surrogate_fault(data, model), error = function(e) "its parts do not belong together")
  if (is.null(fault)) return(invisible())
  stop_ensayo("model", sprintf("%s must hold a surrogate as `write_study()` writes it.", quoted(model$name)), paste0(upper_first(fault), "."),
    "Was the file edited? Fit it again.", name = model$name)
}

# The first thing that is amiss, in words; NULL where nothing is.
surrogate_fault <- function(data, model) {
  q <- length(data$coordinates)
  if (q == 0 || !all(vapply(data$coordinates, is_coordinate, NA))) return("a coordinate is not whole")
  n <- nrow(data$runs)
  if (!is.matrix(data$runs) || ncol(data$runs) != q || !numbers_of(data$runs, n * q)) return("its runs are not whole")
  near <- numbers_of(data$lengths, q) && all(data$lengths > 0) && numbers_of(data$gap, 1) && numbers_of(data$low, q, FALSE) && numbers_of(data$high, q, FALSE)
  if (!near) return("what lies near its runs is not told")
  outputs <- c(data$outputs, if (!is.null(data$failing)) list(failing = data$failing))
  for (name in names(outputs)) {
    output <- outputs[[name]]
    steps <- length(model$steps[[name]])
    ok <- places_in(output$rows, n) && length(output$parts) > 0 && all(vapply(output$parts, is_part, NA, length(output$rows), data$coordinates)) &&
      if (is.null(output$loadings)) length(output$parts) == 1 && steps == 0
      else is.matrix(output$loadings) && numbers_of(output$loadings, steps * length(output$parts)) && nrow(output$loadings) == steps &&
        numbers_of(output$centre, steps)
    ok <- ok && is.numeric(output$score) && length(output$score) == 4
    if (!ok) return(sprintf("what it says of %s is not whole", quoted(name)))
  }
}

is_coordinate <- function(one) {
  if (!rlang::is_string(one$input) || !isTRUE(one$how %in% c("itself", "log", "arsinh", "category"))) return(FALSE)
  degrees <- length(one$a)
  if (degrees > highest_degree || !numbers_of(one$a, degrees) || !numbers_of(one$b, degrees)) return(FALSE)
  if (one$how == "category") return(is.character(one$values) && numbers_of(one$contrast, length(one$values)))
  numbers_of(c(one$middle, one$width, one$centre, one$scale), 4) && one$width != 0 && one$scale != 0
}

is_part <- function(part, runs, coordinates) {
  k <- length(part$used)
  if (!places_in(part$used, length(coordinates)) || !numbers_of(part$y, runs) || !numbers_of(part$calibration, 1)) return(FALSE)
  if (!isTRUE(part$kind %in% names(surrogate_kinds()))) return(FALSE)
  surrogate_kind(part$kind)$whole(part$fit, k, coordinates[part$used])
}
