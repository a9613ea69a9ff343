// The operations of formulas over blocks of runs. They give the bits that R's own operators give: a missing value (NA) is
// the NaN that R writes for it, logical values are 0 and 1, whole numbers are held as doubles.
#ifndef ENSAYO_CORE_OPERATIONS_H
#define ENSAYO_CORE_OPERATIONS_H

#include <cstddef>
#include <cstdint>
#include <vector>

namespace ensayo {

enum class Operation : std::uint8_t {
  // leaves
  constant, column,
  // arithmetic; the second of a pair is for whole numbers, whose overflow is NA
  add, add_whole, subtract, subtract_whole, multiply, multiply_whole, divide, power, modulus, modulus_whole, quotient,
  quotient_whole, negate, negate_whole,
  // comparisons and logic: NA where the answer hangs on something missing
  equal, unequal, less, at_most, more, at_least, logical_not, logical_and, logical_or, as_logical,
  // the same without NA, of what is 0, 1 or NA: for which runs take a branch
  holds, fails, both, either, equals_one_of,
  // choosing
  smaller, larger, choose, unless,
  // functions of one number
  absolute, sign, square_root, exponential, exponential_less_one, logarithm, logarithm_2, logarithm_10, logarithm_of_one_more,
  cosine, sine, tangent, arc_cosine, arc_sine, arc_tangent, hyperbolic_cosine, hyperbolic_sine, hyperbolic_tangent,
  area_cosine, area_sine, area_tangent, floor, ceiling, truncate, is_missing, is_not_a_number, is_finite, is_infinite,
  // of two
  arc_tangent_of_two, logarithm_to_base, round_to, significant,
  // tables; `outside` is 1 where there is no value
  lookup, lookup_in_two, outside, outside_in_two,
  // a function of any number of operands
  call
};

// Points of a table: values along x, or in the order of x within y.
struct LookupTable {
  std::vector<double> x, y, values;
};

// What an operation works on: `a`, `b` and `c` are blocks of n values, or one value where their bit of `single` is set.
struct Operands {
  double* out;
  const double *a, *b, *c;
  unsigned single;
  const LookupTable* table;
};

// The same for a function of any number of operands: blocks of n values, or one value where `single` says so.
struct Arguments {
  double* out;
  const double* const* values;
  const unsigned char* single;
  std::size_t count;
  double at(std::size_t k, std::size_t run) const { return values[k][single[k] ? 0 : run]; }
};

class Function {
 public:
  virtual ~Function() = default;
  // Its values in n runs; called on several threads at a time.
  virtual void calculate(const Arguments& arguments, std::size_t n) const = 0;
};

// Things worth a warning that came up; bits.
constexpr unsigned whole_overflow = 1, modulus_lost = 2;

typedef unsigned (*Kernel)(const Operands&, std::size_t n);

Kernel kernel_of(Operation operation);

// Functions of R's mathematics, which a program around the core fills in: x to the power y, x rounded to so many places, and
// to so many significant digits. These may not write to the terminal, for they are called on several threads.
struct Mathematics {
  double (*power)(double, double);
  double (*round_to)(double, double);
  double (*significant)(double, double);
  // these may write to the terminal, and are called on the main thread alone
  double (*gamma_cumulative)(double x, double shape, double scale) = nullptr;
  double (*gamma_quantile)(double p, double shape, double scale) = nullptr;
  double (*beta_cumulative)(double x, double a, double b) = nullptr;
  double (*beta_quantile)(double p, double a, double b) = nullptr;
  double (*student_cumulative)(double x, double freedom) = nullptr;
  double (*student_quantile)(double p, double freedom) = nullptr;
};
Mathematics& mathematics();

double missing_value();
bool is_missing_value(double x);

}  // namespace ensayo

#endif
