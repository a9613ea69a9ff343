# `ensayo explore DIR [DIR ...]`

cli_explore <- function(args) {
  call <- cli_parse(args, "explore DIR [DIR ...] [options]",
    "Open a page in the browser for one result folder or several: drag targets, ask what drives them, pick runs, compare.",
    options = list(
      optparse::make_option("--port", type = "character", help = "port on this machine [default: one that is free]"),
      optparse::make_option("--no-browser", action = "store_true", default = FALSE, help = "say the address, and open nothing")
    ),
    positional = "dir", more = TRUE, footer = c("", "The page can be seen from this machine alone, with the address that is said. Ctrl-C ends it."))
  if (is.null(call)) return(exit_codes[["done"]])
  port <- if (!is.null(call$options$port)) cli_count(call$options$port, "--port", 1024)
  dirs <- as.list(c(call$arguments$dir, call$more))
  explored <- explored_results(rlang::as_quosures(dirs, env = rlang::empty_env()))
  serve_explorer(explored, port, !call$options[["no-browser"]], function(address) {
    say("The explorer is at %s", address)
    say("Ctrl-C ends it.")
  })
  exit_codes[["done"]]
}
