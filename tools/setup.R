# Installs what is missing, and nothing that is there: `Rscript tools/setup.R run|test|check|site`.
# On Debian and Ubuntu with the right to install, built packages come first; for what they lack or have too old, and
# anywhere else, the sources of CRAN.

purpose <- commandArgs(trailingOnly = TRUE)[1]
description <- read.dcf("DESCRIPTION")
fields <- c("Depends", "Imports", "LinkingTo", if (purpose != "run") "Suggests")
entries <- trimws(unlist(strsplit(description[1, intersect(fields, colnames(description))], ",")))
needed <- data.frame(
  name = sub("[ (].*", "", entries),
  least = ifelse(grepl(">=", entries), gsub(".*>= *|[)]", "", entries), "0")
)
if (purpose == "site") needed <- rbind(needed, data.frame(name = "pkgdown", least = "2.0.0"))
if (purpose == "check") needed <- rbind(needed, data.frame(name = c("roxygen2", "pkgbuild"), least = "0"))

if (getRversion() < needed$least[needed$name == "R"]) {
  stop("Ensayo needs R ", needed$least[needed$name == "R"], " or newer; this is R ", getRversion(), call. = FALSE)
}
needed <- unique(needed[needed$name != "R", ])

missing_packages <- function() {
  there <- mapply(function(name, least) {
    file <- system.file("DESCRIPTION", package = name)
    nzchar(file) && packageVersion(name) >= least
  }, needed$name, needed$least)
  unique(needed$name[!there])
}

as_root <- function() {
  if (Sys.info()[["effective_user"]] == "root") return(character())
  if (nzchar(Sys.which("sudo")) && system2("sudo", c("-n", "true"), stdout = FALSE, stderr = FALSE) == 0) return(c("sudo", "-n"))
  NULL
}

# Debian's R alone looks into the library that its packages go to.
debian_library_in_use <- function() any(normalizePath(.libPaths()) == normalizePath("/usr/lib/R/site-library", mustWork = FALSE))

from_debian <- function(packages) {
  rights <- as_root()
  if (length(packages) == 0 || is.null(rights) || !nzchar(Sys.which("apt-get"))) return(invisible())
  run <- function(...) {
    command <- c(rights, "env", "DEBIAN_FRONTEND=noninteractive", "apt-get", "-qq", ...)
    suppressWarnings(system2(command[1], command[-1], stdout = FALSE, stderr = FALSE))
  }
  run("update")
  known <- Filter(function(package) {
    system2("apt-cache", c("show", package), stdout = FALSE, stderr = FALSE) == 0
  }, packages)
  if (length(known)) {
    cat("Installing", paste(known, collapse = ", "), "\n")
    run("install", "-y", "--no-install-recommends", known)
  }
}

from_cran <- function(packages) {
  if (length(packages) == 0) return(invisible())
  library <- .libPaths()[1]
  if (file.access(library, 2) != 0) {
    library <- Sys.getenv("R_LIBS_USER")
    dir.create(library, recursive = TRUE, showWarnings = FALSE)
    .libPaths(c(library, .libPaths()))
  }
  if (identical(getOption("repos")[["CRAN"]], "@CRAN@")) chooseCRANmirror(ind = 1, local.only = TRUE)
  cat("Installing from source, which takes a few minutes:", paste(packages, collapse = ", "), "\n")
  Sys.setenv(USE_BUNDLED_LIBUV = "1")
  available <- available.packages()
  newer <- setdiff(packages, rownames(available))
  if (length(newer)) stop("Not to be had for R ", getRversion(), ": ", paste(newer, collapse = ", "), call. = FALSE)
  install.packages(packages, lib = library, Ncpus = max(1, parallel::detectCores()), quiet = TRUE)
}

absent <- missing_packages()
if (length(absent) && debian_library_in_use()) from_debian(paste0("r-cran-", tolower(absent)))
from_cran(missing_packages())
absent <- missing_packages()
if (length(absent)) {
  stop("Could not be installed: ", paste(absent, collapse = ", "), ". Install them by hand and try again.", call. = FALSE)
}
if (purpose %in% c("check", "site")) {
  tools <- c(pandoc = "pandoc", qpdf = "qpdf", tidy = "tidy")
  from_debian(unname(tools[!nzchar(Sys.which(names(tools)))]))
}
