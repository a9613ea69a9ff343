# Marks in texts that a program reads: `@[demand %8.3f]` stands for a quantity's value in a run, in a format. `@@[` stands
# for `@[` itself. A text with its marks found once:
#   pieces   what stands between marks, one more than these
#   names    the quantity of each mark
#   formats  its format, "" for the shortest text that reads back as the same number
#   lines    the line of each mark, for messages

# a name may have an index in brackets
mark_pattern <- "@@\\[|@\\[[^][\n]*(\\[[^][\n]*\\][^][\n]*)?\\]"

# `place` says where the text stands; `dates` are the quantities that are days.
read_marks <- function(text, known, place, dates = character(), call = rlang::caller_env()) {
  at <- gregexpr(mark_pattern, text, perl = TRUE)[[1]]
  if (at[1] == -1) return(list(pieces = text, names = character(), formats = character(), lines = numeric()))
  found <- regmatches(text, list(at))[[1]]
  between <- regmatches(text, list(at), invert = TRUE)[[1]]
  literal <- found == "@@["
  # literal ones join the text around them
  group <- cumsum(c(FALSE, !literal))
  pieces <- vapply(split(paste0(c("", ifelse(literal, "@[", "")), between), group), paste, "", collapse = "")
  inner <- substr(found[!literal], 3, nchar(found[!literal]) - 1)
  names <- trimws(sub("%.*", "", inner))
  formats <- trimws(sub("^[^%]*", "", inner))
  breaks <- gregexpr("\n", text, fixed = TRUE)[[1]]
  lines <- 1 + findInterval(at[!literal], breaks[breaks > 0])
  for (i in seq_along(names)) {
    where <- sprintf("%s, line %d: the mark %s", place, lines[i], quoted(paste0("@[", inner[i], "]")))
    if (!names[i] %in% known) {
      stop_ensayo("name", sprintf("%s must name an input or output.", where),
        if (nzchar(names[i])) sprintf("%s is none.", quoted(names[i])),
        paste(suggestion(names[i], known), "To have `@[` itself, write `@@[`."), name = names[i], known = known,
        call = call)
    }
    fault <- format_fault(formats[i], names[i] %in% dates)
    if (!is.null(fault)) {
      stop_ensayo("argument", sprintf("%s must have a format of one value.", where), sprintf("%s %s.",
        quoted(formats[i]), fault), "Such as `%10.3f`, `%.6g`, `%12.4E`, `%05d`, `%-8s` for texts, or `%d.%m.%Y` for days.",
        call = call)
    }
  }
  list(pieces = unname(pieces), names = names, formats = formats, lines = lines)
}

format_fault <- function(format, day) {
  if (!nzchar(format)) return(NULL)
  if (day) return(if (is.na(format(as.Date("2026-05-01"), format))) "is no format of a day")
  if (!grepl("^%[-+ 0#]*[0-9]{0,3}([.][0-9]{1,3})?[eEfgGds]$", format)) "is none"
}

# A text with its marks as it was written.
marked_text <- function(marked) {
  pieces <- gsub("@[", "@@[", marked$pieces, fixed = TRUE)
  marks <- sprintf("@[%s]", trimws(paste(marked$names, marked$formats)))
  paste(c(rbind(pieces, c(if (length(marked$names)) marks, ""))), collapse = "")
}
