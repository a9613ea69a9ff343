# YAML without its surprises. YAML 1.1 reads `y` and `n` as TRUE and FALSE, `010` as 8 and large numbers as NA; here
# every scalar comes as the text that was written, and is read by what the place asks for (study-record.R).

as_written <- function(x) x
yaml_handlers <- stats::setNames(rep(list(as_written), 12), c(
  "bool#yes", "bool#no", "int", "int#hex", "int#oct", "int#base60",
  "float", "float#fix", "float#exp", "float#inf", "float#nan", "float#base60"
))

read_yaml_text <- function(text, file) {
  refuse_tangles(text, file)
  content <- yaml_content(text, file)
  refuse_hidden_controls(content, file)
  content
}

# What would take the parser ages, or is no plain data: deep nesting, and anchors with their aliases, by which a short
# text stands for an endless one.
refuse_tangles <- function(text, file, deepest = 100) {
  lines <- strsplit(text, "\n", fixed = TRUE)[[1]]
  fault <- function(bad, came) {
    line <- which(bad)[1]
    if (!is.na(line)) stop_ensayo("file", sprintf("%s must be plain and not nested deeper than %d levels.",
      at_line(file, line), deepest), came, file = file, line = line)
  }
  opened <- function(x) nchar(gsub("[^\\[{]", "", x)) - nchar(gsub("[^]}]", "", x))
  fault(nchar(gsub("[^\\[{]", "", lines)) > 10 * deepest | cumsum(opened(lines)) > deepest, "It has too many brackets.")
  fault(nchar(sub("[^ -].*$", "", lines)) > 4 * deepest, "It is indented too far.")
  anchors <- grepl("(^|[-:,{[])[ \t]*&[A-Za-z0-9_]", lines)
  aliases <- grepl("(^|[-:,{[])[ \t]*[*][A-Za-z0-9_]", lines)
  if (any(anchors) && any(aliases)) {
    fault(anchors, "It has an anchor (`&name`) and an alias (`*name`): write the value out.")
  }
}

# A double-quoted text may write any character as a code.
refuse_hidden_controls <- function(content, file) {
  texts <- c(unlist(content), names(unlist(content)))
  bad <- texts[grepl(control_characters, texts, perl = TRUE)]
  if (length(bad)) {
    stop_ensayo("file", sprintf("%s must not hold control characters.", file),
      sprintf("The text %s does.", encodeString(substr(bad[1], 1, 60), quote = "\"")), file = file)
  }
}

yaml_content <- function(text, file) {
  tryCatch(
    yaml::yaml.load(text, handlers = yaml_handlers, eval.expr = FALSE, as.named.list = TRUE),
    error = function(e) stop_yaml(conditionMessage(e), file, text),
    warning = function(w) stop_yaml(conditionMessage(w), file, text)
  )
}

stop_yaml <- function(message, file, text) {
  twice <- regmatches(message, regexec("Duplicate map key: '(.*)'", message))[[1]]
  if (length(twice)) {
    found <- lines_of_key(keyed_lines(text), twice[2])
    line <- found[length(found)]
    stop_ensayo("name", sprintf("%s must use each name once.", at_line(file, line)),
      sprintf("%s stands twice at one place.", quoted(twice[2])), name = twice[2], file = file, line = line)
  }
  # the parser names first where the surrounding block began, then where it could not go on
  lines <- as.integer(regmatches(message, gregexpr("(?<=line )[0-9]+", message, perl = TRUE))[[1]])
  line <- if (length(lines)) lines[length(lines)]
  detail <- sub("^\\(.*?\\) *", "", sub("^(Parser|Scanner|Reader) error: *", "", message))
  stop_ensayo("file", sprintf("%s must be valid YAML.", at_line(file, line)), trimws(detail),
    "Indent with spaces, put a space after each colon, and quote texts that hold `: `, `#` or, in braces, a comma.",
    file = file, line = line)
}

at_line <- function(file, line) if (length(line) == 0 || is.na(line)) file else sprintf("%s, line %d,", file, line)

