explored_demo <- function() {
  main <- read_study(system.file("studies", "gravity-main.yml", package = "ensayo"))
  wet <- simulate(main, nsim = 500, seed = 12)
  main <- simulate(main, nsim = 2000, seed = 11)
  explored_results(rlang::quos(main, wet))
}

test_that("every view is what calls of R give, and its script can be run", {
  explored <- explored_demo()
  main <- explored$results$main
  asked <- list(result = "main", results = names(explored$results), output = "pressure", given = explored_conditions("demand > 36; friction < 0.03", main),
    target = 38, measure = "rank", across = "demand", upwards = "pressure", show = "cumulative", laws = list(demand = explored_law("pert(30, 34, 44)")),
    picked = picked_conditions(list(xmin = 37, xmax = 40, ymin = 30, ymax = 36), "demand", "pressure", main))
  given_runs <- given(main, demand > 36, friction < 0.03)
  expected <- list(distribution = chance(given_runs, pressure <= 38, pressure > 38), drivers = drivers(given_runs, "rank", pressure),
    scatter = as.data.frame(given(given_runs, demand >= 37, demand <= 40, pressure >= 30, pressure <= 36)), inputs = pass_rate(given_runs),
    comparison = summary(compare_results(main = main, wet = explored$results$wet, .outputs = pressure)),
    law = reweight_runs(main, demand = law_pert(30, 34, 44), .outputs = pressure))
  for (view in names(explored_tabs)) {
    script <- explored_script(explored_calls(view, asked), explored$sources)
    values <- lapply(parse(text = script), eval, envir = list2env(explored$results, parent = globalenv()))
    tables <- Filter(is.data.frame, values)
    expect_identical(tables[[1]], expected[[view]], label = view)
    expect_identical(any(vapply(values, ggplot2::is.ggplot, NA)), view != "law", label = view)
  }
  # a result of a folder says how it is come by; its name is one that R takes
  folder <- file.path(withr::local_tempdir(), "dry-result")
  write_result(main, folder)
  read <- explored_results(rlang::quos(!!folder, again = !!folder))
  expect_identical(names(read$results), c("dry_result", "again"))
  expect_identical(read$sources[["again"]], sprintf("again <- read_result(\"%s\")", folder))
  expect_match(explored_script(explored_calls("drivers", list(result = "again", output = "pressure", measure = "rank")), read$sources), folder,
    fixed = TRUE, all = FALSE)
  # what is given is evaluated once, and only what is of a folder has a source
  times <- 0
  once <- explored_results(rlang::quos({ times <<- times + 1; main }, both = !!folder))
  expect_identical(times, 1)
  expect_identical(names(once$results), c("result_1", "both_"))
  expect_identical(names(once$sources), "both_")
  expect_match(explored_script(explored_calls("distribution", list(result = "main", output = "pressure", target = explored_target(38L, main, "pressure"))),
    character()), "chance(main, pressure <= 38, pressure > 38)", fixed = TRUE, all = FALSE)
  # days are conditions, too
  late <- simulate(study() |> add_inputs(wait = law_uniform(0, 30)) |> add_outputs(finish = date("2027-03-01") + wait), nsim = 100, seed = 1)
  call <- explored_chance(list(result = "late", output = "finish"), explored_target(as.double(as.Date("2027-03-16")), late, "finish"))
  expect_identical(eval(call)$chance, chance(late, finish <= date("2027-03-16"), finish > date("2027-03-16"))$chance)
})

test_that("markup in texts of a study is text on the page, and names of results may be any", {
  skip_if_not_installed("shiny")
  hostile <- study("</script><b>bold</b>", question = "<img src=x onerror=alert(1)>") |> add_inputs(x = input(law_uniform(0, 1), label = "<i>x</i>")) |>
    add_outputs(y = output(x + 1, label = "<script>alert(1)</script>"))
  res <- simulate(hostile, nsim = 50, seed = 1)
  explored <- explored_results(rlang::quos(runs = res, `<b>both</b>` = res))
  expect_identical(names(explored$results), c("runs_", "X_b_both_b_"))
  page <- paste(as.character(htmltools::renderTags(explorer_page(explored))$html), collapse = "")
  expect_no_match(page, "<img src=x|<b>|</script><b", perl = TRUE)
  table <- as.character(explored_table(drivers(res, outputs = "y"), "<b>Drivers</b>"))
  expect_no_match(table, "<b>|<i>", perl = TRUE)
})

