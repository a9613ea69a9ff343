// Orthogonal matching pursuit: columns taken one by one, each the one that goes best with what is left unexplained.
#ifndef ENSAYO_CORE_PURSUIT_H
#define ENSAYO_CORE_PURSUIT_H

#include <cstddef>
#include <vector>

namespace ensayo {

struct Pursuit {
  std::vector<std::size_t> taken;  // columns, in the order in which they were taken
  // The mean squared error in the held-out rows with no column, with the first, the first two and so on.
  std::vector<double> held_out;
};

// `columns`: `rows` values each, one column after the other; `held` TRUE for rows that serve only to see the error. A constant is
// always there. At most `most` columns are taken; where rows are held out, no more once fifteen have brought nothing to them.
Pursuit pursue(const double* columns, std::size_t rows, std::size_t count, const double* y, const std::vector<char>& held,
               std::size_t most);

}  // namespace ensayo

#endif
