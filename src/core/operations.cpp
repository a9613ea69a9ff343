#include "exact.h"
#include "fast.h"
#include "operations.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <limits>

#include "exponential.h"
#include "path.h"

namespace ensayo {

namespace {

const double not_a_number = std::numeric_limits<double>::quiet_NaN();
const double infinite = std::numeric_limits<double>::infinity();
constexpr double largest_whole = 2147483647;

const double missing = [] {
  const std::uint64_t bits = 0x7ff00000000007a2;
  double x;
  std::memcpy(&x, &bits, sizeof x);
  return x;
}();

// Loops over a block, of a rule for one run. Operands that move along and operands that do not have loops of their own, so
// that the compiler sees which is which.
template <class Rule>
ENSAYO_INLINE unsigned of_one_loop(const Operands& o, std::size_t n) {
  double* __restrict out = o.out;
  const double* __restrict a = o.a;
  for (std::size_t i = 0; i < n; ++i) out[i] = Rule::of(a[i], o.table);
  return 0;
}

template <class Rule>
ENSAYO_INLINE unsigned of_two_loop(const Operands& o, std::size_t n) {
  double* __restrict out = o.out;
  const double *__restrict a = o.a, *__restrict b = o.b;
  if ((o.single & 3) == 0) {
    for (std::size_t i = 0; i < n; ++i) out[i] = Rule::of(a[i], b[i], o.table);
  } else if ((o.single & 3) == 2) {
    const double y = *b;
    for (std::size_t i = 0; i < n; ++i) out[i] = Rule::of(a[i], y, o.table);
  } else {
    const double x = *a;
    for (std::size_t i = 0; i < n; ++i) out[i] = Rule::of(x, b[i], o.table);
  }
  return 0;
}

template <class Rule>
ENSAYO_INLINE unsigned of_three_loop(const Operands& o, std::size_t n) {
  double* __restrict out = o.out;
  const double *__restrict a = o.a, *__restrict b = o.b, *__restrict c = o.c;
  if (o.single == 0) {
    for (std::size_t i = 0; i < n; ++i) out[i] = Rule::of(a[i], b[i], c[i]);
  } else if (o.single == 2) {
    const double y = *b;
    for (std::size_t i = 0; i < n; ++i) out[i] = Rule::of(a[i], y, c[i]);
  } else if (o.single == 4) {
    const double z = *c;
    for (std::size_t i = 0; i < n; ++i) out[i] = Rule::of(a[i], b[i], z);
  } else {
    const std::size_t step_a = o.single & 1 ? 0 : 1, step_b = o.single & 2 ? 0 : 1, step_c = o.single & 4 ? 0 : 1;
    for (std::size_t i = 0; i < n; ++i) out[i] = Rule::of(a[i * step_a], b[i * step_b], c[i * step_c]);
  }
  return 0;
}

// Of whole numbers: NA where the result is none of them, or an operand was none. Adding 0 turns -0 into 0.
template <class Rule>
unsigned of_wholes(const Operands& o, std::size_t n) {
  const std::size_t step_a = o.single & 1 ? 0 : 1, step_b = o.single & 2 ? 0 : 1;
  unsigned seen = 0;
  for (std::size_t i = 0; i < n; ++i) {
    const double a = o.a[i * step_a], b = o.b[i * step_b], value = Rule::of(a, b);
    const bool known = std::fabs(value) <= largest_whole;
    if (!known && !std::isnan(a) && !std::isnan(b) && !std::isnan(value)) seen |= whole_overflow;
    o.out[i] = known ? value + 0.0 : missing;
  }
  return seen;
}

// A loop on the widest registers there are; the same bits on all.
#ifdef ENSAYO_WIDE_PATHS
#define ENSAYO_LOOP(name)                                                                                        \
  template <class Rule> unsigned name##_plain(const Operands& o, std::size_t n) { return name##_loop<Rule>(o, n); } \
  template <class Rule> ENSAYO_AVX2 unsigned name##_avx2(const Operands& o, std::size_t n) { return name##_loop<Rule>(o, n); } \
  template <class Rule> ENSAYO_AVX512 unsigned name##_avx512(const Operands& o, std::size_t n) { return name##_loop<Rule>(o, n); } \
  template <class Rule> Kernel name() {                                                                          \
    const Path path = path_in_use();                                                                             \
    return path == Path::avx512 ? name##_avx512<Rule> : path == Path::avx2 ? name##_avx2<Rule> : name##_plain<Rule>; \
  }
#else
#define ENSAYO_LOOP(name)                                                                                        \
  template <class Rule> unsigned name##_plain(const Operands& o, std::size_t n) { return name##_loop<Rule>(o, n); } \
  template <class Rule> Kernel name() { return name##_plain<Rule>; }
#endif
ENSAYO_LOOP(of_one)
ENSAYO_LOOP(of_two)
ENSAYO_LOOP(of_three)

// NaN or NA.
bool is_lost(double x) { return x != x; }

double truth(bool met, double a, double b) { return is_lost(a) || is_lost(b) ? missing : static_cast<double>(met); }

double power_of(double x, double y) { return y == 2 ? x * x : mathematics().power(x, y); }

// What is left of a divided by b, with the sign of b.
double modulus_of(double a, double b, unsigned& seen) {
  constexpr double precision = std::numeric_limits<double>::epsilon();
  if (b == 0) return not_a_number;
  if (std::fabs(b) * precision > 1 && std::isfinite(a) && std::fabs(a) <= std::fabs(b)) {
    if (std::fabs(a) == std::fabs(b)) return 0;
    return (a < 0 && b > 0) || (b < 0 && a > 0) ? a + b : a;
  }
  const double times = a / b;
  if (std::isfinite(times) && std::fabs(times) * precision > 1) seen |= modulus_lost;
  const long double rest = static_cast<long double>(a) - std::floor(times) * static_cast<long double>(b);
  return static_cast<double>(rest - std::floor(rest / b) * b);
}

double quotient_of(double a, double b) {
  const double times = a / b;
  // beyond what a long double tells apart there is nothing to mend
  if (b == 0 || !std::isfinite(times) || std::fabs(times) * std::numeric_limits<long double>::epsilon() > 1) return times;
  if (std::fabs(times) < 1) {
    return times < 0 || (a < 0 && b > 0) || (a > 0 && b < 0) ? -1 : 0;
  }
  const long double whole = std::floor(times);
  const long double rest = a - whole * b;
  return static_cast<double>(whole + std::floor(rest / b));
}

unsigned modulus_kernel(const Operands& o, std::size_t n) {
  const std::size_t step_a = o.single & 1 ? 0 : 1, step_b = o.single & 2 ? 0 : 1;
  unsigned seen = 0;
  for (std::size_t i = 0; i < n; ++i) o.out[i] = modulus_of(o.a[i * step_a], o.b[i * step_b], seen);
  return seen;
}

unsigned exponential_kernel(const Operands& o, std::size_t n) {
  exponentials(o.a, n, o.out);
  return 0;
}

// Of whole numbers quotients of doubles are exact enough to tell the next whole number below.
double whole_quotient(double a, double b) { return b == 0 ? not_a_number : std::floor(a / b); }

double logarithm_of(double x) { return std::isnan(x) ? x : x > 0 ? std::log(x) : x == 0 ? -infinite : not_a_number; }
double logarithm_2_of(double x) { return std::isnan(x) ? x : x > 0 ? std::log2(x) : x == 0 ? -infinite : not_a_number; }
double logarithm_10_of(double x) { return std::isnan(x) ? x : x > 0 ? std::log10(x) : x == 0 ? -infinite : not_a_number; }

// Of two operands of which one is missing, the result is; else of which one is no number.
template <class F>
double of_two_numbers(double a, double b, F f) {
  if (is_missing_value(a) || is_missing_value(b)) return missing_value();
  if (std::isnan(a) || std::isnan(b)) return not_a_number;
  return f(a, b);
}

double logarithm_to(double x, double base) {
  if (base == 10) return logarithm_10_of(x);
  if (base == 2) return logarithm_2_of(x);
  return logarithm_of(x) / logarithm_of(base);
}

double chosen(double condition, double yes, double no) {
  const double value = condition != 0 ? yes : no;
  return is_lost(condition) ? missing : value;
}

bool lies_outside(double at, const std::vector<double>& along) { return at < along.front() || at > along.back(); }

// The place from which the table goes on to the next one: 0 to one before the last.
std::size_t place_in(double at, const std::vector<double>& along) {
  const std::size_t after = static_cast<std::size_t>(std::upper_bound(along.begin(), along.end(), at) - along.begin());
  return std::min(std::max<std::size_t>(after, 1), along.size() - 1) - 1;
}

double looked_up(double at, const LookupTable& table) {
  if (std::isnan(at)) return at;
  if (lies_outside(at, table.x)) return missing_value();
  const std::size_t i = place_in(at, table.x);
  const double *x = &table.x[i], *y = &table.values[i];
  if (at == x[1]) return y[1];
  if (at == x[0]) return y[0];
  return y[0] + (y[1] - y[0]) * ((at - x[0]) / (x[1] - x[0]));
}

double looked_up_in_two(double at_x, double at_y, const LookupTable& table) {
  if (std::isnan(at_x)) return at_x;
  if (std::isnan(at_y)) return at_y;
  const std::size_t i = place_in(at_x, table.x), j = place_in(at_y, table.y), rows = table.x.size();
  const double along = (at_x - table.x[i]) / (table.x[i + 1] - table.x[i]);
  const double across = (at_y - table.y[j]) / (table.y[j + 1] - table.y[j]);
  if (along < 0 || along > 1 || across < 0 || across > 1) return not_a_number;
  const double* low = &table.values[i + rows * j];
  const double* high = low + rows;
  return (1 - along) * ((1 - across) * low[0] + across * high[0]) + along * ((1 - across) * low[1] + across * high[1]);
}

struct Lookup {
  static double of(double x, const LookupTable* table) { return looked_up(x, *table); }
};
struct LookupInTwo {
  static double of(double x, double y, const LookupTable* table) { return looked_up_in_two(x, y, *table); }
};
struct Outside {
  static double of(double x, const LookupTable* table) { return lies_outside(x, table->x); }
};
struct OutsideInTwo {
  static double of(double x, double y, const LookupTable* table) {
    return lies_outside(x, table->x) || lies_outside(y, table->y);
  }
};
struct Chosen {
  static double of(double condition, double yes, double no) { return chosen(condition, yes, no); }
};

#define RULE_OF_ONE(kind, f)                                                                     \
  [] {                                                                                          \
    struct Rule {                                                                               \
      static double of(double x, const LookupTable*) { return static_cast<double>(f); }         \
    };                                                                                          \
    return kind<Rule>();                                                                        \
  }()
#define RULE_OF_TWO(kind, f)                                                                     \
  [] {                                                                                          \
    struct Rule {                                                                               \
      static double of(double x, double y, const LookupTable*) { return static_cast<double>(f); } \
    };                                                                                          \
    return kind<Rule>();                                                                        \
  }()
#define OF_WHOLES(f)                                                                             \
  [] {                                                                                          \
    struct Rule {                                                                               \
      static double of(double x, double y) { return f; }                                        \
    };                                                                                          \
    return static_cast<Kernel>(of_wholes<Rule>);                                                \
  }()
#define OF_ONE(f) RULE_OF_ONE(of_one, f)
#define OF_TWO(f) RULE_OF_TWO(of_two, f)

}  // namespace

double missing_value() { return missing; }

bool is_missing_value(double x) {
  if (!std::isnan(x)) return false;
  std::uint64_t bits;
  std::memcpy(&bits, &x, sizeof bits);
  return (bits & 0xffffffff) == 1954;
}

Mathematics& mathematics() {
  static Mathematics functions = {std::pow, nullptr, nullptr};
  return functions;
}

Kernel kernel_of(Operation operation) {
  switch (operation) {
    case Operation::constant: case Operation::column: return nullptr;
    case Operation::add: return OF_TWO(x + y);
    case Operation::add_whole: return OF_WHOLES(x + y);
    case Operation::subtract: return OF_TWO(x - y);
    case Operation::subtract_whole: return OF_WHOLES(x - y);
    case Operation::multiply: return OF_TWO(x * y);
    case Operation::multiply_whole: return OF_WHOLES(x * y);
    case Operation::divide: return OF_TWO(x / y);
    case Operation::power: return OF_TWO(power_of(x, y));
    case Operation::modulus: return modulus_kernel;
    case Operation::modulus_whole: return OF_WHOLES(x - whole_quotient(x, y) * y);
    case Operation::quotient: return OF_TWO(quotient_of(x, y));
    case Operation::quotient_whole: return OF_WHOLES(whole_quotient(x, y));
    case Operation::negate: return OF_ONE(-x);
    case Operation::negate_whole: return OF_ONE(is_lost(x) ? x : 0.0 - x);
    case Operation::equal: return OF_TWO(truth(x == y, x, y));
    case Operation::unequal: return OF_TWO(truth(x != y, x, y));
    case Operation::less: return OF_TWO(truth(x < y, x, y));
    case Operation::at_most: return OF_TWO(truth(x <= y, x, y));
    case Operation::more: return OF_TWO(truth(x > y, x, y));
    case Operation::at_least: return OF_TWO(truth(x >= y, x, y));
    case Operation::logical_not: return OF_ONE(is_lost(x) ? missing : x == 0);
    case Operation::logical_and:
      return OF_TWO(x == 0 || y == 0 ? 0 : is_lost(x) || is_lost(y) ? missing : 1);
    case Operation::logical_or:
      return OF_TWO((x != 0 && !is_lost(x)) || (y != 0 && !is_lost(y)) ? 1 :
        is_lost(x) || is_lost(y) ? missing : 0);
    case Operation::as_logical: return OF_ONE(is_lost(x) ? missing : x != 0);
    case Operation::holds: return OF_ONE(x != 0 && !is_lost(x));
    case Operation::fails: return OF_ONE(x == 0);
    case Operation::both: return OF_TWO(x != 0 && y != 0);
    case Operation::either: return OF_TWO(x != 0 || y != 0);
    case Operation::equals_one_of: return OF_TWO(x == y);
    case Operation::smaller: return OF_TWO(is_lost(y) ? y : y < x ? y : x);
    case Operation::larger: return OF_TWO(is_lost(y) ? y : y > x ? y : x);
    case Operation::choose: return of_three<Chosen>();
    case Operation::unless: return OF_TWO(y != 0 ? missing : x);
    case Operation::absolute: return OF_ONE(std::fabs(x));
    case Operation::sign: return OF_ONE(is_lost(x) ? x : (x > 0) - (x < 0));
    case Operation::square_root: return OF_ONE(std::sqrt(x));
    case Operation::exponential: return exponential_kernel;
    case Operation::exponential_less_one: return OF_ONE(std::expm1(x));
    case Operation::logarithm: return OF_ONE(logarithm_of(x));
    case Operation::logarithm_2: return OF_ONE(logarithm_2_of(x));
    case Operation::logarithm_10: return OF_ONE(logarithm_10_of(x));
    case Operation::logarithm_of_one_more: return OF_ONE(std::log1p(x));
    case Operation::cosine: return OF_ONE(std::cos(x));
    case Operation::sine: return OF_ONE(std::sin(x));
    case Operation::tangent: return OF_ONE(std::tan(x));
    case Operation::arc_cosine: return OF_ONE(std::acos(x));
    case Operation::arc_sine: return OF_ONE(std::asin(x));
    case Operation::arc_tangent: return OF_ONE(std::atan(x));
    case Operation::hyperbolic_cosine: return OF_ONE(std::cosh(x));
    case Operation::hyperbolic_sine: return OF_ONE(std::sinh(x));
    case Operation::hyperbolic_tangent: return OF_ONE(std::tanh(x));
    case Operation::area_cosine: return OF_ONE(std::acosh(x));
    case Operation::area_sine: return OF_ONE(std::asinh(x));
    case Operation::area_tangent: return OF_ONE(std::atanh(x));
    case Operation::floor: return OF_ONE(std::floor(x));
    case Operation::ceiling: return OF_ONE(std::ceil(x));
    case Operation::truncate: return OF_ONE(std::trunc(x));
    case Operation::is_missing: return OF_ONE(is_lost(x));
    case Operation::is_not_a_number: return OF_ONE(is_lost(x) && !is_missing_value(x));
    case Operation::is_finite: return OF_ONE(std::isfinite(x));
    case Operation::is_infinite: return OF_ONE(std::isinf(x));
    case Operation::arc_tangent_of_two: return OF_TWO(of_two_numbers(x, y, [](double a, double b) { return std::atan2(a, b); }));
    case Operation::logarithm_to_base: return OF_TWO(of_two_numbers(x, y, logarithm_to));
    case Operation::round_to: return OF_TWO(of_two_numbers(x, y, mathematics().round_to));
    case Operation::significant: return OF_TWO(of_two_numbers(x, y, mathematics().significant));
    case Operation::lookup: return of_one<Lookup>();
    case Operation::lookup_in_two: return of_two<LookupInTwo>();
    case Operation::outside: return of_one<Outside>();
    case Operation::outside_in_two: return of_two<OutsideInTwo>();
    case Operation::call: break;
  }
  return nullptr;
}

}  // namespace ensayo
