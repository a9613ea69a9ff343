// Characters as bytes of UTF-8.
#ifndef ENSAYO_CORE_UTF8_H
#define ENSAYO_CORE_UTF8_H

#include <string>

namespace ensayo {

inline void append_utf8(std::string& out, unsigned long x) {
  if (x < 0x80) {
    out += static_cast<char>(x);
    return;
  }
  const int more = x < 0x800 ? 1 : x < 0x10000 ? 2 : 3;
  const unsigned long first[] = {0, 0xc0, 0xe0, 0xf0};
  out += static_cast<char>(first[more] | x >> 6 * more);
  for (int k = more - 1; k >= 0; --k) out += static_cast<char>(0x80 | (x >> 6 * k & 0x3f));
}

}  // namespace ensayo

#endif
