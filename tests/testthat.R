library(testthat)
library(ensayo)

test_check("ensayo")
