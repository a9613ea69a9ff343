#include "exact.h"
#include "sheet_function.h"

#include <cmath>
#include <unordered_map>

#include "program.h"

namespace ensayo {
namespace sheet {

namespace {

std::unordered_map<std::string, Definition> table_of(const std::vector<std::vector<Definition>>& all) {
  std::unordered_map<std::string, Definition> out;
  for (const auto& definitions : all) for (const Definition& each : definitions) out.emplace(each.name, each);
  return out;
}

const std::unordered_map<std::string, Definition>& functions() {
  static const auto table = table_of({logic_definitions(), mathematics_definitions(), statistics_definitions(), lookup_definitions(),
                                      text_definitions(), date_definitions(), money_definitions(), law_definitions()});
  return table;
}

const Definition* found(const std::unordered_map<std::string, Definition>& table, const std::string& name) {
  const auto at = table.find(name);
  return at == table.end() ? nullptr : &at->second;
}

double lost(double x) { return error_value(error_of(x)); }

// The result of a function of numbers: what is not finite went wrong in it.
double settled(double x) { return std::isfinite(x) ? x : lost(x); }

void of_one_number(const Call& call, const Arguments& arguments, std::size_t n) {
  double (*f)(double) = call.definition.of_one;
  for (std::size_t i = 0; i < n; ++i) {
    double x = arguments.at(0, i);
    if (!std::isfinite(x)) x = as_number(x, call.setting.texts);
    arguments.out[i] = std::isfinite(x) ? settled(f(x)) : x;
  }
}

void of_two_numbers(const Call& call, const Arguments& arguments, std::size_t n) {
  double (*f)(double, double) = call.definition.of_two;
  for (std::size_t i = 0; i < n; ++i) {
    double x = arguments.at(0, i), y = arguments.count > 1 ? arguments.at(1, i) : 0;
    if (!std::isfinite(x)) x = as_number(x, call.setting.texts);
    if (!std::isfinite(y)) y = as_number(y, call.setting.texts);
    arguments.out[i] = !std::isfinite(x) ? x : !std::isfinite(y) ? y : settled(f(x, y));
  }
}

}  // namespace

const Definition* definition_of(const std::string& name) { return found(functions(), name); }

const Definition* operator_definition(const std::string& sign) {
  static const auto table = table_of({operator_definitions()});
  return found(table, sign);
}

std::vector<std::string> function_names() {
  std::vector<std::string> out;
  for (const auto& each : functions()) out.push_back(each.first);
  return out;
}

Call::Call(const Definition& of, std::vector<Shape> given, Setting& with) : definition(of), shapes(std::move(given)), setting(with) {
  std::size_t at = 0;
  for (const Shape& shape : shapes) {
    first.push_back(at);
    at += shape.size();
  }
}

void Call::calculate(const Arguments& arguments, std::size_t n) const {
  if (definition.block) definition.block(*this, arguments, n);
  else if (definition.of_one) of_one_number(*this, arguments, n);
  else if (definition.of_two) of_two_numbers(*this, arguments, n);
  else for (std::size_t i = 0; i < n; ++i) arguments.out[i] = in_run(arguments, i);
}

double Call::in_run(const Arguments& arguments, std::size_t run) const {
  const double out = definition.of(Frame(*this, arguments, run));
  return std::isinf(out) ? error_value(Error::number) : std::isnan(out) && type_of(out) == Type::error ? lost(out) : out;
}

bool Frame::number(std::size_t argument, double& out, double other) const {
  if (!has(argument)) {
    out = other;
    return true;
  }
  out = at(argument);
  if (std::isfinite(out)) return true;
  out = as_number(out, texts());
  return std::isfinite(out);
}

bool Frame::logical(std::size_t argument, bool& out, double& fault, bool other) const {
  if (!has(argument)) {
    out = other;
    return true;
  }
  fault = as_logical(at(argument), texts());
  out = !is_error(fault) && payload_of(fault);
  return !is_error(fault);
}

bool Frame::text(std::size_t argument, std::string& out, double& fault) const {
  if (!has(argument)) {
    out.clear();
    return true;
  }
  bool ok;
  out = as_text(at(argument), texts(), ok);
  if (!ok) fault = lost(at(argument));
  return ok;
}

bool Frame::day(std::size_t argument, double& out) const {
  if (!number(argument, out)) return false;
  if (setting().from_1904) out += 1462;
  if (out >= 0 && out < 2958466) return true;
  out = error_value(Error::number);
  return false;
}

double Frame::from_day(double day) const { return setting().from_1904 ? day - 1462 : day; }

double numbers_in(const Frame& frame, std::size_t argument, std::vector<double>& out) {
  const Shape& shape = frame.shape(argument);
  const bool cells = shape.reference || shape.size() > 1;
  for (std::size_t k = 0; k < shape.size(); ++k) {
    const double x = frame.at(argument, k);
    if (std::isfinite(x)) {
      out.push_back(x);
      continue;
    }
    const Type type = type_of(x);
    if (type == Type::error) return lost(x);
    if (type == Type::logical && frame.texts().logical_is_number) {
      out.push_back(payload_of(x));
      continue;
    }
    if (cells || shape.left_out) continue;
    if (type == Type::text && frame.texts().logical_is_number) return error_value(Error::value);
    const double read = as_number(x, frame.texts());
    if (!std::isfinite(read)) return read;
    out.push_back(read);
  }
  return 0;
}

double numbers_of(const Frame& frame, std::size_t first, std::vector<double>& out) {
  out.clear();
  for (std::size_t k = first; k < frame.count(); ++k) {
    const double fault = numbers_in(frame, k, out);
    if (fault != 0) return fault;
  }
  return 0;
}

Criterion::Criterion(double value, const Texts& texts) : texts_(texts), value_(value) {
  if (type_of(value) == Type::empty) {
    value_ = 0;
    return;
  }
  if (type_of(value) != Type::text) return;
  std::string text = texts.of(value);
  bool signed_order = true;
  if (text.compare(0, 2, "<>") == 0) order_ = Order::unequal;
  else if (text.compare(0, 2, "<=") == 0) order_ = Order::at_most;
  else if (text.compare(0, 2, ">=") == 0) order_ = Order::at_least;
  else if (text[0] == '<') order_ = Order::less;
  else if (text[0] == '>') order_ = Order::more;
  else if (text[0] == '=') order_ = Order::equal;
  else signed_order = false;
  if (signed_order) text.erase(0, order_ == Order::unequal || order_ == Order::at_most || order_ == Order::at_least ? 2 : 1);
  double number;
  if (text_as_number(text, number)) {
    value_ = number;
    return;
  }
  pattern_ = folded(text);
  if (pattern_ == "true" || pattern_ == "false") {
    value_ = logical_value(pattern_ == "true");
    return;
  }
  wants_empty_ = pattern_.empty() && signed_order;
  is_pattern_ = true;
}

bool Criterion::met(double x) const {
  if (!is_pattern_ && std::isfinite(x) && std::isfinite(value_)) {
    const bool same = nearly_equal(x, value_);
    switch (order_) {
      case Order::equal: return same;
      case Order::unequal: return !same;
      case Order::less: return !same && x < value_;
      case Order::at_most: return same || x < value_;
      case Order::more: return !same && x > value_;
      case Order::at_least: return same || x > value_;
    }
  }
  const Type type = type_of(x);
  if (is_pattern_) {
    if (wants_empty_) return (type == Type::empty) == (order_ == Order::equal);
    const bool is_text = type == Type::text || (type == Type::empty && pattern_.empty());
    if (order_ == Order::equal || order_ == Order::unequal) {
      const bool same = is_text && matches(pattern_, type == Type::text ? folded(texts_.of(x)) : "");
      return same == (order_ == Order::equal);
    }
    if (type != Type::text) return false;
    const int order = folded(texts_.of(x)).compare(pattern_);
    return order_ == Order::less ? order < 0 : order_ == Order::at_most ? order <= 0 : order_ == Order::more ? order > 0 : order >= 0;
  }
  double seen = x;
  // a text that is a number counts as it
  if (type == Type::text && order_ == Order::equal && text_as_number(texts_.of(x), seen)) return nearly_equal(seen, value_);
  if (type_of(value_) != type) return order_ == Order::unequal;
  if (type == Type::error) return (error_of(x) == error_of(value_)) == (order_ == Order::equal);
  const int order = compared(x, value_, texts_);
  switch (order_) {
    case Order::equal: return order == 0;
    case Order::unequal: return order != 0;
    case Order::less: return order < 0;
    case Order::at_most: return order <= 0;
    case Order::more: return order > 0;
    case Order::at_least: return order >= 0;
  }
  return false;
}

bool matches(const std::string& pattern, const std::string& text) {
  std::size_t p = 0, t = 0, star = std::string::npos, from = 0;
  const auto next = [](const std::string& s, std::size_t at) {
    ++at;
    while (at < s.size() && !begins_character(s[at])) ++at;
    return at;
  };
  while (t < text.size()) {
    if (p < pattern.size() && pattern[p] == '*') {
      star = p++;
      from = t;
      continue;
    }
    std::size_t width = 1;
    bool same = false;
    if (p < pattern.size()) {
      if (pattern[p] == '?') {
        t = next(text, t);
        ++p;
        continue;
      }
      if (pattern[p] == '~' && p + 1 < pattern.size()) {
        same = pattern[p + 1] == text[t];
        width = 2;
      } else same = pattern[p] == text[t];
    }
    if (same) {
      p += width;
      ++t;
    } else if (star != std::string::npos) {
      p = star + 1;
      from = next(text, from);
      t = from;
    } else return false;
  }
  while (p < pattern.size() && pattern[p] == '*') ++p;
  return p == pattern.size();
}

}  // namespace sheet
}  // namespace ensayo
