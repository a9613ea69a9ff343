#!/bin/sh
# R CMD check as for a submission, without the network. Notes that no one can avoid here are explained; any other fails.
set -eu
rm -rf build/check
mkdir -p build/check
R CMD build . > build/check/build.log 2>&1 || { cat build/check/build.log >&2; exit 1; }
mv ensayo_*.tar.gz build/check/
export _R_CHECK_CRAN_INCOMING_REMOTE_=false _R_CHECK_FORCE_SUGGESTS_=true _R_CHECK_SYSTEM_CLOCK_=false
R CMD check --as-cran --no-manual --output=build/check build/check/ensayo_*.tar.gz | tee build/check/check.log
Rscript tools/check-notes.R build/check/ensayo.Rcheck/00check.log
