// Work shared out to threads. No result depends on how it was shared.
#ifndef ENSAYO_CORE_THREADS_H
#define ENSAYO_CORE_THREADS_H

#include <algorithm>
#include <atomic>
#include <cstddef>
#include <exception>
#include <mutex>
#include <thread>
#include <vector>

namespace ensayo {

// Calls work(k) once for each k from 0 to count - 1, each on whichever thread is free; the caller's is one of them.
// The first exception is thrown on after all threads have ended.
template <class Work>
void share_out(std::size_t count, unsigned threads, Work work) {
  std::atomic<std::size_t> next(0);
  std::exception_ptr failure;
  std::mutex guard;
  auto run = [&]() {
    try {
      for (std::size_t k = next++; k < count; k = next++) work(k);
    } catch (...) {
      const std::lock_guard<std::mutex> lock(guard);
      if (!failure) failure = std::current_exception();
    }
  };
  std::vector<std::thread> others;
  for (std::size_t t = 1; t < std::min<std::size_t>(threads, count); ++t) others.emplace_back(run);
  run();
  for (std::thread& other : others) other.join();
  if (failure) std::rethrow_exception(failure);
}

}  // namespace ensayo

#endif
