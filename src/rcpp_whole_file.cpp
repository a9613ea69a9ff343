// Doors to files that are whole or not there, and to locks.
#include <Rcpp.h>

#include "core/whole_file.h"

// [[Rcpp::export(rng = false)]]
bool cpp_put_in_place(std::string part, std::string file) { return ensayo::put_in_place(part, file); }

// [[Rcpp::export(rng = false)]]
int cpp_take_lock(std::string file) { return ensayo::take_lock(file); }

// [[Rcpp::export(rng = false)]]
void cpp_give_lock(int handle) { ensayo::give_lock(handle); }
