#include "exact.h"
#include "calendar.h"

#include <algorithm>
#include <cmath>
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

Calendar::Calendar(std::vector<DayPattern> patterns, const std::vector<int>& days, std::vector<int> week, double workday)
    : patterns_(std::move(patterns)), days_(days.size() + 1), week_(std::move(week)), workday_(workday) {
  week_before_.assign(8, 0);
  for (std::size_t i = 0; i < 7; ++i) week_before_[i + 1] = week_before_[i] + patterns_[static_cast<std::size_t>(week_[i])].total;
  always_ = week_before_[7] == 7 * day_length;
  double sum = 0;
  for (std::size_t i = 0; i < days.size(); ++i) {
    const DayPattern& pattern = patterns_[static_cast<std::size_t>(days[i])];
    Day& day = days_[i];
    day.before = sum;
    day.total = pattern.total;
    day.pattern = days[i];
    day.single = pattern.from.size() < 2;
    day.from = pattern.from.empty() ? 0 : pattern.from[0];
    sum += pattern.total;
    share_ = std::max(share_, pattern.total);
    if (pattern.total != day_length) always_ = false;
  }
  days_[days.size()].before = sum;
  count_ = static_cast<double>(days.size());
  all_ = sum;
  first_day_.resize(static_cast<std::size_t>(all_ / share_) + 2);
  std::size_t day = 0;
  for (std::size_t k = 0; k < first_day_.size(); ++k) {
    while (day + 1 < days.size() && days_[day + 1].before <= static_cast<double>(k) * share_) ++day;
    first_day_[k] = static_cast<int>(day);
  }
}

void Calendar::close(const std::vector<std::size_t>& closed_days) {
  closed_.clear();
  left_.clear();
  lost_.clear();
  double lost = 0;
  for (const std::size_t day : closed_days) {
    if (!(days_[day].total > 0)) continue;
    closed_.push_back(static_cast<double>(day));
    left_.push_back(days_[day].before - lost);
    lost += days_[day].total;
    lost_.push_back(lost);
  }
  if (!closed_.empty()) always_ = false;
}

// In the work that is left a closed day has no length: it lies where so much is done.
double Calendar::done_closed(double t) const {
  const double day = std::floor(t / day_length);
  const std::size_t k = static_cast<std::size_t>(std::upper_bound(closed_.begin(), closed_.end(), day) - closed_.begin());
  if (k == 0) return done_open(t);
  return closed_[k - 1] == day ? left_[k - 1] : done_open(t) - lost_[k - 1];
}

double Calendar::lost_before(double work, bool with) const {
  const auto at = with ? std::upper_bound(left_.begin(), left_.end(), work) : std::lower_bound(left_.begin(), left_.end(), work);
  return at == left_.begin() ? 0 : lost_[static_cast<std::size_t>(at - left_.begin()) - 1];
}

// Beyond the days that are listed whole weeks are counted from day 0 on.
double Calendar::before(double day) const {
  if (day >= 0 && day <= count_) return days_[static_cast<std::size_t>(day)].before;
  const double base = day < 0 ? 0 : count_, known = day < 0 ? 0 : all_;
  const double weeks = std::floor(day / 7), base_weeks = std::floor(base / 7);
  return known + (weeks - base_weeks) * week_before_[7] + week_before_[static_cast<std::size_t>(day - 7 * weeks)] -
         week_before_[static_cast<std::size_t>(base - 7 * base_weeks)];
}

const DayPattern& Calendar::pattern(double day) const {
  const int at = day >= 0 && day < count_ ? days_[static_cast<std::size_t>(day)].pattern
                                          : week_[static_cast<std::size_t>(day - 7 * std::floor(day / 7))];
  return patterns_[static_cast<std::size_t>(at)];
}

double Calendar::done_beyond(double t) const {
  const double day = std::floor(t / day_length);
  return before(day) + pattern(day).done(t - day * day_length);
}

// The day d with before(d) < work <= before(d + 1); with `next`, before(d) <= work < before(d + 1).
double Calendar::day_beyond(double work, bool next) const {
  const auto past = [&](double value) { return next ? value <= work : value < work; };
  double day = work > 0 ? count_ : 0;
  day += 7 * (std::floor((work - before(day)) / week_before_[7]) - 1);
  while (past(before(day + 1))) ++day;
  while (!past(before(day))) --day;
  return day;
}

double Calendar::earliest_beyond(double work) const {
  const double day = day_beyond(work, false);
  return day * day_length + pattern(day).earliest(work - before(day));
}

double Calendar::next_beyond(double work) const {
  const double day = day_beyond(work, true);
  return day * day_length + pattern(day).next(work - before(day));
}

}  // namespace ensayo
