#include "number_text.h"

#include <charconv>
#include <cmath>
#include <cstdio>
#include <cstdlib>

namespace ensayo {

namespace {

#ifdef __cpp_lib_to_chars
// The shortest text that reads back as the same double.
char* write_finite(char* begin, char* end, double x) { return std::to_chars(begin, end, x).ptr; }
#else
// Standard libraries that lack it for doubles: 15, 16 or 17 significant digits, whichever reads back first.
char* write_finite(char* begin, char* end, double x) {
  int length = 0;
  for (int digits = 15; digits <= 17; ++digits) {
    length = std::snprintf(begin, static_cast<std::size_t>(end - begin), "%.*g", digits, x);
    if (std::strtod(begin, nullptr) == x) break;
  }
  return begin + length;
}
#endif

}  // namespace

void append_number(std::string& text, double x) {
  if (std::isnan(x)) {
    text += "NaN";
  } else if (std::isinf(x)) {
    text += x > 0 ? "Inf" : "-Inf";
  } else {
    char buffer[40];
    text.append(buffer, write_finite(buffer, buffer + sizeof buffer, x));
  }
}

std::string number_text(double x) {
  std::string text;
  append_number(text, x);
  return text;
}

bool read_number_text(const char* text, double& out) {
  char* end = nullptr;
  out = std::strtod(text, &end);
  return end != text && *end == '\0';
}

}  // namespace ensayo