test_that("what is typed is read by the closed language", {
  main <- explored_demo()$results$main
  expect_error(explored_conditions("system('true') == 0", main), class = "ensayo_error")
  expect_error(explored_conditions("demnd > 3", main), "Did you mean `demand`")
  expect_error(explored_law("system('true')"), class = "ensayo_error")
  expect_identical(explored_conditions(" ; ", main), list())
  expect_identical(eval(explored_law("truncated(2 * normal(1, 2) + 3, min = 0)")), law_truncated(2 * law_normal(1, 2) + 3, min = 0))
  expect_identical(eval(explored_law("triangular(P10 = 30, mode = 34, P90 = 45)")), law_from_facts("triangular", P10 = 30, mode = 34, P90 = 45))
  expect_error(explore(3, .open = FALSE), class = "ensayo_error_argument")
  expect_error(explore(), class = "ensayo_error_argument")
  taken <- serverSocket(port <- 20000L + Sys.getpid() %% 10000L)
  withr::defer(close(taken))
  expect_error(explore(main, .port = port, .open = FALSE), "must be free", class = "ensayo_error_argument")
})

test_that("a fault of one view is shown in it once, and ends nothing", {
  skip_if_not_installed("shiny")
  one <- simulate(study() |> add_inputs(x = law_uniform(0, 1)) |> add_outputs(y = x + 1, own = x), nsim = 100, seed = 1)
  other <- simulate(study() |> add_inputs(x = law_uniform(0, 1)) |> add_outputs(y = 2 * x), nsim = 100, seed = 1)
  explored <- explored_results(rlang::quos(one, other))
  shiny::testServer(function(input, output, session) explorer_server(explored, input, output, session), {
    session$setInputs(result = "one", output = "own", given = "", show = "outline", measure = "rank", across = "x", upwards = "own", weigh = 0)
    session$elapse(1000)
    shown <- as.character(output$tables_comparison$html)
    expect_length(gregexpr("class=\"fault\"", shown)[[1]], 1)
    expect_match(shown, "own")
    expect_match(output$tables_drivers$html, "Drivers")
    expect_match(output$script_drivers, "drivers(one, \"rank\", own)", fixed = TRUE)
    session$setInputs(output = "y")
    session$elapse(1000)
    expect_match(output$tables_comparison$html, "Differences")
    session$setInputs(given = "x > 2")
    session$elapse(1000)
    expect_match(output$given_fault$html, "holds in none of 100 runs")
    expect_match(output$about$html, "^<p class=\"note\">100 runs")
  })
})

test_that("another host, another page or another token is refused", {
  skip_if_not_installed("shiny")
  expect_true(may_explore("127.0.0.1:4000", "?token=abc", "abc"))
  expect_true(may_explore("localhost:4000", "?x=1&token=abc", "abc", "http://localhost:4000"))
  for (wrong in list(list("127.0.0.1:4000", "?token=ab", "abc"), list("127.0.0.1:4000", "", "abc"), list(NULL, "?token=abc", "abc"),
    list("127.0.0.1.example.org", "?token=abc", "abc"), list("example.org:4000", "?token=abc", "abc"), list("127.0.0.1:4000", NULL, "abc"),
    list("127.0.0.1:4000", "?token=abc", "abc", "http://example.org"), list("127.0.0.1:4000", "?token=abc", "abc", "null"))) {
    expect_false(do.call(may_explore, wrong))
  }
})

# The explorer in a process of its own, with a script beside it that tries it and hands over what it found.
local_explorer <- function(trial, env = parent.frame()) {
  skip_if_not_installed("shiny")
  folder <- withr::local_tempdir(.local_envir = env)
  writeLines(trial, file.path(folder, "trial.js"))
  writeLines(c("library(ensayo)", "inside <- asNamespace('ensayo')",
    "main <- read_study(system.file('studies', 'gravity-main.yml', package = 'ensayo'))",
    "main <- simulate(main, nsim = 2000, seed = 11)", "wet <- simulate(main$study, nsim = 500, seed = 12)",
    "explored <- inside$explored_results(rlang::quos(main, wet))",
    "app <- inside$explorer_app(explored, 'right')",
    "page <- app$httpHandler",
    "app$httpHandler <- function(req) {",
    "  answer <- page(req)",
    sprintf("  trial <- paste(readLines('%s'), collapse = '\\n')", file.path(folder, "trial.js")),
    "  if (identical(answer$status, 200L) || identical(answer$status, 200)) answer$content <- sub('</body>', paste0('<script>', trial, '</script></body>'), answer$content, fixed = TRUE)",
    "  answer", "}",
    "serve <- app$serverFuncSource()",
    "app$serverFuncSource <- function() function(input, output, session) {",
    "  serve(input, output, session)",
    sprintf("  shiny::observeEvent(input$found, writeLines(input$found, '%s'))", file.path(folder, "found.json")),
    "}",
    # where a browser would be opened the server stands; shiny says that it listens before it does
    "shiny::runApp(app, host = '127.0.0.1', launch.browser = function(url) message('Served at ', url), quiet = TRUE)"), file.path(folder, "serve.R"))
  server <- processx::process$new(file.path(R.home("bin"), "Rscript"), file.path(folder, "serve.R"), stderr = file.path(folder, "said.txt"),
    env = c("current", R_LIBS = paste(.libPaths(), collapse = ":")))
  withr::defer(server$kill(), envir = env)
  address <- character()
  for (i in 1:300) {
    said <- if (file.exists(file.path(folder, "said.txt"))) readLines(file.path(folder, "said.txt"), warn = FALSE)
    address <- grep("^Served at http://127[.]0[.]0[.]1:[0-9]+/?$", said, value = TRUE)
    if (length(address) || !server$is_alive()) break
    Sys.sleep(0.2)
  }
  if (length(address) == 0) stop("The explorer was not served: ", paste(said, collapse = "\n"))
  list(port = as.integer(sub("/?$", "", sub(".*:", "", address))), folder = folder)
}

