// What the passes through a schedule share: what a thread keeps of the runs at hand, and how times are counted.
#ifndef ENSAYO_CORE_SCHEDULE_ROOM_H
#define ENSAYO_CORE_SCHEDULE_ROOM_H

#include <cmath>
#include <limits>

#include "schedule.h"

namespace ensayo {

const double never = std::numeric_limits<double>::infinity();

// The nearest whole number, of numbers that have any digits after the point: as the sum's last bit is a whole one.
inline double whole(double x) {
  const double shift = 6755399441055744;  // 1.5 times 2^52
  return std::fabs(x) < 2e15 ? (x + shift) - shift : x;
}

inline double instant(double days) { return whole(days * day_length); }

inline bool is_there(double x) { return x == x; }

inline bool may_be_there(const RunValue& value) { return value.column || is_there(value.constant); }

// Runs go through the network together: task by task, a place for each run.
constexpr std::size_t lanes = 32;

struct Schedule::Room {
  std::vector<double> t, s, f, u, done, work, late_start, late_finish, late_done;
  std::vector<unsigned char> by_start, by_finish;
  std::vector<int> driver;
  bool starts = false;  // every task's start is asked for
  std::vector<Calendar> changed;                 // of calendars that differ from run to run
  std::vector<std::size_t> worked, free;
  std::vector<unsigned char> closed;             // of each day, whether it is free in the run at hand
  double finish[lanes];
  int failed[lanes];
};

inline const Calendar& Schedule::calendar_at(std::size_t calendar, std::size_t lane, const Room& room) const {
  return changing_[calendar] ? room.changed[calendar * lanes + lane] : calendars[calendar];
}

}  // namespace ensayo

#endif
