# The canonical text of a value: the same value gives the same text in any session.

# Keys in alphabetical order, doubles in hexadecimal, language as text. Order matters in lists without keys alone, so
# the order of quantities is written down on its own.
canonical_text <- function(x, keys = new.env(parent = emptyenv())) {
  if (is.null(x)) return("null")
  if (is.language(x)) return(canonical_string(deparse1(x, width.cutoff = 500L)))
  if (is.function(x)) return("function")  # its source stands beside it
  if (is.data.frame(x)) x <- as.list(x)
  if (is.list(x)) return(canonical_list(unclass(x), keys))
  if (is.environment(x) || isS4(x)) return(canonical_string(class(x)[1]))
  value <- if (is.double(x)) sprintf("%a", x) else if (is.character(x)) canonical_string(x) else format(x)
  sprintf("%s(%s)", class(x)[1], paste(value, collapse = ","))
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

canonical_string <- function(x) encodeString(enc2utf8(x), quote = "\"", justify = "none")

text_hash <- function(text) {
  file <- tempfile("ensayo-canonical-")
  on.exit(unlink(file))
  writeBin(charToRaw(enc2utf8(text)), file)
  unname(tools::md5sum(file))
}
