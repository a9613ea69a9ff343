# Builds docs/site: help, guides, gallery and NEWS as pages that work from disk, by the package pkgdown; then takes out what pages would fetch
# from elsewhere, and checks that every link leads somewhere.

source <- "build/site-source"
site <- file.path(getwd(), "docs", "site")
unlink(c(source, site), recursive = TRUE)
dir.create(source, recursive = TRUE)
invisible(file.copy(c("DESCRIPTION", "NAMESPACE", "NEWS.md", "README.md", "LICENSE", "LICENSE.md", "CONTRIBUTING.md", "ARCHITECTURE.md", "R", "man", "inst", "vignettes",
  file.path("docs", c("handbook.md", "speed.md", "rooms.md"))), source, recursive = TRUE))

dir.create(file.path(source, "man", "figures"))
invisible(file.copy(list.files("docs/screenshots", full.names = TRUE), file.path(source, "man", "figures")))

# Links of the sources, as pages have them.
links <- c("!\\[([^]]*)\\]\\((\\.\\./)?(docs/)?screenshots/" = "![\\1](man/figures/", "\\]\\((\\.\\./)?(vignettes/)(articles/)?([a-z-]+)\\.Rmd" = "](articles/\\4.html", "\\]\\((\\.\\./)?(docs/)?([a-zA-Z]+)\\.md" = "](\\3.html",
  "\\]\\((\\.\\./)?(docs/)?screenshots/" = "](screenshots/", "\\]\\((\\.\\./)?inst/studies/" = "](studies/", "\\]\\(\\.\\./bench/" = "](bench/",
  "README\\.html" = "index.html", "\\(NEWS\\.html" = "(news/index.html")
for (file in list.files(source, "[.]md$", full.names = TRUE)) {
  lines <- readLines(file, encoding = "UTF-8")
  for (pattern in names(links)) lines <- gsub(pattern, links[[pattern]], lines)
  if (basename(file) == "NEWS.md") lines <- gsub("\\]\\(([A-Za-z]+)\\.html", "](../\\1.html", lines)
  writeLines(enc2utf8(lines), file, useBytes = TRUE)
}

# Help pages by the room of the file that they are written in.
rooms <- c(study = "Describing a study", law = "Laws", draw = "Draws", model = "Models", simulate = "Simulating", result = "Results", reading = "Reading results",
  driver = "What drives the outputs", plot = "Figures", file = "Files", report = "Reports", explore = "The explorer", cli = "The command line", conditions = "Errors",
  ensayo = "The package")
pages <- list.files("man", "[.]Rd$", full.names = TRUE)
room <- vapply(pages, function(page) sub("[-.].*", "", sub(".*R/", "", grep("Please edit", readLines(page), value = TRUE)[1])), "")
internal <- vapply(pages, function(page) any(grepl("keyword{internal}", readLines(page), fixed = TRUE)), NA)
topic <- vapply(pages, function(page) sub("\\\\name\\{(.*)\\}", "\\1", grep("^\\\\name", readLines(page), value = TRUE)[1]), "")
stopifnot(all(room %in% names(rooms)))
reference <- lapply(Filter(function(name) any(room == name & !internal), names(rooms)), function(name) {
  list(title = rooms[[name]], contents = unname(topic[room == name & !internal]))
})
guides <- list(
  list(title = "By trade", contents = c("tolerances", "costs-and-events", "schedules", "measurements", "over-time", "decisions", "coupling-a-program",
    "a-hundred-dear-runs")),
  list(title = "For all", contents = c("drivers", "how-sure", "how-it-works", "articles/gallery")))
item <- function(text, href) list(text = text, href = href)
override <- list(
  destination = site, template = list(bootstrap = 5, bslib = list(primary = "#0d5c75", "link-color" = "#0d5c75", "border-radius" = "3px")),
  home = list(sidebar = FALSE), news = list(cran_dates = FALSE), reference = reference, articles = guides,
  navbar = list(structure = list(left = c("guides", "questions", "reference", "gallery", "news"), right = character()), components = list(
    guides = item("Guides", "articles/index.html"), questions = item("By question", "handbook.html"), reference = item("Reference", "reference/index.html"),
    gallery = item("Gallery", "articles/gallery.html"), news = item("News", "news/index.html"))))
