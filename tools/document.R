# Writes NAMESPACE, man/ and the C++ doors' glue from the sources: `make document`.
Rcpp::compileAttributes()
roxygen2::roxygenise()
unlink(list.files("src", "[.](o|so)$", recursive = TRUE, full.names = TRUE))  # built for loading, without optimisation
