# The folder of the sources; tests that need them are skipped where there are none.
source_folder <- function() {
  root <- normalizePath(file.path(test_path(), "..", ".."), mustWork = FALSE)
  if (!dir.exists(file.path(root, "R")) ||
    !file.exists(file.path(root, "src", "Makevars"))) skip("The sources are not at hand.")
  root
}
