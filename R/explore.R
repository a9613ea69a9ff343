# The explorer: a page of this machine alone that shows results and lets a reader ask. It calculates nothing: what it shows is what calls of
# R give (explore-calls.R).

#' Explore results in a browser
#'
#' Opens a page for one result or several: each output's distribution with a target to be dragged, what drives it, any two quantities against
#' each other with runs picked and listed, pass rates by bands of the inputs, results side by side, another law for an input by weighting
#' the runs; of all runs, or only those in which a condition holds. Figures and tables can be saved, and each view shows the calls of
#' R that make it.
#'
#' @section Who can see it: the page is served on this machine's loopback address alone, to browsers that give the token in the address and
#'   ask for it by that address; any other request is refused. It ends with the call: press Esc, or Ctrl-C.
#' @param ... Results, named or not, paths of result folders, or what [simulate()][simulate.ensayo_study] gives for [alternatives()].
#' @param .port Whole number: the port; one that is free when left out.
#' @param .open `TRUE` to open a browser; `FALSE` to say the address alone.
#' @return Nothing, invisibly, when it ends.
#' @section Errors: `ensayo_error_package` where the package shiny is not installed; `ensayo_error_argument` for what is no result, or
#'   one of more runs than it looks at (50 million); `ensayo_error_file` for a folder that cannot be read.
#' @seealso `ensayo explore DIR` on the command line; [write_report()] for a page to send.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' if (interactive()) explore(res)
#' @export
explore <- function(..., .port = NULL, .open = interactive()) {
  explored <- explored_results(rlang::enquos(...))
  if (!is.null(.port)) check_count(.port, ".port")
  check_flag(.open, ".open")
  serve_explorer(explored, .port, .open)
}

serve_explorer <- function(explored, port, open, said = function(address) {
  tell_ensayo(sprintf("The explorer is at %s", address), "Press Esc or Ctrl-C to end it.", "explorer")
}) {
  if (!requireNamespace("shiny", quietly = TRUE)) {
    stop_ensayo("package", "The explorer needs the package shiny.", "It is not installed.", "Install it: `install.packages(\"shiny\")`.")
  }
  token <- nanonext::random(16)
  at_start <- function(url) {
    address <- sprintf("%s/?token=%s", sub("/$", "", url), token)
    said(address)
    if (open) utils::browseURL(address)
  }
  withCallingHandlers(
    shiny::runApp(explorer_app(explored, token), port = port, host = "127.0.0.1", launch.browser = at_start, quiet = TRUE),
    packageStartupMessage = function(message) invokeRestart("muffleMessage"))
  invisible()
}

# list(results, by the names that calls use; sources, the line of R that each is come by)
explored_results <- function(quosures, call = rlang::caller_env()) {
  opened <- lapply(quosures, function(quosure) {
    value <- rlang::eval_tidy(quosure)
    if (!rlang::is_string(value)) return(quosure)
    rlang::new_quosure(read_result(value))
  })
  paths <- vapply(quosures, function(quosure) {
    value <- rlang::eval_tidy(quosure)
    if (rlang::is_string(value)) value else ""
  }, "")
  folder <- nzchar(paths)
  names(opened) <- ifelse(folder & !nzchar(names(quosures)), basename(paths), names(quosures))
  results <- named_results(rlang::new_quosures(opened), 1, call)
  for (result in results) {
    if (is_long_store(result$store)) {
      stop_ensayo("argument", "The explorer looks at results of up to 50 million runs.", sprintf("One has %s.", count_of(run_count(result), "run")),
        "Simulate fewer runs for it, or use readings such as `chance()`.", call = call)
    }
  }
  plain <- make.names(gsub("[^[:alnum:]]+", "_", names(results)))
  reserved <- plain %in% c("runs", "both")  # what calls of views are called
  plain <- make.unique(ifelse(reserved, paste0(plain, "_"), plain), sep = "_")
  sources <- if (all(folder)) sprintf("%s <- read_result(%s)", plain, encodeString(unname(paths), quote = "\"")) else character()
  list(results = stats::setNames(results, plain), titles = names(results), sources = stats::setNames(sources, plain[seq_along(sources)]))
}

explorer_app <- function(explored, token) {
  shiny::shinyApp(
    ui = function(req) {
      if (may_explore(req$HTTP_HOST, req$QUERY_STRING, token)) explorer_page(explored)
      else shiny::httpResponse(403, "text/plain", "The explorer is for the address that its call gave, with its token.")
    },
    server = function(input, output, session) {
      if (may_explore(session$request$HTTP_HOST, shiny::isolate(session$clientData$url_search), token, session$request$HTTP_ORIGIN)) {
        explorer_server(explored, input, output, session)
      } else session$close()
    }
  )
}

# Another page may send a browser here by a name of its own, or open a connection: the host that was asked for, where the page is from,
# and the token must all be ours.
may_explore <- function(host, query, token, origin = NULL) {
  ours <- "^(127\\.0\\.0\\.1|localhost)(:[0-9]+)?$"
  given <- shiny::parseQueryString(query %||% "")$token
  grepl(ours, host %||% "") && (is.null(origin) || grepl(ours, sub("^http://", "", origin))) && identical(given, token)
}
