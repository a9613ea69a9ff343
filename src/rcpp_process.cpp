// Doors to processes.
#include <Rcpp.h>

#include <cstring>

#include "core/process.h"

// The number of the process that was started; or a text, why it was not.
// [[Rcpp::export(rng = false)]]
SEXP cpp_start_process(std::vector<std::string> words, std::vector<std::string> environment, std::string folder,
                       std::string input, std::string output, std::string errors) {
  const int process = ensayo::start_process({words, environment, folder, input, output, errors});
  if (process < 0) return Rcpp::wrap(std::string(std::strerror(-process)));
  return Rcpp::wrap(process);
}

// Its exit status, NA where it runs on after that many seconds. It can be interrupted.
// [[Rcpp::export(rng = false)]]
int cpp_wait_for_process(int process, double seconds) {
  double waited = 0;
  while (true) {
    const double slice = std::min(0.1, seconds - waited);
    const int status = ensayo::wait_for_process(process, slice);
    if (status >= 0) return status;
    waited += slice;
    if (waited >= seconds) return NA_INTEGER;
    Rcpp::checkUserInterrupt();
  }
}

// Ends what is left of the group of processes that a process leads or led; TRUE where anything was.
// [[Rcpp::export(rng = false)]]
bool cpp_end_group(int leader) { return ensayo::end_process_group(leader); }
