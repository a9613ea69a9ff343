# The explorer's side of R: what was chosen becomes calls, calls are evaluated, and what they give is shown.

explorer_server <- function(explored, input, output, session) {
  name <- shiny::reactive(input$result %||% names(explored$results)[1])
  result <- shiny::reactive(explored$results[[name()]])
  shiny::observeEvent(result(), offer_choices(session, result()))
  chosen <- shiny::reactive(shiny::req(intersect(input$output, main_outputs(result()))))
  evaluated <- function(call, ...) told_fault(eval(call, c(explored$results, list(...)), asNamespace("ensayo")))

  # the runs that are looked at are kept: only another result or condition makes them anew
  typed <- shiny::debounce(shiny::reactive(input$given), 600)
  kept <- shiny::reactive({
    given <- told_fault(explored_conditions(typed(), result()))
    if (is_fault(given) || length(given) == 0) return(list(runs = result(), fault = given))
    runs <- evaluated(explored_runs(list(result = name(), given = given))$runs)
    if (is_fault(runs)) list(runs = result(), fault = runs) else list(runs = runs, given = given)
  })
  runs <- shiny::reactive(kept()$runs)
  output$given_fault <- shiny::renderUI(shown_fault(kept()$fault))
  target <- shiny::reactiveVal()
  shiny::observeEvent(list(result(), chosen()), target(NULL))
  settled <- shiny::debounce(target, 400)  # while it is dragged, its chances alone are asked for
  laws <- shiny::eventReactive(input$weigh, told_fault(stats::setNames(list(explored_law(input$law)), input$changed)))
  both <- shiny::reactive(evaluated(explored_calls("comparison", list(results = names(explored$results), output = chosen()))$both))

  asked <- shiny::reactive(list(result = name(), results = names(explored$results), output = chosen(), given = kept()$given,
    target = explored_target(settled(), result(), chosen()), measure = input$measure, across = input$across, upwards = input$upwards,
    picked = picked_conditions(input$brush, input$across, input$upwards, result()), show = input$show))
  calls_of <- function(view) shiny::reactive({
    choice <- asked()
    if (view == "law" && isTRUE(input$weigh > 0) && !is_fault(laws())) choice$laws <- laws()
    explored_calls(view, choice)
  })
  value <- function(call, view) {
    if (view == "comparison" && is_fault(both())) return(both())
    evaluated(call, runs = runs(), both = if (view == "comparison") both())
  }

  output$about <- shiny::renderUI(explored_about(runs(), result()))
  shiny::observe(session$sendCustomMessage("distribution", explored_distribution(runs(), chosen())))
  shiny::observeEvent(input$target, {
    target(input$target$value)
    session$sendCustomMessage("answer", c(list(number = input$target$number), explored_answer(runs(), name(), input$target)))
  })

  lapply(names(explored_tabs), function(view) show_view(view, calls_of(view), value, output, explored$sources, if (view == "law") laws))
}

# A view's figure, tables, script and what can be saved of it.
show_view <- function(view, calls, value, output, sources, laws = NULL) {
  force(calls)
  tables <- shiny::reactive({
    named <- calls()[setdiff(names(calls()), c("figure", "runs", "both"))]
    lapply(named, value, view = view)
  })
  made <- shiny::reactive(value(calls()$figure, view))
  figure <- function() {
    shiny::validate(shiny::need(!is_fault(made()), fault_sentence(made())))
    made()
  }
  output[[paste0("figure_", view)]] <- shiny::renderPlot(figure(), res = 84, alt = shiny::reactive({
    if (is_fault(made())) fault_sentence(made()) else gsub("\n", " ", made()$labels$title)
  }))
  output[[paste0("tables_", view)]] <- shiny::renderUI({
    if (!is.null(laws)) shiny::req(laws())
    shown <- Map(explored_table, tables(), names(tables()))
    faults <- vapply(tables(), is_fault, NA)
    htmltools::tagList(if (!is.null(laws)) shown_fault(laws()), unname(c(shown[!faults], utils::head(shown[faults], 1))))
  })
  output[[paste0("script_", view)]] <- shiny::renderText(paste(explored_script(calls(), sources), collapse = "\n"))
  output[[paste0("save_figure_", view)]] <- shiny::downloadHandler(paste0(view, ".png"), function(file) write_picture(figure(), file), "image/png")
  output[[paste0("save_table_", view)]] <- shiny::downloadHandler(paste0(view, ".csv"), function(file) {
    good <- Filter(is.data.frame, tables())
    if (length(good)) write_csv(unclass_table(good[[1]]), file) else write_file_lines("", file)
  }, "text/csv")
}

