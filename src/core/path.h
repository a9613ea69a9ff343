// Code paths: one source, compiled for the registers a CPU may have. Every path gives the same bits.
#ifndef ENSAYO_CORE_PATH_H
#define ENSAYO_CORE_PATH_H

#include <cstddef>
#include <cstdint>
#include <cstring>

namespace ensayo {

enum class Path { plain, avx2, avx512 };

// Whether this machine (and this compiler) has a path.
bool has_path(Path path);

// The path in use: the widest one, unless another was chosen. Choosing is for tests and benchmarks.
Path path_in_use();
void choose_path(Path path);

// Words and doubles side by side, as many as the registers of a path hold.
template <unsigned bytes>
struct Wide {
  typedef std::uint64_t Words __attribute__((vector_size(bytes)));
  typedef double Doubles __attribute__((vector_size(bytes)));
  static constexpr unsigned count = bytes / 8;
};

// Whatever the width, work is arranged in eights, so that its order is the same everywhere.
constexpr unsigned lanes = 8;

// Fused multiply-add is not asked for by either target (exact.h). On Windows the compiler does not align the stack for
// wide registers.
#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__) && !defined(_WIN32)
#define ENSAYO_WIDE_PATHS 1
#define ENSAYO_AVX2 __attribute__((target("avx2")))
#define ENSAYO_AVX512 __attribute__((target("avx512f,avx512dq")))
#endif
#define ENSAYO_INLINE __attribute__((always_inline)) inline

// Changes `count` numbers by `rule`, as many at a time as a register holds. A size that is known makes the copies cheap.
template <class Width, class Rule>
ENSAYO_INLINE void change_abreast(const double* from, std::size_t count, double* to, Rule rule) {
  typename Width::Doubles x;
  std::size_t at = 0;
  for (; at + Width::count <= count; at += Width::count) {
    std::memcpy(&x, from + at, sizeof x);
    rule(x);
    std::memcpy(to + at, &x, sizeof x);
  }
  x = typename Width::Doubles{};
  std::memcpy(&x, from + at, (count - at) * sizeof(double));
  rule(x);
  std::memcpy(to + at, &x, (count - at) * sizeof(double));
}

// Makes the function `name` of `kernel`, a template on Wide that is ENSAYO_INLINE: compiled for every path, called on
// the one in use.
#ifdef ENSAYO_WIDE_PATHS
#define ENSAYO_ON_EVERY_PATH(name, kernel, formals, actuals)                   \
  static void name##_plain formals { kernel<Wide<16>> actuals; }               \
  ENSAYO_AVX2 static void name##_avx2 formals { kernel<Wide<32>> actuals; }     \
  ENSAYO_AVX512 static void name##_avx512 formals { kernel<Wide<64>> actuals; } \
  static void name formals {                                                   \
    switch (path_in_use()) {                                                   \
      case Path::avx512: return name##_avx512 actuals;                         \
      case Path::avx2: return name##_avx2 actuals;                             \
      default: return name##_plain actuals;                                    \
    }                                                                          \
  }
#else
#define ENSAYO_ON_EVERY_PATH(name, kernel, formals, actuals) \
  static void name formals { kernel<Wide<16>> actuals; }
#endif

}  // namespace ensayo

#endif
