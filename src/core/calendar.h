// Working calendars. Times are whole milliseconds from a day 0, held in doubles, so that sums and equality are exact.
#ifndef ENSAYO_CORE_CALENDAR_H
#define ENSAYO_CORE_CALENDAR_H

#include <cstddef>
#include <vector>

namespace ensayo {

const double day_length = 86400000;

// What of a day is worked: spans from one time of the day to another, in order, and how much is done before each.
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
  Calendar(std::vector<DayPattern> patterns, const std::vector<int>& days, std::vector<int> week, double workday);

  double done(double t) const {             // W: working time up to an instant, from day 0; below 0 before it
    return always_ ? t : closed_.empty() ? done_open(t) : done_closed(t);
  }
  double earliest(double work) const {      // T-: the earliest instant with so much done
    return always_ ? work : earliest_open(closed_.empty() ? work : work + lost_before(work, false));
  }
  double next(double work) const {          // T+: the next working one
    return always_ ? work : next_open(closed_.empty() ? work : work + lost_before(work, true));
  }
  double workday() const { return workday_; }
  std::size_t days() const { return days_.size() - 1; }
  bool is_worked(std::size_t day) const { return days_[day].total > 0; }

  // With days on which nobody works, in increasing order: an overlay, so that each run may have its own.
  void close(const std::vector<std::size_t>& closed_days);

 private:
  // The work before a day and of it, and where it begins, of a day of a single span; else `pattern` says.
  struct Day {
    double before = 0, total = 0, from = 0;
    int pattern = 0;
    bool single = true;
  };
  double done_open(double t) const {        // without days that are closed
    const double along = t * (1 / day_length);
    if (!(along >= 0 && along < count_)) return done_beyond(t);
    std::size_t day = static_cast<std::size_t>(along);
    double time = t - static_cast<double>(day) * day_length;
    if (time < 0) {  // rounded up to the next day
      --day;
      time += day_length;
    }
    const Day& of = days_[day];
    if (!of.single) return of.before + patterns_[static_cast<std::size_t>(of.pattern)].done(time);
    const double worked = time - of.from;
    return of.before + (worked <= 0 ? 0 : worked < of.total ? worked : of.total);
  }
  double earliest_open(double work) const {
    if (!(work > 0 && work <= all_)) return earliest_beyond(work);
    std::size_t day = begun(work);
    while (day > 0 && days_[day].before >= work) --day;
    while (days_[day + 1].before < work) ++day;
    const Day& of = days_[day];
    const double base = static_cast<double>(day) * day_length, left = work - of.before;
    return base + (of.single ? of.from + left : patterns_[static_cast<std::size_t>(of.pattern)].earliest(left));
  }
  double next_open(double work) const {
    if (!(work >= 0 && work < all_)) return next_beyond(work);
    std::size_t day = begun(work);
    while (day > 0 && days_[day].before > work) --day;
    while (days_[day + 1].before <= work) ++day;
    const Day& of = days_[day];
    const double base = static_cast<double>(day) * day_length, left = work - of.before;
    return base + (of.single ? of.from + left : patterns_[static_cast<std::size_t>(of.pattern)].next(left));
  }
  // A day near that in which so much is done.
  std::size_t begun(double work) const { return static_cast<std::size_t>(first_day_[static_cast<std::size_t>(work * (1 / share_))]); }
  double done_closed(double t) const;
  double lost_before(double work, bool with) const;
  double done_beyond(double t) const;
  double earliest_beyond(double work) const;
  double next_beyond(double work) const;
  double day_beyond(double work, bool next) const;
  double before(double day) const;
  const DayPattern& pattern(double day) const;

  std::vector<DayPattern> patterns_;
  std::vector<Day> days_;                   // and the one after the last, for its `before`
  std::vector<int> week_;
  std::vector<double> week_before_;         // of seven days, and the whole week
  std::vector<int> first_day_;              // of each share of the work, the day in which it is begun
  double workday_, share_ = 1, count_ = 0, all_ = 0;
  bool always_ = false;                     // every minute of every day
  // of each closed day the day, the work left before it, and how much was lost before it and with it
  std::vector<double> closed_, left_, lost_;
};

}  // namespace ensayo

#endif