# What can be chosen hangs on the result.
offer_choices <- function(session, result) {
  labelled <- function(names) stats::setNames(names, vapply(names, function(name) quantity_label(result$study, name), ""))
  outputs <- shown_first(result)
  quantities <- Filter(function(name) !is_drawn_series(result, name), c(main_outputs(result), draw_names(result)))
  shiny::updateSelectInput(session, "output", choices = labelled(outputs))
  first <- drivers_of(result, outputs[1])$input[1]
  shiny::updateSelectInput(session, "upwards", choices = labelled(quantities), selected = outputs[1])
  shiny::updateSelectInput(session, "across", choices = labelled(quantities), selected = if (isTRUE(first %in% quantities)) first)
  shiny::updateSelectInput(session, "changed", choices = labelled(intersect(draw_names(result), names(result$study$inputs))))
}

# Outputs, those first that a reader asks about first.
shown_first <- function(result) {
  leading <- leading_outputs(result)
  c(leading, setdiff(rev(main_outputs(result)), leading))
}

explored_distribution <- function(runs, output) list(runs = run_count(runs), outputs = I(list(live_output(runs, output, NULL))))

# What the page says of a target: shares on each side, with their intervals, as chance() has them.
explored_answer <- function(runs, name, target) {
  if (!target$output %in% main_outputs(runs)) return(NULL)
  asked <- list(result = name, output = target$output)
  call <- explored_chance(asked, explored_target(target$value, runs, target$output))
  table <- eval(call, stats::setNames(list(runs), name), asNamespace("ensayo"))
  list(below = table$chance[1], above = table$chance[2], belowRange = c(table$low[1], table$high[1]), aboveRange = c(table$low[2], table$high[2]))
}

# A box drawn around points, as conditions on the two quantities.
picked_conditions <- function(brush, across, upwards, result) {
  if (is.null(brush)) return(NULL)
  side <- function(how, name, x) {
    x <- if (name %in% output_names(result)) explored_target(signif(x, 6), result, name) else signif(x, 6)
    call(how, as.name(name), if (is.character(x)) call("date", x) else x)
  }
  list(side(">=", across, brush$xmin), side("<=", across, brush$xmax), side(">=", upwards, brush$ymin), side("<=", upwards, brush$ymax))
}

explored_about <- function(runs, result) {
  words <- c(design_words[[result$provenance$design]], sprintf("seed %s", format_given(result$provenance$seed)))
  left <- run_count(runs)
  first <- if (left < run_count(result)) sprintf("%s of %s (%s)", count_text(left), count_of(run_count(result), "run"),
    format_share(left / run_count(result))) else count_of(left, "run")
  htmltools::tags$p(class = "note", paste(c(first, words, failure_lines(result)), collapse = ", "))
}

# A table as prints show it: its first 200 rows.
explored_table <- function(table, title, most = 200) {
  if (is_fault(table)) return(shown_fault(table))
  told <- told_cells(table, most)
  more <- if (nrow(table) > most) sprintf(" (the first %d of %s)", most, count_text(nrow(table))) else ""
  htmltools::tagList(htmltools::tags$h3(paste0(title, more)),
    htmltools::tags$div(class = "table-holder", report_whole_table(told$cells, names(told$cells)[told$right])),
    if (!is.null(told$sense)) htmltools::tags$p(class = "note", paste0(told$sense, ".")))
}

# Faults are shown where what was asked is, and end nothing.
told_fault <- function(expr) tryCatch(expr, ensayo_error = function(e) structure(list(error = e), class = "ensayo_fault"))
is_fault <- function(x) inherits(x, "ensayo_fault")
fault_sentence <- function(fault) paste(c(fault$error$expected, fault$error$came, fault$error$mend), collapse = " ")
shown_fault <- function(x) if (is_fault(x)) htmltools::tags$p(class = "fault", role = "alert", fault_sentence(x))
