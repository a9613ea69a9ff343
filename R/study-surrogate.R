# Surrogates as models of a study, and in study files. `data` is what surrogate-output.R holds, as plain numbers and texts.

with_surrogate <- function(study, name, data, outputs, outside) {
  data <- unpacked(packed(data), name)  # the same whether it was made here or read from a file
  inputs <- unique(text_of(data$coordinates, function(one) one$input))
  own <- setdiff(names(outputs), outside)
  outputs <- lapply(outputs, function(output) new_output(NULL, output[c("unit", "label", "note", "group")], output$kind, NULL, output$steps))
  outputs[[outside]]$aside <- TRUE
  model <- list(kind = "surrogate", uses = stats::setNames(inputs, inputs), gives = names(outputs), name = name, outside = outside,
    kinds = lapply(outputs[own], function(output) output$kind), steps = lapply(outputs[own], function(output) output$steps), data = data)
  with_model(study, name, model, outputs)
}

surrogate_record <- function(model, outputs) {
  own <- setdiff(model$gives, model$outside)
  list(outputs = lapply(outputs[own], about_record), outside = model$outside, surrogate = packed(model$data))
}

surrogate_from_record <- function(study, record, name, folder, known) {
  place <- sprintf("Model %s", quoted(name))
  check_keys(record, c("outputs", "outside", "surrogate"), place)
  for (key in c("outputs", "outside", "surrogate")) {
    if (is.null(record[[key]])) stop_ensayo("file", sprintf("%s must give its %s.", place, key), sprintf("%s is missing.", quoted(key)), name = name)
  }
  data <- unpacked(record$surrogate, place)
  outputs <- Map(function(one, output) {
    output_place <- sprintf("Output %s", quoted(output))
    check_keys(one, c("unit", "label", "note", "group", "kind", "steps"), output_place)
    output_from_about(one, output_place, quantity_kinds)
  }, record$outputs, names(record$outputs))
  names(outputs) <- normal_name(names(record$outputs))
  unknown <- setdiff(unique(unlist(lapply(data$coordinates, function(one) one$input))), names(study$inputs))
  if (length(unknown)) stop_unknown_name(unknown[1], names(study$inputs), "an input of the study")
  if (!setequal(names(outputs), names(data$outputs))) {
    stop_ensayo("file", sprintf("%s must tell what it predicts of each of its outputs.", place), NULL, name = name)
  }
  outside <- normal_name(read_text(record$outside, sprintf("%s, `outside`", place)))
  outputs[[outside]] <- outside_output()
  with_surrogate(study, name, data, outputs, outside)
}

outside_output <- function() new_output(NULL, list(label = "Outside the runs of the surrogate"))
