#include "path.h"

#include <atomic>

namespace ensayo {

bool has_path(Path path) {
#ifdef ENSAYO_WIDE_PATHS
  if (path == Path::avx512) return __builtin_cpu_supports("avx512f") && __builtin_cpu_supports("avx512dq");
  if (path == Path::avx2) return __builtin_cpu_supports("avx2");
#endif
  return path == Path::plain;
}

namespace {

Path widest_path() {
  return has_path(Path::avx512) ? Path::avx512 : has_path(Path::avx2) ? Path::avx2 : Path::plain;
}

std::atomic<Path>& chosen() {
  static std::atomic<Path> path(widest_path());
  return path;
}

}  // namespace

Path path_in_use() { return chosen().load(std::memory_order_relaxed); }

void choose_path(Path path) { chosen().store(has_path(path) ? path : Path::plain, std::memory_order_relaxed); }

}  // namespace ensayo
