# Tasks as files.

#' @rdname task_table
#' @param overwrite `TRUE` to replace a file that is there.
#' @param percentile For iCalendar, of a result: which percentile of starts and finishes to write, in the study's sense; those of the base
#'   case when left out, and of a study.
#' @export
write_tasks <- function(study, file, overwrite = FALSE, percentile = NULL) {
  result <- if (inherits(study, "ensayo_result")) study
  study <- if (is.null(result)) study else study_of(result)
  check_study(study)
  refuse_existing(check_string(file), check_flag(overwrite))
  ending <- file_ending(file)
  if (!is.null(percentile) && (ending != "ics" || is.null(result))) {
    stop_argument("percentile", "left out but for a result that is written as iCalendar", percentile)
  }
  if (ending == "ics") {
    dates <- if (!is.null(study$schedule$start)) written_dates(result, study, percentile)
    writeLines(tasks_to_ical(study, dates), file, sep = "\r\n", useBytes = TRUE)
    return(invisible(file))
  }
  table <- if (length(study$tasks) == 0) stats::setNames(rep(list(character()), length(task_columns)), task_columns)
    else unclass_table(task_table(study))
  if (ending == "json") {
    rows <- lapply(seq_along(table$name), function(i) Filter(nzchar, lapply(table, function(column) column[[i]])))
    writeLines(to_json(rows), file, useBytes = TRUE)
  } else write_csv(as.data.frame(table, check.names = FALSE), file)
  invisible(file)
}

# Starts and finishes of each task, by its name.
written_dates <- function(result, study, percentile) {
  names <- study$models$schedule$plan$names
  if (!is.null(percentile)) {
    mark <- percentile_names(check_percentiles(percentile, "percentile")[1])
    table <- unclass_table(schedule_table(result, percentile))
    table <- table[match(names, table$name), ]
    return(lapply(list(start = table[[paste0("start_", mark)]], finish = table[[paste0("finish_", mark)]]), function(days) {
      stats::setNames(as.list(days), names)
    }))
  }
  asked <- list(start = seq_along(names), finish = seq_along(names))
  made <- if (length(study$inputs) == 0) run_schedule(study$models$schedule, list(), 1, asked)
    else schedule_base(result %||% simulate(study, 1, seed = 1, progress = NULL), asked)
  lapply(made[c("start", "finish")], function(days) stats::setNames(lapply(days, as_day), names))
}

# Tasks as to-dos. `dates`: by task its start and finish.
tasks_to_ical <- function(study, dates) {
  table <- unclass_table(task_table(study))
  groups <- task_groups(study)
  stamp <- format(Sys.time(), "%Y%m%dT%H%M%SZ", tz = "UTC")
  date <- function(name, day) sprintf("%s;VALUE=DATE:%s", name, format(day, "%Y%m%d"))
  todos <- lapply(seq_len(nrow(table)), function(i) {
    cell <- function(key) if (!is.null(table[[key]]) && nzchar(table[[key]][i])) table[[key]][i]
    name <- table$name[i]
    task <- study$tasks[[name]]
    over <- !is.null(task$finished)
    done <- if (over) 1 else task$done
    c("BEGIN:VTODO", sprintf("UID:%s", ical_escaped(name)), paste0("DTSTAMP:", stamp), sprintf("SUMMARY:%s", ical_escaped(cell("label") %||% name)),
      if (!is.null(dates)) c(date("DTSTART", task$started %||% dates$start[[name]]), date("DUE", task$finished %||% dates$finish[[name]])),
      sprintf("STATUS:%s", if (over) "COMPLETED" else if (!is.null(task$started)) "IN-PROCESS" else "NEEDS-ACTION"),
      if (over) sprintf("COMPLETED:%sT000000Z", format(task$finished, "%Y%m%d")),
      if (!is.null(done)) sprintf("PERCENT-COMPLETE:%d", as.integer(round(100 * done))),
      if (!is.null(cell("group"))) sprintf("CATEGORIES:%s", ical_escaped(cell("group"))),
      if (!is.null(cell("note"))) sprintf("DESCRIPTION:%s", ical_escaped(cell("note"))),
      unlist(lapply(task$links, function(link) {
        gap <- if (link$lag == "elapsed") sprintf(";GAP=%s", ical_length(link$length)) else ""
        sprintf("RELATED-TO;RELTYPE=%s%s:%s", ical_links[[link$kind]], gap, ical_escaped(groups[[link$from]] %||% link$from))
      })),
      unlist(lapply(ical_own_keys(), function(key) if (!is.null(cell(key))) sprintf("%s:%s", ical_own_name(key), ical_escaped(cell(key))))),
      "END:VTODO")
  })
  ical_folded(c("BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Ensayo//Tasks//EN", unlist(todos), "END:VCALENDAR"))
}

