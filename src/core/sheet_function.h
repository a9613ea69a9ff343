// Functions of workbooks over blocks of runs. ISO/IEC 29500-1, 18.17.7, and OpenFormula (OpenDocument 1.3, part 4) say what
// each gives.
#ifndef ENSAYO_CORE_SHEET_FUNCTION_H
#define ENSAYO_CORE_SHEET_FUNCTION_H

#include <cstdint>
#include <map>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "operations.h"
#include "sheet_value.h"

namespace ensayo {
namespace sheet {

// An argument: a single value, or rows of cells. Of what was written as cells, sums take numbers alone.
struct Shape {
  std::uint32_t rows, columns;
  bool reference, left_out;
  std::uint32_t size() const { return rows * columns; }
  bool operator<(const Shape& other) const {
    return std::make_pair(std::make_pair(rows, columns), std::make_pair(reference, left_out)) <
           std::make_pair(std::make_pair(other.rows, other.columns), std::make_pair(other.reference, other.left_out));
  }
};

// What all functions of a workbook share.
struct Setting {
  Texts texts;
  bool from_1904 = false;
  bool odd_roots = false;         // whether (-8)^(1/3) is -2, and 0^0 is 1
};

class Call;

// A call in one run.
class Frame {
 public:
  Frame(const Call& call, const Arguments& arguments, std::size_t run) : call_(call), arguments_(arguments), run_(run) {}
  std::size_t count() const;
  const Shape& shape(std::size_t argument) const;
  bool has(std::size_t argument) const { return argument < count() && !shape(argument).left_out; }
  double at(std::size_t argument, std::size_t cell = 0) const;
  // As a number: false where it is an error, which `out` is then. What is left out is `other`.
  bool number(std::size_t argument, double& out, double other = 0) const;
  bool logical(std::size_t argument, bool& out, double& fault, bool other) const;
  bool text(std::size_t argument, std::string& out, double& fault) const;
  // Days from 1899-12-30 on.
  bool day(std::size_t argument, double& out) const;
  double from_day(double day) const;
  Setting& setting() const;
  const Texts& texts() const { return setting().texts; }
  double words(const std::string& text) const { return setting().texts.value(text); }

 private:
  const Call& call_;
  const Arguments& arguments_;
  std::size_t run_;
};

constexpr unsigned makes_texts = 1, takes_array = 2, main_thread_only = 4;

// A function as it is known: how many arguments it takes, and of each, the last two repeated, whether it is a single value
// (v) or all that is there (r).
struct Definition {
  const char* name;
  int least, most;                              // -1: any number
  const char* takes;
  double (*of)(const Frame& frame);
  double (*of_one)(double x) = nullptr;         // where it is a function of one or two numbers and no more
  double (*of_two)(double x, double y) = nullptr;
  unsigned flags = 0;
  void (*block)(const Call& call, const Arguments& arguments, std::size_t n) = nullptr;
};

// NULL where a function is not known.
const Definition* definition_of(const std::string& name);
std::vector<std::string> function_names();

class Call : public Function {
 public:
  Call(const Definition& definition, std::vector<Shape> shapes, Setting& setting);
  void calculate(const Arguments& arguments, std::size_t n) const override;
  double in_run(const Arguments& arguments, std::size_t run) const;
  const Definition& definition;
  const std::vector<Shape> shapes;
  std::vector<std::size_t> first;               // of each argument among the operands
  Setting& setting;
};

inline std::size_t Frame::count() const { return call_.shapes.size(); }
inline const Shape& Frame::shape(std::size_t argument) const { return call_.shapes[argument]; }
inline double Frame::at(std::size_t argument, std::size_t cell) const { return arguments_.at(call_.first[argument] + cell, run_); }
inline Setting& Frame::setting() const { return call_.setting; }

// Operators, by what they are written as; "u-" and "%" are of one.
const Definition* operator_definition(const std::string& sign);

// x to the power y as workbooks have it, errors and all.
double to_power(double x, double y, bool odd_roots);

// Numbers of all arguments from one on, as sums take them; gives the error that is among them, or 0.
double numbers_of(const Frame& frame, std::size_t first, std::vector<double>& out);
// Of one argument, with TRUE and texts of cells left out.
double numbers_in(const Frame& frame, std::size_t argument, std::vector<double>& out);

// A condition of conditional sums, such as 5, "ab*" or ">=3".
class Criterion {
 public:
  Criterion(double value, const Texts& texts);
  bool met(double x) const;

 private:
  enum class Order { equal, unequal, less, at_most, more, at_least } order_ = Order::equal;
  const Texts& texts_;
  double value_;
  std::string pattern_;
  bool is_pattern_ = false, wants_empty_ = false;
};

// Whether some arguments are the same in all runs: from one on, each so many.
inline bool are_single(const Call& call, const Arguments& arguments, std::size_t first, std::size_t step) {
  for (std::size_t k = first; k < call.shapes.size(); k += step) {
    for (std::size_t j = 0; j < call.shapes[k].size(); ++j) if (!arguments.single[call.first[k] + j]) return false;
  }
  return true;
}

// Whether a text is as a pattern with ? and * says, "~" before what is meant as it stands; both folded.
bool matches(const std::string& pattern, const std::string& text);

inline double fault(Error error) { return error_value(error); }

// Arguments that are numbers, in order; those that are left out stay as they are in `out`. Gives the error among them, or 0.
template <std::size_t count>
double read_numbers(const Frame& frame, double (&out)[count]) {
  for (std::size_t k = 0; k < count; ++k) if (!frame.number(k, out[k], out[k])) return out[k];
  return 0;
}

// Functions of one and of two numbers; `least` where the second may be left out.
inline Definition of_number(const char* name, double (*of)(double)) {
  Definition out = {name, 1, 1, "v", nullptr};
  out.of_one = of;
  return out;
}
inline Definition of_numbers(const char* name, double (*of)(double, double), int least = 2, unsigned flags = 0) {
  Definition out = {name, least, 2, "v", nullptr, nullptr, nullptr, flags};
  out.of_two = of;
  return out;
}
inline Definition by_block(const char* name, int least, int most, const char* takes, void (*block)(const Call&, const Arguments&, std::size_t),
                           double (*of)(const Frame&) = nullptr) {
  Definition out = {name, least, most, takes, of};
  out.block = block;
  return out;
}

// The tables of definitions, one a trade.
std::vector<Definition> operator_definitions();
std::vector<Definition> logic_definitions();
std::vector<Definition> mathematics_definitions();
std::vector<Definition> statistics_definitions();
std::vector<Definition> lookup_definitions();
std::vector<Definition> text_definitions();
std::vector<Definition> date_definitions();
std::vector<Definition> money_definitions();
std::vector<Definition> law_definitions();

}  // namespace sheet
}  // namespace ensayo

#endif
