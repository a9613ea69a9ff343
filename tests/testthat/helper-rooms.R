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
names_given_twice <- function(root) {
  names <- unlist(lapply(named_in_files(root), names))
  unique(names[duplicated(names)])
}

# A row for each use of a function, or of a value, of one file by a function or value of another.
calls_between_files <- function(root) {
  bodies <- named_in_files(root)
  name <- unlist(lapply(bodies, names), use.names = FALSE)
  file <- rep(names(bodies), lengths(bodies))
  used <- lapply(unlist(bodies, recursive = FALSE, use.names = FALSE), function(body) {
    # a value is read like a function without arguments
    intersect(codetools::findGlobals(eval(call("function", NULL, body), new.env(parent = baseenv()))), name)
  })
  calls <- data.frame(from = rep(file, lengths(used)), by = rep(name, lengths(used)), calls = unlist(used))
  calls$to <- file[match(calls$calls, name)]
  calls[calls$from != calls$to, ]
}

later_calls <- function(calls, rooms) {
  calls[!(match(room_of_file(calls$to), rooms) <= match(room_of_file(calls$from), rooms)) %in% TRUE, ]
}
