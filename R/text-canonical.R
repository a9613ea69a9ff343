# The canonical text of a value: the same value gives the same text in any session.

# Keys in alphabetical order, doubles in hexadecimal, language as text. Order matters in lists without keys alone, so
# the order of quantities is written down on its own. Most of it is written by src/rcpp_canonical.cpp.
canonical_text <- function(x) cpp_canonical_text(x, quoted_text, other_canonical_text)

other_canonical_text <- function(x) {
  switch(typeof(x),
    pairlist = canonical_text(as.list(x)),
    logical = , integer = , complex = , raw = sprintf("%s(%s)", class(x)[1], paste(format(x), collapse = ",")),
    symbol = , language = , expression = quoted_text(deparse1(x, width.cutoff = 500L)),
    closure = , builtin = , special = "function",  # its source stands beside it
    quoted_text(class(x)[1]))
}

quoted_text <- function(x) encodeString(enc2utf8(x), quote = "\"", justify = "none")

text_hash <- function(text) {
  file <- tempfile("ensayo-canonical-")
  on.exit(unlink(file))
  writeBin(charToRaw(enc2utf8(text)), file)
  unname(tools::md5sum(file))
}
