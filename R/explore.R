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
  if (!is.null(port) && !is_free_port(port)) {
    stop_ensayo("argument", sprintf("Port %d must be free on this machine.", port), "Something else listens there, or it may not be used.",
      "Leave it out for one that is free.", argument = ".port")
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

is_free_port <- function(port) {
  listening <- tryCatch(suppressWarnings(serverSocket(port)), error = function(e) NULL)
  if (is.null(listening)) return(FALSE)
  close(listening)
  TRUE
}

# list(results, by the names that calls use; titles; sources, the line of R by which one of a folder is come by)
explored_results <- function(quosures, call = rlang::caller_env()) {
  given <- lapply(quosures, rlang::eval_tidy)
  path <- vapply(given, function(value) if (rlang::is_string(value)) value else "", "")
  opened <- lapply(given, function(value) if (rlang::is_string(value)) read_result(value) else value)
  said <- vapply(quosures, function(quosure) if (rlang::quo_is_symbol(quosure)) rlang::as_name(quosure) else "", "")
  names(opened) <- ifelse(nzchar(names(quosures)), names(quosures), ifelse(nzchar(path), basename(path), said))
  results <- named_results(rlang::as_quosures(opened, env = rlang::empty_env()), 1, call)
  for (result in results) {
    if (is_long_store(result$store)) {
      stop_ensayo("argument", "The explorer looks at results of up to 50 million runs.", sprintf("One has %s.", count_of(run_count(result), "run")),
        "Simulate fewer runs for it, or use readings such as `chance()`.", call = call)
    }
  }
  plain <- make.names(gsub("[^[:alnum:]]+", "_", names(results)))
  reserved <- plain %in% c("runs", "both")  # what calls of views are called
  plain <- make.unique(ifelse(reserved, paste0(plain, "_"), plain), sep = "_")
  # of alternatives there are several results in one value, and none is of a folder
  from_folder <- if (length(results) == length(path)) nzchar(path) else rep(FALSE, length(results))
  sources <- sprintf("%s <- read_result(%s)", plain[from_folder], encodeString(path[from_folder], quote = "\""))
  list(results = stats::setNames(results, plain), titles = names(results), sources = stats::setNames(sources, plain[from_folder]))
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
