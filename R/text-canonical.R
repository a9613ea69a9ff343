# The canonical text of a value: the same value gives the same text in any session.

# Keys in alphabetical order, doubles in hexadecimal, language as text. Order matters in lists without keys alone, so
# the order of quantities is written down on its own.
canonical_text <- function(x, keys = new.env(parent = emptyenv())) {
  switch(typeof(x),
    `NULL` = "null",
    list = , pairlist = canonical_list(unclass(x), keys),
    double = canonical_vector(x, sprintf("%a", x)),
    character = canonical_vector(x, canonical_string(x)),
    logical = canonical_vector(x, if (length(x) == 1) as.character(x) else format(x)),
    integer = , complex = , raw = canonical_vector(x, format(x)),
    symbol = , language = , expression = canonical_string(deparse1(x, width.cutoff = 500L)),
    closure = , builtin = , special = "function",  # its source stands beside it
    canonical_string(class(x)[1]))
}

canonical_vector <- function(x, texts) {
  paste0(class(x)[1], "(", if (length(texts) == 1) texts else paste(texts, collapse = ","), ")")
}

canonical_list <- function(x, keys) {
  if (is.null(names(x))) return(sprintf("[%s]", paste(vapply(x, canonical_text, "", keys), collapse = ",")))
  key <- if (length(x) > 50) canonical_keys(names(x)) else {
    known <- paste(c("names", names(x)), collapse = "\r")
    if (nchar(known, "bytes") > 5000) canonical_keys(names(x))  # an environment takes no longer names
    else keys[[known]] %||% (keys[[known]] <- canonical_keys(names(x)))
  }
  entries <- paste0(key$texts, ":", vapply(x[key$order], canonical_text, "", keys))
  sprintf("{order:%s;%s}", key$places, paste(entries, collapse = ";"))
}

# What a list's names give, found once for the many lists of the same names.
canonical_keys <- function(names) {
  order <- order(names, method = "radix")
  list(order = order, texts = canonical_string(names[order]), places = paste(match(names, names[order]), collapse = ","))
}

# encodeString() takes its time, and most names need none of it.
canonical_string <- function(x) {
  if (length(x) == 0) return(character())
  quoted <- paste0("\"", x, "\"")
  odd <- is.na(x) | grepl("[^] !#-[^-~]", x, perl = TRUE, useBytes = TRUE)
  if (any(odd)) quoted[odd] <- encodeString(enc2utf8(x[odd]), quote = "\"", justify = "none")
  quoted
}

text_hash <- function(text) {
  file <- tempfile("ensayo-canonical-")
  on.exit(unlink(file))
  writeBin(charToRaw(enc2utf8(text)), file)
  unname(tools::md5sum(file))
}
