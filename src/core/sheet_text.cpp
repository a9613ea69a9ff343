// Texts: joining, taking apart, finding, and numbers as texts.
#include "sheet_function.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstring>

#include "sheet_date.h"

namespace ensayo {
namespace sheet {

namespace {

double joined(const Frame& frame) {
  std::string out;
  for (std::size_t k = 0; k < frame.count(); ++k) {
    for (std::size_t j = 0; j < frame.shape(k).size(); ++j) {
      const double x = frame.at(k, j);
      bool ok;
      out += as_text(x, frame.texts(), ok);
      if (!ok) return x;
    }
  }
  return frame.words(out);
}

double joined_by(const Frame& frame) {
  std::string by, out;
  double wrong;
  bool skips, any = false;
  if (!frame.text(0, by, wrong)) return wrong;
  if (!frame.logical(1, skips, wrong, true)) return wrong;
  for (std::size_t k = 2; k < frame.count(); ++k) {
    for (std::size_t j = 0; j < frame.shape(k).size(); ++j) {
      const double x = frame.at(k, j);
      bool ok;
      const std::string part = as_text(x, frame.texts(), ok);
      if (!ok) return x;
      if (skips && part.empty()) continue;
      if (any) out += by;
      any = true;
      out += part;
    }
  }
  return frame.words(out);
}

double left(const Frame& frame) {
  std::string text;
  double count, wrong;
  if (!frame.text(0, text, wrong)) return wrong;
  if (!frame.number(1, count, 1)) return count;
  return count < 0 ? fault(Error::value) : frame.words(part_of_text(text, 0, static_cast<std::size_t>(std::min(count, 1e6))));
}

double right(const Frame& frame) {
  std::string text;
  double count, wrong;
  if (!frame.text(0, text, wrong)) return wrong;
  if (!frame.number(1, count, 1)) return count;
  if (count < 0) return fault(Error::value);
  const std::size_t all = characters(text), wanted = std::min(all, static_cast<std::size_t>(std::min(count, 1e6)));
  return frame.words(part_of_text(text, all - wanted, wanted));
}

double middle(const Frame& frame) {
  std::string text;
  double first, count, wrong;
  if (!frame.text(0, text, wrong)) return wrong;
  if (!frame.number(1, first)) return first;
  if (!frame.number(2, count)) return count;
  if (first < 1 || count < 0) return fault(Error::value);
  return frame.words(part_of_text(text, static_cast<std::size_t>(std::min(first, 1e6)) - 1, static_cast<std::size_t>(std::min(count, 1e6))));
}

template <class Change>
double changed(const Frame& frame, const Change& change) {
  std::string text;
  double wrong;
  return frame.text(0, text, wrong) ? frame.words(change(text)) : wrong;
}

double upper(const Frame& frame) { return changed(frame, in_capitals); }
double lower(const Frame& frame) { return changed(frame, folded); }

double proper(const Frame& frame) {
  return changed(frame, [](const std::string& text) {
    std::string out;
    bool inside = false;
    for (std::size_t k = 0; k < characters(text); ++k) {
      const std::string one = part_of_text(text, k, 1);
      const bool letter = folded(one) != in_capitals(one);
      out += inside ? folded(one) : in_capitals(one);
      inside = letter;
    }
    return out;
  });
}

double trimmed(const Frame& frame) {
  return changed(frame, [](const std::string& text) {
    std::string out;
    for (char c : text) if (c != ' ' || (!out.empty() && out.back() != ' ')) out += c;
    if (!out.empty() && out.back() == ' ') out.pop_back();
    return out;
  });
}

double length(const Frame& frame) {
  std::string text;
  double wrong;
  return frame.text(0, text, wrong) ? static_cast<double>(characters(text)) : wrong;
}

// Where a text stands in another, in characters from 1 on.
double found(const Frame& frame, bool as_written) {
  std::string what, text;
  double first, wrong;
  if (!frame.text(0, what, wrong) || !frame.text(1, text, wrong)) return wrong;
  if (!frame.number(2, first, 1)) return first;
  const std::size_t all = characters(text);
  if (first < 1 || first > static_cast<double>(all) + 1) return fault(Error::value);
  if (!as_written) {
    what = folded(what);
    text = folded(text);
  }
  const bool is_pattern = !as_written && what.find_first_of("*?~") != std::string::npos;
  for (std::size_t at = static_cast<std::size_t>(first) - 1; at <= all; ++at) {
    const std::string rest = part_of_text(text, at, all);
    if (is_pattern ? matches(what + "*", rest) : rest.compare(0, what.size(), what) == 0) return static_cast<double>(at) + 1;
  }
  return fault(Error::value);
}
double find(const Frame& frame) { return found(frame, true); }
double search(const Frame& frame) { return found(frame, false); }

double substituted(const Frame& frame) {
  std::string text, what, by;
  double which, wrong;
  if (!frame.text(0, text, wrong) || !frame.text(1, what, wrong) || !frame.text(2, by, wrong)) return wrong;
  if (!frame.number(3, which)) return which;
  if (what.empty()) return frame.words(text);
  std::string out;
  double seen = 0;
  for (std::size_t at = 0;;) {
    const std::size_t next = text.find(what, at);
    if (next == std::string::npos) return frame.words(out + text.substr(at));
    ++seen;
    out += text.substr(at, next - at) + (which == 0 || which == seen ? by : what);
    at = next + what.size();
  }
}

double replaced(const Frame& frame) {
  std::string text, by;
  double first, count, wrong;
  if (!frame.text(0, text, wrong) || !frame.text(3, by, wrong)) return wrong;
  if (!frame.number(1, first)) return first;
  if (!frame.number(2, count)) return count;
  if (first < 1 || count < 0) return fault(Error::value);
  const std::size_t from = static_cast<std::size_t>(first) - 1;
  return frame.words(part_of_text(text, 0, from) + by + part_of_text(text, from + static_cast<std::size_t>(count), characters(text)));
}

double exactly(const Frame& frame) {
  std::string first, second;
  double wrong;
  return frame.text(0, first, wrong) && frame.text(1, second, wrong) ? logical_value(first == second) : wrong;
}

double repeated(const Frame& frame) {
  std::string text, out;
  double times, wrong;
  if (!frame.text(0, text, wrong)) return wrong;
  if (!frame.number(1, times)) return times;
  if (times < 0 || times * static_cast<double>(text.size()) > 32767) return fault(Error::value);
  for (double k = 1; k <= times; ++k) out += text;
  return frame.words(out);
}

double value(const Frame& frame) {
  double out;
  frame.number(0, out);
  return out;
}

double value_with_signs(const Frame& frame) {
  std::string text, point, group, plain;
  double wrong, out;
  if (!frame.text(0, text, wrong) || !frame.text(1, point, wrong) || !frame.text(2, group, wrong)) return wrong;
  for (char c : text) {
    if (!group.empty() && c == group[0]) continue;
    plain += !point.empty() && c == point[0] ? '.' : c;
  }
  return text_as_number(plain, out) ? out : fault(Error::value);
}

const char* const months[] = {"January", "February", "March", "April", "May", "June", "July", "August", "September", "October",
                              "November", "December"};
const char* const weekdays[] = {"Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"};

std::string digits(double x, int width) {
  char out[32];
  std::snprintf(out, sizeof out, "%0*ld", width, static_cast<long>(x));
  return out;
}

bool day_shown(double x, const std::string& format, std::string& out) {
  if (x < 0 || x > 2958465) return false;
  long year;
  int month, day;
  date_of(static_cast<long>(std::floor(x)), year, month, day);
  const double seconds = std::round((x - std::floor(x)) * 86400);
  bool after_hours = false;
  for (std::size_t i = 0; i < format.size();) {
    const char c = format[i] | 0x20;
    std::size_t n = 1;
    while (i + n < format.size() && (format[i + n] | 0x20) == c) ++n;
    if (c == 'y') out += n > 2 ? std::to_string(year) : digits(static_cast<double>(year % 100), 2);
    else if (c == 'd') out += n <= 2 ? digits(day, static_cast<int>(n)) : n == 3 ? std::string(weekdays[weekday_of(static_cast<long>(x))]).substr(0, 3) : weekdays[weekday_of(static_cast<long>(x))];
    else if (c == 'h') out += digits(std::floor(seconds / 3600), static_cast<int>(std::min<std::size_t>(n, 2)));
    else if (c == 's') out += digits(std::fmod(seconds, 60), static_cast<int>(std::min<std::size_t>(n, 2)));
    else if (c == 'm' && after_hours) out += digits(std::fmod(std::floor(seconds / 60), 60), static_cast<int>(std::min<std::size_t>(n, 2)));
    else if (c == 'm') out += n <= 2 ? digits(month, static_cast<int>(n)) : n == 3 ? std::string(months[month - 1]).substr(0, 3) : months[month - 1];
    else if (c >= 'a' && c <= 'z') return false;
    else out += format.substr(i, n);
    if (c == 'h') after_hours = true;
    else if (c >= 'a' && c <= 'z') after_hours = false;
    i += n;
  }
  return true;
}

// Digits of a number as a format such as #,##0.00 has them; false for what is not known here.
bool number_shown(double x, const std::string& format, std::string& out) {
  const std::size_t first = format.find_first_of("0#"), last = format.find_last_of("0#");
  if (first == std::string::npos) return false;
  const std::string core = format.substr(first, last - first + 1);
  if (core.find_first_not_of("0#,.") != std::string::npos) return false;
  std::string before = format.substr(0, first), after = format.substr(last + 1);
  const auto plain = [](std::string& part) {
    std::string kept;
    for (std::size_t i = 0; i < part.size(); ++i) {
      if (part[i] == '"') {
        while (++i < part.size() && part[i] != '"') kept += part[i];
      } else if (part[i] == '\\' && i + 1 < part.size()) kept += part[++i];
      else if (std::strchr(" %$-+():", part[i]) || static_cast<unsigned char>(part[i]) >= 0x80) kept += part[i];
      else return false;
    }
    part = kept;
    return true;
  };
  if (!plain(before) || !plain(after)) return false;
  for (char c : before + after) if (c == '%') x *= 100;
  const std::size_t point = core.find('.');
  const std::string whole = core.substr(0, point), rest = point == std::string::npos ? "" : core.substr(point + 1);
  int least = 0, always = 0;
  for (char c : whole) least += c == '0';
  for (char c : rest) always += c == '0';
  char text[400];
  std::snprintf(text, sizeof text, "%.*f", static_cast<int>(rest.size()), std::fabs(rounded(x, static_cast<double>(rest.size()))));
  std::string number = text, decimals;
  const std::size_t at = number.find('.');
  if (at != std::string::npos) {
    decimals = number.substr(at + 1);
    number.resize(at);
    while (static_cast<int>(decimals.size()) > always && decimals.back() == '0') decimals.pop_back();
  }
  if (number == "0" && least == 0) number.clear();
  while (static_cast<int>(number.size()) < least) number.insert(number.begin(), '0');
  if (whole.find(',') != std::string::npos) {
    for (std::size_t i = number.size(); i > 3; i -= 3) number.insert(i - 3, ",");
  }
  const bool negative = x < 0 && (number + decimals).find_first_not_of("0,") != std::string::npos;
  out = (negative ? "-" : "") + before + number + (point != std::string::npos && (!decimals.empty() || always > 0) ? "." : "") + decimals + after;
  return true;
}

double shown_as(const Frame& frame) {
  std::string format;
  double wrong, x = frame.at(0);
  if (!frame.text(1, format, wrong)) return wrong;
  if (is_error(x)) return x;
  if (is_type(x, Type::text) && !std::isfinite(as_number(x, frame.texts()))) return x;
  x = as_number(x, frame.texts());
  if (format.empty()) return frame.words("");
  std::string out;
  const std::string low = folded(format);
  if (low == "general" || low == "@") return frame.words(number_as_text(x));
  const std::size_t part = format.find(';');
  if (part != std::string::npos && x < 0) {
    // what is below zero has a form of its own
    std::string second = format.substr(part + 1);
    second = second.substr(0, second.find(';'));
    if (second.find_first_of("0#") == std::string::npos) return frame.words(second);
    if (!number_shown(-x, second, out)) return fault(Error::unsupported);
    return frame.words(out);
  }
  format = format.substr(0, part);
  if (low.find_first_of("ydhs") != std::string::npos || low.find("mm") != std::string::npos) {
    if (frame.setting().from_1904) x += 1462;
    return day_shown(x, format, out) ? frame.words(out) : fault(Error::unsupported);
  }
  return number_shown(x, format, out) ? frame.words(out) : fault(Error::unsupported);
}

double fixed(const Frame& frame) {
  double x, places, wrong;
  bool plain;
  if (!frame.number(0, x)) return x;
  if (!frame.number(1, places, 2)) return places;
  if (!frame.logical(2, plain, wrong, false)) return wrong;
  std::string out;
  x = rounded(x, places);
  number_shown(x, (plain ? "0" : "#,##0") + (places > 0 ? "." + std::string(static_cast<std::size_t>(std::min(places, 30.0)), '0') : ""), out);
  return frame.words(out);
}

}  // namespace

std::vector<Definition> text_definitions() {
  const auto text = [](const char* name, int least, int most, double (*of)(const Frame&), const char* takes = "v") {
    return Definition{name, least, most, takes, of, nullptr, nullptr, makes_texts};
  };
  return {text("CONCATENATE", 1, -1, joined), text("CONCAT", 1, -1, joined, "r"), text("TEXTJOIN", 3, -1, joined_by, "vvrr"),
          text("LEFT", 1, 2, left), text("RIGHT", 1, 2, right), text("MID", 3, 3, middle), text("UPPER", 1, 1, upper),
          text("LOWER", 1, 1, lower), text("PROPER", 1, 1, proper), text("TRIM", 1, 1, trimmed), {"LEN", 1, 1, "v", length},
          {"FIND", 2, 3, "v", find}, {"SEARCH", 2, 3, "v", search}, text("SUBSTITUTE", 3, 4, substituted),
          text("REPLACE", 4, 4, replaced), {"EXACT", 2, 2, "v", exactly}, text("REPT", 2, 2, repeated), {"VALUE", 1, 1, "v", value},
          {"NUMBERVALUE", 1, 3, "v", value_with_signs}, text("TEXT", 2, 2, shown_as), text("FIXED", 1, 3, fixed)};
}

}  // namespace sheet
}  // namespace ensayo
