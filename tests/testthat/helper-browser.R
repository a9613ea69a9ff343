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

# What a server on this machine answers: the head of its answer to some bytes, and then what follows upon more, until the bytes of an end.
answered_bytes <- function(port, bytes, more = NULL, end = NULL) {
  connection <- socketConnection("127.0.0.1", port, open = "r+b", blocking = FALSE)
  on.exit(close(connection))
  answer <- function(to, end) {
    writeBin(to, connection)
    all <- raw()
    until <- Sys.time() + 60
    while (!length(grepRaw(end, all, fixed = TRUE))) {
      # socketSelect() would return before its time whenever a child of this process ends
      got <- readBin(connection, "raw", 65536)
      if (length(got) == 0) Sys.sleep(0.02)
      if (Sys.time() > until) stop("The server did not say within a minute what was waited for.")
      all <- c(all, got)
    }
    all
  }
  first <- answer(bytes, charToRaw("\r\n\r\n"))
  if (is.null(more)) first else answer(more, end)
}
