#include "exact.h"
#include "calendar.h"

#include <algorithm>
#include <utility>

namespace ensayo {

void DayPattern::add(double begin, double end) {
  from.push_back(begin);
  to.push_back(end);
  before.push_back(total);
  total += end - begin;
}

double DayPattern::done(double time) const {
  for (std::size_t i = from.size(); i-- > 0;) {
    if (time > from[i]) return before[i] + std::min(time, to[i]) - from[i];
  }
  return 0;
}

double DayPattern::earliest(double work) const {
  std::size_t i = 0;
  while (i + 1 < from.size() && before[i + 1] < work) ++i;
  return from[i] + (work - before[i]);
}

double DayPattern::next(double work) const {
  std::size_t i = 0;
  while (i + 1 < from.size() && before[i + 1] <= work) ++i;
  return from[i] + (work - before[i]);
}

Calendar::Calendar(std::vector<DayPattern> patterns, std::vector<int> days, std::vector<int> week, double workday)
    : patterns_(std::move(patterns)), days_(std::move(days)), week_(std::move(week)), workday_(workday) {
  week_before_.assign(8, 0);
  for (std::size_t i = 0; i < 7; ++i) week_before_[i + 1] = week_before_[i] + total(week_[i]);
  sum_up();
}

void Calendar::sum_up() {
  before_.resize(days_.size() + 1);
  before_[0] = 0;
  always_ = week_before_[7] == 7 * day_length;
  for (std::size_t i = 0; i < days_.size(); ++i) {
    const double worked = total(days_[i]);
    before_[i + 1] = before_[i] + worked;
    if (worked != day_length) always_ = false;
  }
  // shares of the work as long as the longest day: each is begun at most a few days after its first one
  share_ = 1;
  for (const DayPattern& each : patterns_) share_ = std::max(share_, each.total);
  first_day_.resize(static_cast<std::size_t>(before_.back() / share_) + 1);
  std::size_t day = 0;
  for (std::size_t k = 0; k < first_day_.size(); ++k) {
    while (day + 1 < days_.size() && before_[day + 1] <= static_cast<double>(k) * share_) ++day;
    first_day_[k] = static_cast<int>(day);
  }
}

void Calendar::assign_closed(const Calendar& from, const std::vector<unsigned char>& day_closed) {
  days_.resize(from.days_.size());
  int closed = 0;  // pattern 0 is that of days without work
  for (std::size_t i = 0; i < days_.size(); ++i) days_[i] = day_closed[i] ? closed : from.days_[i];
  sum_up();
}

const DayPattern& Calendar::pattern(double day) const {
  const double count = static_cast<double>(days_.size());
  const int at = day >= 0 && day < count ? days_[static_cast<std::size_t>(day)]
                                         : week_[static_cast<std::size_t>(day - 7 * std::floor(day / 7))];
  return patterns_[static_cast<std::size_t>(at)];
}

double Calendar::before(double day) const {
  const double count = static_cast<double>(days_.size());
  if (day >= 0 && day <= count) return before_[static_cast<std::size_t>(day)];
  const double base = day < 0 ? 0 : count;
  const double known = day < 0 ? 0 : before_.back();
  // whole weeks from day 0 on, less those to the base
  const double weeks = std::floor(day / 7), base_weeks = std::floor(base / 7);
  return known + (weeks - base_weeks) * week_before_[7] + week_before_[static_cast<std::size_t>(day - 7 * weeks)] -
         week_before_[static_cast<std::size_t>(base - 7 * base_weeks)];
}

double Calendar::done(double t) const {
  if (always_) return t;
  const double day = day_number(t);
  return before(day) + pattern(day).done(t - day * day_length);
}

// The day d with before(d) < work <= before(d + 1); with `next`, before(d) <= work < before(d + 1).
double Calendar::day_of(double work, bool next) const {
  const auto past = [&](double value) { return next ? value <= work : value < work; };
  if (past(0) && !past(before_.back())) {
    const std::size_t k = std::min(static_cast<std::size_t>(work / share_), first_day_.size() - 1);
    std::size_t day = static_cast<std::size_t>(first_day_[k]);
    while (day > 0 && !past(before_[day])) --day;
    while (past(before_[day + 1])) ++day;
    return static_cast<double>(day);
  }
  double day = work > 0 ? static_cast<double>(days_.size()) : 0;
  const double weeks = std::floor((work - before(day)) / week_before_[7]) - 1;
  day += 7 * weeks;
  while (past(before(day + 1))) ++day;
  while (!past(before(day))) --day;
  return day;
}

double Calendar::earliest(double work) const {
  if (always_) return work;
  const double day = day_of(work, false);
  return day * day_length + pattern(day).earliest(work - before(day));
}

double Calendar::next(double work) const {
  if (always_) return work;
  const double day = day_of(work, true);
  return day * day_length + pattern(day).next(work - before(day));
}

}  // namespace ensayo
