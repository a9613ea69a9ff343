# The call graph of R/ by rooms: a file's room is its prefix, and the order of rooms is the table of docs/rooms.md.

rooms_in_order <- function(root) {
  rows <- grep("^\\| `", readLines(file.path(root, "docs", "rooms.md"), encoding = "UTF-8"), value = TRUE)
  cells <- sub("^\\|([^|]*)\\|.*", "\\1", rows)
  gsub("`", "", unlist(regmatches(cells, gregexpr("`[a-z]+`", cells))))
}

room_of_file <- function(file) sub("[-.].*", "", file)

named_in_files <- function(root) {
  files <- setdiff(list.files(file.path(root, "R"), "[.]R$"), c("RcppExports.R", "ensayo-package.R"))
  lapply(stats::setNames(nm = files), function(file) {
    lines <- as.list(parse(file.path(root, "R", file), keep.source = FALSE, encoding = "UTF-8"))
    lines <- Filter(function(line) is.call(line) && as.character(line[[1]])[1] == "<-", lines)
    stats::setNames(lapply(lines, `[[`, 3), vapply(lines, function(line) as.character(line[[2]])[1], ""))
  })
}

# Of two functions of one name one would be lost.
names_given_twice <- function(bodies) {
  names <- unlist(lapply(bodies, names))
  unique(names[duplicated(names)])
}

# A row for each use of a function, or of a value, of one file by a function or value of another; of those files alone to which
# `looked_at(from, to)` holds.
calls_between_files <- function(bodies, looked_at = function(from, to) rep(TRUE, length(to))) {
  name <- unlist(lapply(bodies, names), use.names = FALSE)
  file <- rep(names(bodies), lengths(bodies))
  elsewhere <- lapply(stats::setNames(nm = names(bodies)), function(own) name[file != own & looked_at(own, file)])
  used <- Map(function(body, own) {
    known <- intersect(all.names(body), elsewhere[[own]])
    if (length(known) == 0) return(character())
    # not where the name is one of its own; a value is read like a function without arguments
    intersect(codetools::findGlobals(eval(call("function", NULL, body), new.env(parent = baseenv()))), known)
  }, unlist(bodies, recursive = FALSE, use.names = FALSE), file)
  calls <- data.frame(from = rep(file, lengths(used)), by = rep(name, lengths(used)), calls = as.character(unlist(used)))
  calls$to <- file[match(calls$calls, name)]
  calls
}

later_calls <- function(bodies, rooms) {
  calls_between_files(bodies, function(from, to) !(match(room_of_file(to), rooms) <= match(room_of_file(from), rooms)) %in% TRUE)
}
