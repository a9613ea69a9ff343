#!/bin/sh
# Lines of code, comments and blanks included; generated files left out.
count() { git ls-files "$@" | tr '\n' '\0' | xargs -0 -r cat | wc -l; }
r=$(count 'R/*.R' 'exec/*' ':!R/RcppExports.R')
c=$(count 'src/*.cpp' 'src/core/*' ':!src/RcppExports.cpp')
t=$(count 'tests/**')
echo "R $r, C++ $c, tests $t lines: tests are $((100 * t / (r + c + t))) % of all code"