# The lines of a file and the key that each begins with: the parser keeps no positions, so keys are looked for in the text.
keyed_lines <- function(text) {
  lines <- strsplit(text, "\n", fixed = TRUE)[[1]]
  told <- grepl("[^ ]", lines) & !grepl("^ *#", lines)
  keys <- ifelse(told & grepl(":", lines, fixed = TRUE), sub("^[ -]*[\"']?(.*?)[\"']? *:( .*)?$", "\\1", lines), NA)
  list(lines = lines, told = told, keys = keys, width = attr(regexpr("^[ -]*", lines), "match.length"))
}

# Where a key begins a line, or else stands within braces.
lines_of_key <- function(keyed, key, among = seq_along(keyed$lines)) {
  found <- among[keyed$keys[among] %in% key]
  if (length(found)) found else among[grepl(paste0("[{,][ \"']*\\Q", key, "\\E[\"']? *:"), keyed$lines[among], perl = TRUE)]
}

# The line of the last of some keys, each within what stands under the one before; those that are not there are passed over.
line_within <- function(keyed, keys, among = seq_along(keyed$lines)) {
  at <- NA_integer_
  for (key in keys) {
    found <- lines_of_key(keyed, key, among)
    if (length(found) == 0) next
    at <- found[which.min(keyed$width[found])]
    among <- lines_under(keyed, at)
  }
  at
}

lines_under <- function(keyed, at) {
  past <- which(seq_along(keyed$lines) > at & keyed$told & keyed$width <= keyed$width[at])
  seq(at, if (length(past)) past[1] - 1 else length(keyed$lines))
}

# Writing: texts are quoted wherever a reader of YAML could take them for something else.
to_yaml <- function(x, indent = 0) {
  pad <- strrep(" ", indent)
  unlist(lapply(seq_along(x), function(i) {
    key <- if (is.null(names(x))) paste0(pad, "- ") else paste0(pad, yaml_scalar(names(x)[i]), ":")
    value <- x[[i]]
    if (is.list(value) && length(value) && is.null(names(x))) {
      nested <- to_yaml(value, indent + 2)
      return(c(paste0(key, trimws(nested[1], "left")), nested[-1]))
    }
    if (is.list(value) && length(value)) return(c(key, to_yaml(value, indent + 2)))
    if (!is.null(names(x)) && is_block_text(value)) return(yaml_block(key, value, indent))
    shown <- vapply(value, yaml_scalar, "")
    flow <- if (length(shown) == 1) shown else paste0("[", paste(shown, collapse = ", "), "]")
    if (is.null(names(x))) paste0(key, flow) else paste(key, flow)
  }))
}

yaml_scalar <- function(x) {
  if (is.logical(x)) return(if (x) "true" else "false")
  if (is.numeric(x)) return(cpp_number_text(x))
  plain <- grepl("^[A-Za-z][A-Za-z0-9_ /^*().+-]*$", x) &&
    !grepl("^(y|n|yes|no|true|false|on|off|null|inf|nan|na)$", x, TRUE) &&
    !grepl(" $", x)
  if (plain) x else encode_yaml(x)
}

# Texts of several lines stand as they are, unless what refuses tangles would take them for some.
is_block_text <- function(x) {
  is.character(x) && length(x) == 1 && grepl("\n", x, fixed = TRUE) && !grepl("^\n|\n\n$", x) &&
    !grepl("[[:cntrl:]]", gsub("[\n\t]", "", x)) && is.null(tryCatch(refuse_tangles(x, ""), ensayo_error = identity))
}

# `2`: blanks beyond the second belong to the text.
yaml_block <- function(key, x, indent) {
  lines <- strsplit(x, "\n", fixed = TRUE)[[1]]
  c(paste0(key, " |2", if (!grepl("\n$", x)) "-"), ifelse(nzchar(lines), paste0(strrep(" ", indent + 2), lines), ""))
}

# YAML's double-quoted form, which can hold any text on one line; of long texts brackets and the like as codes.
encode_yaml <- function(x) {
  long <- grepl("\n", x, fixed = TRUE)
  x <- gsub("\\", "\\\\", x, fixed = TRUE)
  x <- gsub("\"", "\\\"", x, fixed = TRUE)
  x <- gsub("\n", "\\n", x, fixed = TRUE)
  x <- gsub("\t", "\\t", x, fixed = TRUE)
  if (long) {
    for (mark in c("[", "]", "{", "}", "&", "*")) x <- gsub(mark, sprintf("\\x%02x", utf8ToInt(mark)), x, fixed = TRUE)
  }
  paste0("\"", x, "\"")
}
