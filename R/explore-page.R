# The explorer's page.

explored_tabs <- c(distribution = "Distribution", drivers = "Drivers", scatter = "Scatter", inputs = "What makes specs fail", comparison = "Side by side",
  law = "Another law")

explorer_page <- function(explored) {
  tag <- htmltools::tags
  read <- function(...) htmltools::HTML(paste(readLines(system.file(..., package = "ensayo"), encoding = "UTF-8"), collapse = "\n"))
  result <- explored$results[[1]]
  shiny::bootstrapPage(
    title = sprintf("%s - explorer", result$study$title), lang = "en",
    tag$head(tag$meta(name = "referrer", content = "no-referrer"), tag$link(rel = "icon", href = "data:,"), tag$style(read("report", "report.css")), tag$style(read("explore", "explore.css")),
      tag$script(read("report", "report.js")), tag$script(read("explore", "explore.js"))),
    tag$header(tag$p(class = "kind", "Explorer"), tag$h1(result$study$title), if (!is.null(result$study$question)) tag$p(class = "question", result$study$question)),
    tag$div(class = "explorer",
      tag$div(class = "asks-side",
        if (length(explored$results) > 1) plain_select("result", "Result", stats::setNames(names(explored$results), explored$titles)),
        plain_select("output", "Output", character()),
        shiny::textInput("given", "Only runs in which", placeholder = "demand > 40; friction < 0.02"),
        tag$p(class = "hint", "Conditions on inputs and outputs, as in a spec; with ; between them all must hold."),
        shiny::uiOutput("given_fault"),
        shiny::uiOutput("about")),
      tag$main(do.call(shiny::tabsetPanel, c(list(id = "view"), explorer_tabs(explored)))))
  )
}

plain_select <- function(id, label, choices) shiny::selectInput(id, label, choices, selectize = FALSE)

explorer_tabs <- function(explored) {
  tag <- htmltools::tags
  asks <- list(
    distribution = tag$div(id = "live-distribution", class = "live"),
    drivers = tag$div(class = "exports", plain_select("measure", "Measure", stats::setNames(names(driver_measures), gsub("_", " ", names(driver_measures))))),
    scatter = htmltools::tagList(tag$div(class = "exports", plain_select("upwards", "Upwards", character()), plain_select("across", "Across", character())),
      tag$p(class = "hint", "Draw a box around runs to list them.")),
    comparison = tag$div(class = "exports", plain_select("show", "Show", c("outline", "density", "cumulative", "exceedance", "ranges", "difference"))),
    law = htmltools::tagList(tag$div(class = "exports", plain_select("changed", "Input", character()),
      shiny::textInput("law", "Its law", placeholder = "pert(30, 34, 44)"), shiny::actionButton("weigh", "Weigh the runs")),
      tag$p(class = "hint", "What the runs that are there would say if the input had another law, each run weighted by how likely it would be."))
  )
  views <- names(explored_tabs)
  if (length(explored$results) < 2) views <- setdiff(views, "comparison")
  lapply(views, function(view) {
    shiny::tabPanel(explored_tabs[[view]], value = view, asks[[view]],
      if (!view %in% c("distribution", "law")) shiny::plotOutput(paste0("figure_", view), height = "430px",
        brush = if (view == "scatter") shiny::brushOpts("brush", resetOnNew = TRUE)),
      shiny::uiOutput(paste0("tables_", view)),
      tag$div(class = "exports",
        if (view != "law") shiny::downloadButton(paste0("save_figure_", view), "Figure (PNG)", icon = NULL),
        shiny::downloadButton(paste0("save_table_", view), "Table (CSV)", icon = NULL)),
      tag$h3("In R", tag$button(class = "btn", type = "button", `data-copies` = paste0("script_", view), "Copy")),
      tag$pre(id = paste0("script_", view), class = "shiny-text-output"))
  })
}