test_that("requests without the token get nothing, nor do connections", {
  at <- local_explorer("")
  request <- function(...) charToRaw(paste0(c(..., "", ""), collapse = "\r\n"))
  status <- function(path, host = sprintf("127.0.0.1:%d", at$port)) {
    sub("\r.*", "", rawToChar(utils::head(answered_bytes(at$port, request(sprintf("GET %s HTTP/1.1", path), paste("Host:", host), "Connection: close")), 60)))
  }
  expect_match(status("/?token=right"), "200")
  expect_match(status("/"), "403")
  expect_match(status("/?token=wrong"), "403")
  expect_match(status("/?token=right", "example.org"), "403")
  frame <- function(text) {
    bytes <- charToRaw(text)
    c(as.raw(c(0x81, 0x80 + 126, length(bytes) %/% 256, length(bytes) %% 256, 0, 0, 0, 0)), bytes)
  }
  goodbye <- as.raw(c(0x88, 2, 0x03, 0xe8))  # RFC 6455, 5.5.1 and 7.4.1: closed, with 1000
  connected <- function(token, origin, end = goodbye) {
    begin <- frame(sprintf("{\"method\":\"init\",\"data\":{\".clientdata_url_search\":\"?token=%s\",\"view\":\"distribution\",\"output\":\"pressure\"}}", token))
    shake <- request("GET /websocket/ HTTP/1.1", sprintf("Host: 127.0.0.1:%d", at$port), paste("Origin:", origin), "Upgrade: websocket", "Connection: Upgrade",
      "Sec-WebSocket-Version: 13", "Sec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==")
    bytes <- answered_bytes(at$port, shake, begin, end)
    rawToChar(bytes[bytes != 0 & bytes < 0x80])
  }
  ours <- sprintf("http://127.0.0.1:%d", at$port)
  expect_match(connected("right", ours, charToRaw("distribution")), "distribution", fixed = TRUE)
  expect_no_match(connected("wrong", ours), "distribution|pressure")
  expect_no_match(connected("right", "http://example.org"), "distribution|pressure")
})

