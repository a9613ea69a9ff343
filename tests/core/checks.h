// What the core's own tests have in common.
#ifndef ENSAYO_CHECKS_H
#define ENSAYO_CHECKS_H

#include <cstdio>

extern int passed, failed;

inline void check(bool ok, const char* what) {
  ok ? ++passed : ++failed;
  if (!ok) std::printf("FAILED: %s\n", what);
}

void check_bands();
void check_draws();
void check_models();
void check_order();
void check_sheets();

#endif
