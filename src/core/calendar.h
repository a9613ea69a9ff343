// Working calendars. Times are whole milliseconds from a day 0, held in doubles, so that sums and equality are exact.
#ifndef ENSAYO_CORE_CALENDAR_H
#define ENSAYO_CORE_CALENDAR_H

#include <cmath>
#include <cstddef>
#include <vector>

namespace ensayo {

const double day_length = 86400000;

// What of a day is worked: spans from one time of the day to another, in order, and how much is done up to each.
struct DayPattern {
  std::vector<double> from, to, before;
  double total = 0;
  void add(double begin, double end);
  double done(double time) const;           // up to a time of the day
  double earliest(double work) const;       // the earliest time at which so much is done, of 0 < work <= total
  double next(double work) const;           // the working time at which so much was done before, of 0 <= work < total
};

// Days from 0 on each have a pattern; before the first and after the last the week goes on as it is.
class Calendar {
 public:
  // `days`: the pattern of each day; `week`: of seven days, day 0 the first of them. `workday`: how long a day of work is.
  Calendar(std::vector<DayPattern> patterns, std::vector<int> days, std::vector<int> week, double workday);

  double done(double t) const;              // W: working time up to an instant, from day 0; below 0 before it
  double earliest(double work) const;       // T-: the earliest instant with so much done
  double next(double work) const;           // T+: the next working one
  bool works_at(double t) const { return next(done(t)) == t; }
  double workday() const { return workday_; }
  std::size_t days() const { return days_.size(); }
  bool is_worked(std::size_t day) const { return total(days_[day]) > 0; }

  // With days on which nobody works; day_closed has a byte for each.
  void assign_closed(const Calendar& from, const std::vector<unsigned char>& day_closed);

 private:
  double total(int pattern) const { return patterns_[static_cast<std::size_t>(pattern)].total; }
  const DayPattern& pattern(double day) const;
  double before(double day) const;          // work done before a day
  double day_of(double work, bool next) const;
  void sum_up();

  std::vector<DayPattern> patterns_;
  std::vector<int> days_, week_;
  double workday_;
  bool always_ = false;                     // every minute of every day
  std::vector<double> before_;              // of each day, and of the one after the last
  std::vector<double> week_before_;         // of seven days, and the whole week
  std::vector<int> first_day_;              // of each share of the work, the day in which it is begun
  double share_ = 1;
};

inline double day_number(double t) { return std::floor(t / day_length); }

}  // namespace ensayo

#endif
