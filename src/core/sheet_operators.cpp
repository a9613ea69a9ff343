// Operators of workbooks. Each works on numbers in a loop that has no tests, and looks again where a run went wrong: an error,
// a text or a logical value among its operands is no finite number.
#include "exact.h"
#include "fast.h"
#include "sheet_function.h"

#include <cmath>

#include "program.h"

namespace ensayo {
namespace sheet {

namespace {

struct Add {
  static double of(double x, double y) { return cancelled(x + y, x); }
  static Error fault(double, double) { return Error::number; }
};
struct Subtract {
  static double of(double x, double y) { return cancelled(x - y, x); }
  static Error fault(double, double) { return Error::number; }
};
struct Multiply {
  static double of(double x, double y) { return x * y; }
  static Error fault(double, double) { return Error::number; }
};
struct Divide {
  static double of(double x, double y) { return x / y; }
  static Error fault(double, double y) { return y == 0 ? Error::division : Error::number; }
};

template <class Rule>
double in_one_run(double x, double y, const Texts& texts) {
  x = as_number(x, texts);
  if (!std::isfinite(x)) return x;
  y = as_number(y, texts);
  if (!std::isfinite(y)) return y;
  const double out = Rule::of(x, y);
  return std::isfinite(out) ? out : error_value(Rule::fault(x, y));
}

template <class Rule>
void of_two(const Call& call, const Arguments& arguments, std::size_t n) {
  double* __restrict out = arguments.out;
  const double *__restrict a = arguments.values[0], *__restrict b = arguments.values[1];
  if (arguments.single[0] && arguments.single[1]) {
    for (std::size_t i = 0; i < n; ++i) out[i] = Rule::of(*a, *b);
  } else if (arguments.single[0]) {
    const double x = *a;
    for (std::size_t i = 0; i < n; ++i) out[i] = Rule::of(x, b[i]);
  } else if (arguments.single[1]) {
    const double y = *b;
    for (std::size_t i = 0; i < n; ++i) out[i] = Rule::of(a[i], y);
  } else {
    for (std::size_t i = 0; i < n; ++i) out[i] = Rule::of(a[i], b[i]);
  }
  if (all_finite(out, n)) return;
  for (std::size_t i = 0; i < n; ++i) {
    if (!std::isfinite(out[i])) out[i] = in_one_run<Rule>(arguments.at(0, i), arguments.at(1, i), call.setting.texts);
  }
}

void to_the_power(const Call& call, const Arguments& arguments, std::size_t n) {
  const Texts& texts = call.setting.texts;
  for (std::size_t i = 0; i < n; ++i) {
    double x = arguments.at(0, i), y = arguments.at(1, i);
    if (!std::isfinite(x)) x = as_number(x, texts);
    if (!std::isfinite(y)) y = as_number(y, texts);
    double& out = arguments.out[i];
    out = !std::isfinite(x) ? x : !std::isfinite(y) ? y : to_power(x, y, call.setting.odd_roots);
    if (!std::isfinite(out)) out = error_value(error_of(out));
  }
}

// Comparisons: of numbers at once, else as the order of kinds says.
template <class Rule>
void compare(const Call& call, const Arguments& arguments, std::size_t n) {
  const double yes = logical_value(true), no = logical_value(false);
  for (std::size_t i = 0; i < n; ++i) {
    const double x = arguments.at(0, i), y = arguments.at(1, i);
    double& out = arguments.out[i];
    if (std::isfinite(x) && std::isfinite(y)) {
      out = Rule::of(nearly_equal(x, y) ? 0 : x < y ? -1 : 1) ? yes : no;
    } else if (is_error(x)) out = error_value(error_of(x));
    else if (is_error(y)) out = error_value(error_of(y));
    else out = Rule::of(compared(x, y, call.setting.texts)) ? yes : no;
  }
}

struct Equal { static bool of(int order) { return order == 0; } };
struct Unequal { static bool of(int order) { return order != 0; } };
struct Less { static bool of(int order) { return order < 0; } };
struct AtMost { static bool of(int order) { return order <= 0; } };
struct More { static bool of(int order) { return order > 0; } };
struct AtLeast { static bool of(int order) { return order >= 0; } };

double join(const Frame& frame) {
  std::string first, second;
  double fault;
  if (!frame.text(0, first, fault) || !frame.text(1, second, fault)) return fault;
  return frame.words(first + second);
}

// What a cell shows of a value: nothing is 0.
double filled(const Frame& frame) {
  const double x = frame.at(0);
  return is_type(x, Type::empty) ? 0 : x;
}

}  // namespace

double to_power(double x, double y, bool odd_roots) {
  if (x == 0 && y == 0) return odd_roots ? 1 : error_value(Error::number);
  if (x == 0 && y < 0) return error_value(Error::division);
  if (x < 0 && y != std::trunc(y)) {
    const double root = 1 / y;
    if (odd_roots && nearly_equal(root, std::round(root)) && std::fmod(std::round(root), 2) != 0) return -std::pow(-x, y);
    return error_value(Error::number);
  }
  return y == 2 ? x * x : std::pow(x, y);
}

std::vector<Definition> operator_definitions() {
  return {by_block("+", 2, 2, "v", of_two<Add>), by_block("-", 2, 2, "v", of_two<Subtract>), by_block("*", 2, 2, "v", of_two<Multiply>), by_block("/", 2, 2, "v", of_two<Divide>),
          by_block("^", 2, 2, "v", to_the_power), by_block("=", 2, 2, "v", compare<Equal>), by_block("<>", 2, 2, "v", compare<Unequal>), by_block("<", 2, 2, "v", compare<Less>),
          by_block("<=", 2, 2, "v", compare<AtMost>), by_block(">", 2, 2, "v", compare<More>), by_block(">=", 2, 2, "v", compare<AtLeast>),
          {"&", 2, 2, "v", join, nullptr, nullptr, makes_texts},
          of_number("u-", [](double x) { return 0 - x; }), of_number("%", [](double x) { return x / 100; }),
          {"filled", 1, 1, "v", filled}};
}

}  // namespace sheet
}  // namespace ensayo
