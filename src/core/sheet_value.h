// Values of a workbook's cells. Each is one double: a number as itself; what is no number is kept in the bits of a NaN, so
// that arithmetic on numbers needs no test beforehand.
#ifndef ENSAYO_CORE_SHEET_VALUE_H
#define ENSAYO_CORE_SHEET_VALUE_H

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <deque>
#include <string>
#include <unordered_map>

namespace ensayo {
namespace sheet {

enum class Type : std::uint32_t { number, error, logical, text, empty };

// Errors of workbooks. `unsupported` is none of theirs: what stands for a cell that cannot be calculated here.
enum class Error : std::uint32_t { null = 1, division, value, reference, name, number, missing, unsupported };

double error_value(Error error);
double logical_value(bool x);
double text_value(std::uint32_t place);
double empty_value();

// Bits that no arithmetic and no missing value of R has.
constexpr std::uint64_t boxed_bits = 0x7ffc000000000000;

inline std::uint64_t bits_of(double x) {
  std::uint64_t bits;
  std::memcpy(&bits, &x, sizeof bits);
  return bits;
}

inline Type type_of(double x) {
  if (std::isfinite(x)) return Type::number;
  const std::uint64_t bits = bits_of(x);
  return x != x && (bits & boxed_bits) == boxed_bits && bits >> 63 == 0 ? static_cast<Type>(bits >> 32 & 0xff) : Type::error;
}

std::uint32_t payload_of(double x);            // of what is no number
inline Error error_of(double x) { return static_cast<Error>(payload_of(x)); }
inline bool is_error(double x) { return !std::isfinite(x) && type_of(x) == Type::error; }
inline bool is_type(double x, Type type) { return x != x && type_of(x) == type; }

const char* error_text(Error error);
// The error that a text names, or 0.
std::uint32_t error_named(const std::string& text);

// Texts by their places, each once.
class Texts {
 public:
  double value(const std::string& text);
  const std::string& of(double x) const { return texts_[payload_of(x)]; }
  // Whether TRUE is the number 1 wherever values are compared or counted, as in OpenDocument.
  bool logical_is_number = false;

 private:
  std::deque<std::string> texts_;
  std::unordered_map<std::string, std::uint32_t> places_;
};

// A number to the 15 digits that a cell shows.
std::string number_as_text(double x);
// The number that a text is: digits with a sign, a point and an exponent, per cent, or a date such as 2027-03-31.
bool text_as_number(const std::string& text, double& out);

// As an operand of arithmetic: TRUE is 1, an empty cell 0, a text the number that it is, else an error.
double as_number_slowly(double x, const Texts& texts);
inline double as_number(double x, const Texts& texts) { return std::isfinite(x) ? x : as_number_slowly(x, texts); }
// As a condition.
double as_logical(double x, const Texts& texts);
// As a text; an error stays one (`ok` is false then).
std::string as_text(double x, const Texts& texts, bool& ok);

// Whether two numbers differ by no more than the last digits of arithmetic.
inline bool nearly_equal(double a, double b) {
  if (a == b) return true;
  const double apart = std::fabs(a - b), size = std::min(std::fabs(a), std::fabs(b));
  return apart < size * 0x1p-48 && !(a == std::trunc(a) && b == std::trunc(b) && size < 0x1p53);
}
// Whole numbers below, of what may be off by such digits.
double floor_nearly(double x);
// Half away from zero, to so many places after the point.
double rounded(double x, double places);
// What a sum of two is where they cancel but for such digits.
inline double cancelled(double sum, double a) {
  const double size = sum < 0 ? -sum : sum, from = a < 0 ? -a : a;
  return size < from * 0x1p-48 ? 0 : sum;
}

// Less than 0, 0 or more: numbers before texts before logical values. Neither is an error.
int compared(double a, double b, const Texts& texts);
// Texts in lower case, as comparisons see them.
std::string folded(const std::string& text);
std::string in_capitals(const std::string& text);
// Characters, not bytes.
std::size_t characters(const std::string& text);
std::string part_of_text(const std::string& text, std::size_t first, std::size_t count);
// Where a character of UTF-8 begins.
inline bool begins_character(char byte) { return (static_cast<unsigned char>(byte) & 0xc0) != 0x80; }

}  // namespace sheet
}  // namespace ensayo

#endif
