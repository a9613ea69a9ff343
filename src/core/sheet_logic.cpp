// Logic: conditions, choices, and what kind a value is.
#include "sheet_function.h"

#include <cmath>

namespace ensayo {
namespace sheet {

namespace {

// Of what is chosen, an argument that is left out is 0.
double chosen(double x) { return is_type(x, Type::empty) ? 0 : x; }

void choose(const Call& call, const Arguments& arguments, std::size_t n) {
  const std::uint64_t yes = bits_of(logical_value(true)), no = bits_of(logical_value(false));
  const bool has_other = arguments.count > 2;
  for (std::size_t i = 0; i < n; ++i) {
    double condition = arguments.at(0, i);
    std::uint64_t bits = bits_of(condition);
    if (bits != yes && bits != no) {
      condition = as_logical(condition, call.setting.texts);
      bits = bits_of(condition);
    }
    if (bits == yes) arguments.out[i] = chosen(arguments.at(1, i));
    else if (bits == no) arguments.out[i] = has_other ? chosen(arguments.at(2, i)) : logical_value(false);
    else arguments.out[i] = condition;
  }
}

// Conditions of all arguments; texts in cells are passed over. Gives how many hold and how many there are, or an error.
double conditions(const Frame& frame, std::size_t& hold, std::size_t& all) {
  hold = all = 0;
  for (std::size_t k = 0; k < frame.count(); ++k) {
    const Shape& shape = frame.shape(k);
    for (std::size_t j = 0; j < shape.size(); ++j) {
      const double x = frame.at(k, j);
      const Type type = type_of(x);
      if ((shape.reference || shape.size() > 1) && (type == Type::text || type == Type::empty)) continue;
      const double read = as_logical(x, frame.texts());
      if (is_error(read)) return read;
      hold += payload_of(read);
      ++all;
    }
  }
  return all == 0 ? error_value(Error::value) : 0;
}

// Of logical values at once, run by run where there is something else. `all`: whether all must hold, or one.
template <bool all>
void hold_together(const Call& call, const Arguments& arguments, std::size_t n) {
  const double yes = logical_value(true), no = logical_value(false);
  const std::uint64_t yes_bits = bits_of(yes), no_bits = bits_of(no);
  for (std::size_t i = 0; i < n; ++i) {
    bool out = all, plain = true;
    for (std::size_t k = 0; k < arguments.count && plain; ++k) {
      const std::uint64_t bits = bits_of(arguments.at(k, i));
      plain = bits == yes_bits || bits == no_bits;
      out = all ? out && bits == yes_bits : out || bits == yes_bits;
    }
    arguments.out[i] = plain ? (out ? yes : no) : call.in_run(arguments, i);
  }
}

double all_hold(const Frame& frame) {
  std::size_t hold, all;
  const double fault = conditions(frame, hold, all);
  return fault != 0 ? fault : logical_value(hold == all);
}

double any_holds(const Frame& frame) {
  std::size_t hold, all;
  const double fault = conditions(frame, hold, all);
  return fault != 0 ? fault : logical_value(hold > 0);
}

double odd_hold(const Frame& frame) {
  std::size_t hold, all;
  const double fault = conditions(frame, hold, all);
  return fault != 0 ? fault : logical_value(hold % 2 == 1);
}

double holds_not(const Frame& frame) {
  const double x = as_logical(frame.at(0), frame.texts());
  return is_error(x) ? x : logical_value(!payload_of(x));
}

double unless_error(const Frame& frame) { return chosen(is_error(frame.at(0)) ? frame.at(1) : frame.at(0)); }

bool is_missing(double x) { return is_error(x) && error_of(x) == Error::missing; }

double unless_missing(const Frame& frame) { return chosen(is_missing(frame.at(0)) ? frame.at(1) : frame.at(0)); }

double first_that_holds(const Frame& frame) {
  for (std::size_t k = 0; k + 1 < frame.count(); k += 2) {
    const double condition = as_logical(frame.at(k), frame.texts());
    if (is_error(condition)) return condition;
    if (payload_of(condition)) return chosen(frame.at(k + 1));
  }
  return error_value(Error::missing);
}

double of_value(const Frame& frame) {
  const double wanted = frame.at(0);
  if (is_error(wanted)) return wanted;
  std::size_t k = 1;
  for (; k + 1 < frame.count(); k += 2) {
    const double value = frame.at(k);
    if (is_error(value)) return value;
    if (compared(wanted, value, frame.texts()) == 0) return chosen(frame.at(k + 1));
  }
  return k < frame.count() ? chosen(frame.at(k)) : error_value(Error::missing);
}

template <Type type>
double is_of_type(const Frame& frame) { return logical_value(type_of(frame.at(0)) == type); }
double is_number(const Frame& frame) {
  const Type type = type_of(frame.at(0));
  return logical_value(type == Type::number || (type == Type::logical && frame.texts().logical_is_number));
}
double is_no_text(const Frame& frame) { return logical_value(type_of(frame.at(0)) != Type::text); }
double is_na(const Frame& frame) { return logical_value(is_missing(frame.at(0))); }
double is_error_but_na(const Frame& frame) { return logical_value(is_error(frame.at(0)) && !is_missing(frame.at(0))); }

template <bool odd>
double is_parity(const Frame& frame) {
  double x;
  if (!frame.number(0, x)) return x;
  return logical_value((std::fmod(std::trunc(std::fabs(x)), 2) != 0) == odd);
}

double number_in(const Frame& frame) {
  const double x = frame.at(0);
  if (is_error(x)) return x;
  return std::isfinite(x) ? x : is_type(x, Type::logical) ? payload_of(x) : 0;
}

double text_in(const Frame& frame) {
  const double x = frame.at(0);
  return is_error(x) || is_type(x, Type::text) ? x : frame.words("");
}

double yes(const Frame&) { return logical_value(true); }
double no(const Frame&) { return logical_value(false); }
double not_available(const Frame&) { return error_value(Error::missing); }

}  // namespace

std::vector<Definition> logic_definitions() {
  return {by_block("IF", 2, 3, "v", choose), by_block("AND", 1, -1, "r", hold_together<true>, all_hold),
          by_block("OR", 1, -1, "r", hold_together<false>, any_holds), {"XOR", 1, -1, "r", odd_hold}, {"NOT", 1, 1, "v", holds_not},
          {"TRUE", 0, 0, "", yes}, {"FALSE", 0, 0, "", no}, {"NA", 0, 0, "", not_available},
          {"IFERROR", 2, 2, "v", unless_error}, {"IFNA", 2, 2, "v", unless_missing}, {"IFS", 2, -1, "v", first_that_holds},
          {"SWITCH", 3, -1, "v", of_value}, {"ISNUMBER", 1, 1, "v", is_number}, {"ISTEXT", 1, 1, "v", is_of_type<Type::text>},
          {"ISLOGICAL", 1, 1, "v", is_of_type<Type::logical>}, {"ISBLANK", 1, 1, "v", is_of_type<Type::empty>},
          {"ISERROR", 1, 1, "v", is_of_type<Type::error>}, {"ISNONTEXT", 1, 1, "v", is_no_text}, {"ISNA", 1, 1, "v", is_na},
          {"ISERR", 1, 1, "v", is_error_but_na}, {"ISEVEN", 1, 1, "v", is_parity<false>}, {"ISODD", 1, 1, "v", is_parity<true>},
          {"N", 1, 1, "v", number_in}, {"T", 1, 1, "v", text_in, nullptr, nullptr, makes_texts}};
}

}  // namespace sheet
}  // namespace ensayo
