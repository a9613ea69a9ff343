# `--cluster FILE`: workers that a scheduler starts.

cli_option_cluster <- function() {
  optparse::make_option("--cluster", type = "character", metavar = "FILE",
    help = "a file that says how a scheduler starts workers: see ?cli_main")
}

cluster_keys <- c("workers", "command", "options", "rscript", "address", "wait")

# Sets the workers that a cluster file asks for; the value ends them.
cli_set_cluster <- function(file) {
  if (is.null(file)) return(function() NULL)
  record <- read_yaml_text(read_file_text(file), basename(file))
  if (!is.list(record) || is.null(names(record))) {
    stop_ensayo("file", sprintf("%s must hold keys and values.", basename(file)), NULL,
      sprintf("Known keys: %s.", paste(quoted(cluster_keys), collapse = ", ")), file = file)
  }
  place <- basename(file)
  check_keys(record, cluster_keys, place)
  for (key in c("workers", "command")) {
    if (is.null(record[[key]])) stop_ensayo("file", sprintf("%s must give %s.", place, quoted(key)), "It is missing.", file = file)
  }
  workers <- read_count(record$workers, sprintf("%s, `workers`", place))
  text <- function(key, other) if (is.null(record[[key]])) other else paste(unlist(record[[key]]), collapse = "\n")
  if (!is.null(record$wait)) set_worker_wait(read_count(record$wait, sprintf("%s, `wait`", place)))
  command <- text("command", "sbatch")
  if (!nzchar(Sys.which(command))) {
    stop_ensayo("file", sprintf("%s, `command`, must be there.", place), sprintf("%s is not found.", quoted(command)), file = file)
  }
  # what the scheduler says is no part of what this command gives
  utils::capture.output(with_library(mirai::daemons(workers, url = text("address", mirai::host_url()),
    remote = mirai::cluster_config(paste(command, "1>&2 "), text("options", ""),
      text("rscript", file.path(R.home("bin"), "Rscript"))))))
  say("%s asked for by %s.", count_of(workers, "worker"), command)
  function() {
    mirai::daemons(0)
    set_worker_wait(60)
  }
}
