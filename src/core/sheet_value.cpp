#include "exact.h"
#include "sheet_value.h"

#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>

#include "number_text.h"
#include "sheet_date.h"
#include "utf8.h"

namespace ensayo {
namespace sheet {

namespace {

double box(Type type, std::uint32_t payload) {
  const std::uint64_t bits = boxed_bits | static_cast<std::uint64_t>(type) << 32 | payload;
  double x;
  std::memcpy(&x, &bits, sizeof x);
  return x;
}

const char* const error_texts[] = {"", "#NULL!", "#DIV/0!", "#VALUE!", "#REF!", "#NAME?", "#NUM!", "#N/A", "#UNSUPPORTED"};

// A character of UTF-8 from `at` on, which moves behind it.
std::uint32_t next_character(const std::string& text, std::size_t& at) {
  const unsigned char first = static_cast<unsigned char>(text[at++]);
  if (first < 0x80) return first;
  std::uint32_t out = first < 0xe0 ? first & 0x1f : first < 0xf0 ? first & 0x0f : first & 0x07;
  while (at < text.size() && !begins_character(text[at])) out = out << 6 | (static_cast<unsigned char>(text[at++]) & 0x3f);
  return out;
}

// Latin, Greek and Cyrillic letters.
std::uint32_t lower_of(std::uint32_t x) {
  if ((x >= 'A' && x <= 'Z') || (x >= 0xc0 && x <= 0xde && x != 0xd7) || (x >= 0x391 && x <= 0x3a9) || (x >= 0x410 && x <= 0x42f)) return x + 32;
  if (x >= 0x400 && x <= 0x40f) return x + 80;
  if ((x >= 0x100 && x <= 0x137) || (x >= 0x14a && x <= 0x177)) return x | 1;
  return x;
}

std::uint32_t upper_of(std::uint32_t x) {
  if ((x >= 'a' && x <= 'z') || (x >= 0xe0 && x <= 0xfe && x != 0xf7) || (x >= 0x3b1 && x <= 0x3c9 && x != 0x3c2) || (x >= 0x430 && x <= 0x44f)) return x - 32;
  if (x >= 0x450 && x <= 0x45f) return x - 80;
  if ((x >= 0x100 && x <= 0x137) || (x >= 0x14a && x <= 0x177)) return x & ~1u;
  return x;
}

template <class Change>
std::string changed(const std::string& text, const Change& change) {
  std::string out;
  out.reserve(text.size());
  for (std::size_t at = 0; at < text.size();) append_utf8(out, change(next_character(text, at)));
  return out;
}

std::string trimmed(const std::string& text) {
  const std::size_t first = text.find_first_not_of(" \t\n\r");
  return first == std::string::npos ? std::string() : text.substr(first, text.find_last_not_of(" \t\n\r") - first + 1);
}

}  // namespace

double error_value(Error error) { return box(Type::error, static_cast<std::uint32_t>(error)); }
double logical_value(bool x) { return box(Type::logical, x); }
double text_value(std::uint32_t place) { return box(Type::text, place); }
double empty_value() { return box(Type::empty, 0); }

std::uint32_t payload_of(double x) {
  const std::uint64_t bits = bits_of(x);
  if (std::isnan(x) && (bits & boxed_bits) == boxed_bits && bits >> 63 == 0) return static_cast<std::uint32_t>(bits);
  return static_cast<std::uint32_t>(Error::number);  // of arithmetic that went wrong
}

const char* error_text(Error error) { return error_texts[static_cast<std::uint32_t>(error)]; }

std::uint32_t error_named(const std::string& text) {
  for (std::uint32_t i = 1; i <= static_cast<std::uint32_t>(Error::missing); ++i) if (text == error_texts[i]) return i;
  return 0;
}

double Texts::value(const std::string& text) {
  const auto placed = places_.emplace(text, static_cast<std::uint32_t>(texts_.size()));
  if (placed.second) texts_.push_back(text);
  return text_value(placed.first->second);
}

std::string number_as_text(double x) {
  if (x == 0) return "0";
  char text[64];
  const double size = std::fabs(x);
  if (size >= 1e21 || size < 1e-9) std::snprintf(text, sizeof text, "%.14E", x);
  else std::snprintf(text, sizeof text, "%.*f", std::max(0, 14 - static_cast<int>(std::floor(std::log10(size)))), x);
  std::string out = text;
  const std::size_t power = out.find('E');
  std::string tail = power == std::string::npos ? "" : out.substr(power);
  if (power != std::string::npos) out.resize(power);
  if (out.find('.') != std::string::npos) {
    out.erase(out.find_last_not_of('0') + 1);
    if (out.back() == '.') out.pop_back();
  }
  return out + tail;
}

bool text_as_number(const std::string& given, double& out) {
  std::string text = trimmed(given);
  double scale = 1;
  if (!text.empty() && text.back() == '%') {
    text = trimmed(text.substr(0, text.size() - 1));
    scale = 0.01;
  }
  if (text.empty()) return false;
  for (char c : text) if (!std::strchr("0123456789+-.eE", c)) return false;
  if (text[0] == '+') text.erase(0, 1);
  if (read_number_text(text.c_str(), out)) {
    out *= scale;
    return std::isfinite(out);
  }
  int year, month, day, end = 0;
  if (scale == 1 && std::sscanf(text.c_str(), "%4d-%2d-%2d%n", &year, &month, &day, &end) == 3 && end == static_cast<int>(text.size()) &&
      month >= 1 && month <= 12 && day >= 1 && day <= days_in_month(year, month)) {
    out = static_cast<double>(serial_of(year, month, day));
    return true;
  }
  return false;
}

double as_number_slowly(double x, const Texts& texts) {
  switch (type_of(x)) {
    case Type::number: return x;
    case Type::logical: return payload_of(x);
    case Type::empty: return 0;
    case Type::error: return error_value(error_of(x));
    case Type::text: break;
  }
  double out;
  return text_as_number(texts.of(x), out) ? out : error_value(Error::value);
}

double as_logical(double x, const Texts& texts) {
  switch (type_of(x)) {
    case Type::number: return logical_value(x != 0);
    case Type::logical: return x;
    case Type::empty: return logical_value(false);
    case Type::error: return error_value(error_of(x));
    case Type::text: break;
  }
  const std::string text = folded(texts.of(x));
  return text == "true" ? logical_value(true) : text == "false" ? logical_value(false) : error_value(Error::value);
}

std::string as_text(double x, const Texts& texts, bool& ok) {
  ok = true;
  switch (type_of(x)) {
    case Type::number: return number_as_text(x);
    case Type::logical: return texts.logical_is_number ? std::to_string(payload_of(x)) : payload_of(x) ? "TRUE" : "FALSE";
    case Type::empty: return "";
    case Type::text: return texts.of(x);
    case Type::error: ok = false;
  }
  return "";
}

double floor_nearly(double x) {
  const double near = std::round(x);
  return nearly_equal(x, near) ? near : std::floor(x);
}

double rounded(double x, double places) {
  places = std::trunc(places);
  if (x == 0 || places > 300 || places < -308) return places < -308 ? 0 : x;
  const double size = std::fabs(x), scale = std::pow(10, std::fabs(places));
  const double moved = places >= 0 ? size * scale : size / scale;
  if (!(moved < 0x1p52)) return x;
  const double whole = floor_nearly(moved + 0.5);
  return std::copysign(places >= 0 ? whole / scale : whole * scale, x);
}

int compared(double a, double b, const Texts& texts) {
  if (texts.logical_is_number) {
    if (is_type(a, Type::logical)) a = payload_of(a);
    if (is_type(b, Type::logical)) b = payload_of(b);
  }
  const Type of_a = type_of(a), of_b = type_of(b);
  // an empty cell is 0, FALSE or no letters, as what it is compared with
  if (of_b == Type::empty) return of_a == Type::empty ? 0 : -compared(b, a, texts);
  if (of_a == Type::empty) {
    if (of_b == Type::text) return texts.of(b).empty() ? 0 : -1;
    return of_b == Type::logical ? -static_cast<int>(payload_of(b)) : compared(0, b, texts);
  }
  if (of_a != of_b) {
    const auto rank = [](Type type) { return type == Type::number ? 0 : type == Type::text ? 1 : 2; };
    return rank(of_a) - rank(of_b);
  }
  if (of_a == Type::number) return nearly_equal(a, b) ? 0 : a < b ? -1 : 1;
  if (of_a == Type::logical) return static_cast<int>(payload_of(a)) - static_cast<int>(payload_of(b));
  return folded(texts.of(a)).compare(folded(texts.of(b)));
}

std::string folded(const std::string& text) { return changed(text, lower_of); }
std::string in_capitals(const std::string& text) { return changed(text, upper_of); }

std::size_t characters(const std::string& text) {
  std::size_t count = 0;
  for (char byte : text) count += begins_character(byte);
  return count;
}

std::string part_of_text(const std::string& text, std::size_t first, std::size_t count) {
  std::size_t at = 0, from;
  const auto move = [&](std::size_t by) {
    while (at < text.size() && by > 0) {
      ++at;
      while (at < text.size() && !begins_character(text[at])) ++at;
      --by;
    }
  };
  move(first);
  from = at;
  move(count);
  return text.substr(from, at - from);
}

}  // namespace sheet
}  // namespace ensayo