test_that("a browser moves a target, leaves runs out, picks runs and weighs them as R does", {
  browser <- browser_path()
  at <- local_explorer(c(
    "const found = {}, sleep = (ms) => new Promise((done) => setTimeout(done, ms));",
    "window.addEventListener('error', (event) => { found.error = String(event.message); });",
    "async function until(test) { for (let i = 0; i < 300; i++) { const x = test(); if (x) return x; await sleep(100); } found.stuck = String(test); return null; }",
    "const told = () => document.querySelector('.told[data-below]'), text = (id) => (document.getElementById(id) || {}).textContent || '';",
    "function type(id, value) { const box = document.getElementById(id); box.value = value; box.dispatchEvent(new Event('input', { bubbles: true })); box.dispatchEvent(new Event('change', { bubbles: true })); }",
    "const view = (name) => document.querySelector(`a[data-value=${name}]`).click();",
    "(async () => {",
    "  await until(told); found.first = told().dataset.below; found.last = text('script_distribution');",
    "  const svg = document.querySelector('#live-distribution svg'), box = svg.getBoundingClientRect();",
    "  const move = (kind, x) => svg.dispatchEvent(new PointerEvent(kind, { clientX: box.left + x * box.width, clientY: box.top + 90, bubbles: true, pointerId: 1 }));",
    "  move('pointerdown', 0.3); for (let x = 0.3; x < 0.6; x += 0.01) { move('pointermove', x); await sleep(5); } move('pointerup', 0.6);",
    "  const target = document.querySelector('.grip').getAttribute('aria-valuenow');",
    "  await until(() => told().textContent.includes(' ' + target + ' ') && text('script_distribution').includes(target));",
    "  found.target = target; found.below = told().dataset.below; found.high = told().dataset.high; found.script = text('script_distribution');",
    "  type('given', 'demand > 36; nothing > 1'); await until(() => text('given_fault')); found.fault = text('given_fault');",
    "  type('given', 'demand > 36'); await until(() => text('about').includes('of 2000')); found.about = text('about'); await until(() => told() && told().dataset.below !== found.below); found.givenBelow = told().dataset.below;",
    "  view('drivers'); await until(() => document.querySelector('#figure_drivers img')); found.drivers = document.querySelector('#figure_drivers img').alt; found.driverTable = text('tables_drivers');",
    "  view('scatter'); const dots = await until(() => document.querySelector('#figure_scatter img')); await sleep(500);",
    "  const place = dots.getBoundingClientRect(), mouse = (kind, on, x, y) => on.dispatchEvent(new MouseEvent(kind, { clientX: place.left + x * place.width, clientY: place.top + y * place.height, pageX: 0, bubbles: true, button: 0, buttons: 1 }));",
    "  mouse('mousedown', dots, 0.3, 0.3); mouse('mousemove', document, 0.5, 0.5); mouse('mousemove', document, 0.7, 0.6); mouse('mouseup', document, 0.7, 0.6);",
    "  await until(() => text('tables_scatter').includes('Picked runs')); found.picked = text('script_scatter'); found.rows = document.querySelectorAll('#tables_scatter tbody tr').length;",
    "  view('comparison'); await until(() => text('tables_comparison').includes('Differences')); found.comparison = text('script_comparison');",
    "  view('law'); type('law', 'nonsense'); document.getElementById('weigh').click(); await until(() => text('tables_law').includes('nonsense')); found.lawFault = text('tables_law');",
    "  type('law', 'pert(30, 34, 44)'); document.getElementById('weigh').click(); await until(() => text('tables_law').includes('effective_runs')); found.law = text('script_law');",
    "  Shiny.setInputValue('found', JSON.stringify(found));",
    "})();"))
  process <- processx::process$new(browser, c(browser_options(at$folder), "--window-size=1280,900", "--remote-debugging-port=0",
    sprintf("http://127.0.0.1:%d/?token=right", at$port)), stderr = file.path(at$folder, "browser.txt"))
  withr::defer(process$kill_tree())
  file <- file.path(at$folder, "found.json")
  for (i in 1:600) if (file.exists(file)) break else Sys.sleep(0.2)
  Sys.sleep(0.2)
  expect_true(file.exists(file))
  found <- jsonlite::fromJSON(readLines(file))
  expect_null(found$stuck)
  expect_null(found$error)
  expect_no_match(readLines(file.path(at$folder, "browser.txt")), "CONSOLE", fixed = TRUE)
  main <- explored_demo()$results$main
  expect_identical(as.double(found$first), chance(main, pressure <= 38)$chance)
  target <- as.double(found$target)
  expect_gt(target, 38)
  moved <- chance(main, pressure <= !!target)
  expect_identical(as.double(found$below), moved$chance)
  expect_equal(as.double(found$high), moved$high)
  expect_match(found$script, sprintf("plot_distribution(main, pressure, target = %s)", found$target), fixed = TRUE)
  expect_match(found$fault, "nothing")
  kept <- given(main, demand > 36)
  expect_match(found$about, sprintf("^%d of 2000 runs", nrow(as.data.frame(kept))))
  expect_match(sprintf("%.6f", as.double(found$givenBelow)), sprintf("%.6f|%.6f", chance(kept, pressure <= 38)$chance, chance(kept, pressure <= !!target)$chance))
  expect_match(found$drivers, "[Dd]emand|[Ff]riction")
  expect_match(found$driverTable, "friction")
  # the runs that are listed are those of the call that is shown
  runs <- kept
  listed <- eval(parse(text = sub(".*\n(as.data.frame\\(.*)$", "\\1", found$picked)))
  expect_identical(found$rows, min(nrow(listed), 200L))
  expect_gt(found$rows, 0)
  expect_match(found$comparison, "compare_results(main = main, wet = wet, .outputs = pressure)", fixed = TRUE)
  expect_match(found$lawFault, "must be a law", fixed = TRUE)
  expect_match(found$law, "reweight_runs(main, demand = law_pert(min = 30, mode = 34, max = 44), .outputs = pressure)", fixed = TRUE)
})
