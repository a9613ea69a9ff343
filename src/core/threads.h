// Work shared out to threads. No result depends on how it was shared.
#ifndef ENSAYO_CORE_THREADS_H
#define ENSAYO_CORE_THREADS_H

#include <algorithm>
#include <atomic>
#include <cstddef>
#include <exception>
#include <mutex>
#include <system_error>
#include <thread>
#include <vector>

namespace ensayo {

// Called between pieces of work on the thread that shares it out; what it throws ends the work. A program around the
// core may set it to ask whether the user wants to go on.
typedef void (*Pulse)();
inline Pulse& pulse() {
  static Pulse pulse = nullptr;
  return pulse;
}

// Calls work(k, worker) once for each k from 0 to count - 1, each on whichever thread is free; the caller's is one of
// them, worker 0, and does it all where no other can be started. The first exception is thrown on after all threads have
// ended.
template <class Work>
void share_out_to_workers(std::size_t count, unsigned threads, Work work) {
  std::atomic<std::size_t> next(0);
  std::exception_ptr failure;
  std::mutex guard;
  auto run = [&](std::size_t worker) {
    try {
      for (std::size_t k = next++; k < count; k = next++) {
        work(k, worker);
        if (worker == 0 && pulse()) pulse()();
      }
    } catch (...) {
      const std::lock_guard<std::mutex> lock(guard);
      if (!failure) failure = std::current_exception();
      next = count;
    }
  };
  std::vector<std::thread> others;
  others.reserve(std::min<std::size_t>(threads, count));
  try {
    for (std::size_t t = 1; t < std::min<std::size_t>(threads, count); ++t) others.emplace_back(run, t);
  } catch (const std::system_error&) {
  }
  run(0);
  for (std::thread& other : others) other.join();
  if (failure) std::rethrow_exception(failure);
}

// The same, of work that needs no room of its own.
template <class Work>
void share_out(std::size_t count, unsigned threads, Work work) {
  share_out_to_workers(count, threads, [&](std::size_t k, std::size_t) { work(k); });
}

}  // namespace ensayo

#endif
