# A browser without a window, for the pages that answer.
browser_path <- function() {
  found <- Sys.which(c("chromium", "chromium-browser", "google-chrome"))
  found <- found[nzchar(found)]
  skip_if(length(found) == 0, "no Chromium here: pages are tried in one")
  found[[1]]
}

browser_options <- function(folder) {
  c("--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking", "--enable-logging=stderr",
    paste0("--user-data-dir=", folder, "/profile"))
}

# What a server on this machine answers to bytes, and then to more, until it closes or is silent for a second.
answered_bytes <- function(port, bytes, more = NULL) {
  connection <- socketConnection("127.0.0.1", port, open = "r+b", blocking = FALSE)
  on.exit(close(connection))
  # to its end, or until there is nothing more for a second
  answer <- function(to, end = NULL) {
    writeBin(to, connection)
    all <- raw()
    silent <- 0
    while (silent < 10 && !(!is.null(end) && length(grepRaw(end, all, fixed = TRUE)))) {
      got <- tryCatch(readBin(connection, "raw", 65536), error = function(e) raw())
      all <- c(all, got)
      silent <- if (length(got)) 0 else silent + 1
      if (length(got) == 0) Sys.sleep(0.1)
    }
    all
  }
  first <- answer(bytes, charToRaw("\r\n\r\n"))
  if (is.null(more)) first else answer(more)
}