pkgdown::build_site(source, override = override, preview = FALSE, devel = FALSE, new_process = FALSE, install = FALSE)

copied <- c(screenshots = "docs/screenshots", studies = "inst/studies", bench = "bench")
for (name in names(copied)) {
  dir.create(file.path(site, name))
  file.copy(list.files(copied[[name]], "[.](png|yml|txt)$", full.names = TRUE), file.path(site, name))
}
invisible(file.copy("tools/site.css", file.path(site, "site.css")))

# Nothing is fetched from elsewhere; the table of contents of a page is made by a few lines of our own.
html <- list.files(site, "[.]html$", recursive = TRUE, full.names = TRUE)
toc <- paste(readLines("tools/site-toc.js"), collapse = "\n")
for (file in html) {
  text <- paste(readLines(file, encoding = "UTF-8"), collapse = "\n")
  up <- strrep("../", lengths(regmatches(sub(paste0(site, "/"), "", file, fixed = TRUE), gregexpr("/", sub(paste0(site, "/"), "", file, fixed = TRUE)))))
  text <- gsub("<script[^>]* src=\"(https?:|file:)[^>]*></script>", "", text)
  text <- gsub("<link[^>]* href=\"https?:[^>]*>", "", text)
  text <- gsub("(?s)<form [^>]*role=\"search\".*?</form>", "", text, perl = TRUE)  # it would need what is not fetched
  text <- gsub("<script[^>]* src=\"[./]*pkgdown[.]js\"></script>", "", text)
  text <- sub("</head>", sprintf("<link rel=\"icon\" href=\"data:,\"><link rel=\"stylesheet\" href=\"%ssite.css\"></head>", up), text, fixed = TRUE)
  text <- sub("</body>", sprintf("<script>%s</script></body>", toc), text, fixed = TRUE)
  writeLines(enc2utf8(text), file, useBytes = TRUE)
}

faults <- unlist(lapply(html, function(file) {
  text <- paste(readLines(file, encoding = "UTF-8"), collapse = "\n")
  text <- gsub("<script.*?</script>", "", text, perl = TRUE)
  found <- unique(unlist(regmatches(text, gregexpr("(?<=href=\"|src=\")[^\"]+", text, perl = TRUE))))
  fetched <- grep("src=\"https?:", unlist(regmatches(text, gregexpr("<(img|script|link|iframe)[^>]*>", text))), value = TRUE)
  found <- grep("^(https?:|data:|mailto:|#)", found, value = TRUE, invert = TRUE)
  to <- vapply(found, function(link) utils::URLdecode(gsub("&amp;", "&", sub("[#?].*", "", link), fixed = TRUE)), "")
  there <- !nzchar(to) | file.exists(file.path(dirname(file), to))
  # places on a page that is there
  anchor <- sub("^[^#]*#?", "", found)
  target <- ifelse(nzchar(to), file.path(dirname(file), to), file)
  named <- mapply(function(anchor, target, good) !good || !nzchar(anchor) || !grepl("[.]html$", target) ||
    any(grepl(sprintf("id=\"%s\"", anchor), readLines(target, encoding = "UTF-8"), fixed = TRUE)), anchor, target, there)
  sprintf("%s: %s", sub(paste0(site, "/"), "", file, fixed = TRUE), c(found[!there | !named], fetched))
}))
if (length(faults)) {
  cat(faults, sep = "\n")
  stop(length(faults), " links of the site lead nowhere, or fetch from elsewhere", call. = FALSE)
}
cat(sprintf("%d pages in docs/site; open docs/site/index.html. Every link leads somewhere, and nothing is fetched.\n", length(html)))
