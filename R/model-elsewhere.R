# Runs that were made elsewhere: outputs that are there, and that nothing here can calculate.

kind_elsewhere <- list(
  dear = TRUE,
  prepare = function(model, setting) stop_elsewhere(),
  alone = function(model, setting) list()
)

stop_elsewhere <- function() {
  stop_ensayo("model", "These runs were made elsewhere and cannot be made here.", NULL,
    "Read what is there; for further runs draw them with `draw_inputs()`, and read what comes back with `read_runs()`.")
}
