// The standard normal law: quantiles, and probabilities of at most a value.
#ifndef ENSAYO_CORE_NORMAL_H
#define ENSAYO_CORE_NORMAL_H

#include <cstddef>

namespace ensayo {

// Quantiles of `count` probabilities inside (0, 1). Wichura (1988), Algorithm AS 241, PPND16, Applied Statistics 37(3).
void normal_quantiles(const double* p, std::size_t count, double* z);

double normal_cumulative(double z);

}  // namespace ensayo

#endif
