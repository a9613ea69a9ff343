# iCalendar texts (RFC 5545): components with properties, each a value and parameters. What readers of other rooms make of them is theirs.

# The components of one kind in a file, such as "VEVENT": a list of properties for each, in order; each property list(name, value,
# parameters).
ical_components <- function(file, kind) {
  lines <- ical_lines(read_file_text(file))
  if (!any(toupper(lines) == "BEGIN:VCALENDAR")) {
    stop_ensayo("file", sprintf("%s must be an iCalendar file.", basename(file)), "It has no line BEGIN:VCALENDAR.", file = file)
  }
  properties <- lapply(seq_along(lines), function(i) ical_property(lines[i], file))
  names <- vapply(properties, function(property) property$name, "")
  values <- vapply(properties, function(property) property$value, "")
  begins <- which(names == "BEGIN" & toupper(values) == kind)
  lapply(begins, function(from) {
    end <- which(names == "END" & toupper(values) == kind & seq_along(names) > from)[1]
    if (is.na(end)) stop_ensayo("file", sprintf("%s must end each %s.", basename(file), kind), "One has no END.", file = file)
    inside <- properties[seq_len(end - from - 1) + from]
    # parts of a component, such as alarms, are not its own properties
    own <- names[seq_len(end - from - 1) + from]
    depth <- cumsum(own == "BEGIN") - c(0, cumsum(own == "END")[-length(own)])[seq_along(own)]
    inside[depth == 0]
  })
}

# Long lines are folded: the next begins with a space.
ical_lines <- function(text) {
  lines <- strsplit(gsub("\n[ \t]", "", text), "\n", fixed = TRUE)[[1]]
  lines[nzchar(lines)]
}

ical_property <- function(line, file) {
  # the colon that ends the name and its parameters is the first outside of quotation marks
  found <- regmatches(line, regexec("^([A-Za-z0-9-]+)((;[A-Za-z0-9-]+=(\"[^\"]*\"|[^\":;])*)*):(.*)$", line, perl = TRUE))[[1]]
  if (length(found) == 0) {
    stop_ensayo("file", sprintf("%s must have lines such as NAME:VALUE.", basename(file)), sprintf("One reads %s.", quoted(substr(line, 1, 60))),
      file = file)
  }
  parts <- regmatches(found[3], gregexpr(";[A-Za-z0-9-]+=(\"[^\"]*\"|[^\";])*", found[3], perl = TRUE))[[1]]
  keys <- toupper(sub("^;([^=]+)=.*$", "\\1", parts))
  list(name = toupper(found[2]), value = found[6], parameters = stats::setNames(as.list(gsub("\"", "", sub("^;[^=]+=", "", parts))), keys))
}

# The properties of a name in a component; the value of the first as text.
ical_all <- function(component, name) Filter(function(property) property$name == name, component)

ical_text <- function(component, name) {
  found <- ical_all(component, name)
  if (length(found) == 0) return(NULL)
  text <- gsub("\\\\[nN]", "\n", gsub("\\\\\\\\", "\001", found[[1]]$value))
  gsub("\001", "\\", gsub("\\\\([,;])", "\\1", text), fixed = TRUE)
}

# What a date or a date with a time says: list(day, seconds), seconds NULL for a whole day. Times are those of the clock on the wall.
ical_moment <- function(value, place) {
  found <- regmatches(value, regexec("^([0-9]{4})([0-9]{2})([0-9]{2})(T([0-9]{2})([0-9]{2})([0-9]{2})Z?)?$", value))[[1]]
  day <- if (length(found)) as.Date(paste(found[2:4], collapse = "-"), format = "%Y-%m-%d", optional = TRUE) else NA
  if (is.na(day)) stop_ensayo("file", sprintf("%s must be a date that exists, such as 20270308.", place), sprintf("It reads %s.", quoted(value)))
  list(day = day, seconds = if (nzchar(found[5])) sum(as.double(found[6:8]) * c(3600, 60, 1)))
}

# A length of time in days: P3D, P1W, PT8H, -P1DT12H.
ical_days <- function(value, place) {
  found <- regmatches(value, regexec("^([+-]?)P(([0-9]+)W)?(([0-9]+)D)?(T(([0-9]+)H)?(([0-9]+)M)?(([0-9]+)S)?)?$", value))[[1]]
  if (length(found) == 0 || !grepl("[0-9]", value)) {
    stop_ensayo("file", sprintf("%s must be a length of time, such as P3D.", place), sprintf("It reads %s.", quoted(value)))
  }
  number <- function(i) if (nzchar(found[i])) as.double(found[i]) else 0
  (if (found[2] == "-") -1 else 1) * (7 * number(4) + number(6) + number(9) / 24 + number(11) / 1440 + number(13) / 86400)
}

ical_length <- function(days) {
  seconds <- round(abs(days) * 86400)
  parts <- c(D = seconds %/% 86400, H = seconds %% 86400 %/% 3600, M = seconds %% 3600 %/% 60, S = seconds %% 60)
  said <- function(parts) paste0(sprintf("%d%s", as.integer(parts[parts > 0]), names(parts)[parts > 0]), collapse = "")
  time <- said(parts[-1])
  text <- paste0(said(parts[1]), if (nzchar(time)) paste0("T", time))
  paste0(if (days < 0) "-", "P", if (nzchar(text)) text else "0D")
}

# Lines of a file: texts with what must be escaped, folded at 75 octets without breaking a character.
ical_escaped <- function(text) gsub("\n", "\\\\n", gsub("([,;\\\\])", "\\\\\\1", text))

ical_folded <- function(lines) {
  unlist(lapply(enc2utf8(lines), function(line) {
    characters <- strsplit(line, "", fixed = TRUE)[[1]]
    if (length(characters) == 0) return(line)
    size <- nchar(characters, "bytes")
    row <- integer(length(characters))
    used <- 0
    at <- 1L
    for (i in seq_along(characters)) {
      if (used + size[i] > 75) {
        at <- at + 1L
        used <- 1  # the space
      }
      row[i] <- at
      used <- used + size[i]
    }
    rows <- vapply(split(characters, row), paste, "", collapse = "")
    paste0(c("", rep(" ", length(rows) - 1)), rows)
  }), use.names = FALSE)
}
