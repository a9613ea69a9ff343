#include "exact.h"
#include "schedule_room.h"

#include <algorithm>
#include <cstring>

#include "threads.h"

namespace ensayo {

namespace {

// A generator for what order days are lost in: splitmix64 (Steele, Lea and Flood 2014), from the bits of a uniform number.
std::uint64_t next_word(std::uint64_t& state) {
  std::uint64_t z = (state += 0x9E3779B97F4A7C15u);
  z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9u;
  z = (z ^ (z >> 27)) * 0x94D049BB133111EBu;
  return z ^ (z >> 31);
}

}  // namespace

void Schedule::prepare() {
  const std::size_t n = tasks.size();
  std::stable_sort(links.begin(), links.end(), [](const TaskLink& a, const TaskLink& b) { return a.to < b.to; });
  in_first_.assign(n + 1, 0);
  out_first_.assign(n + 1, 0);
  for (const TaskLink& link : links) {
    ++in_first_[link.to + 1];
    ++out_first_[link.from + 1];
  }
  for (std::size_t i = 0; i < n; ++i) {
    in_first_[i + 1] += in_first_[i];
    out_first_[i + 1] += out_first_[i];
  }
  out_.resize(links.size());
  std::vector<std::size_t> next(out_first_.begin(), out_first_.end() - 1);
  for (std::size_t k = 0; k < links.size(); ++k) out_[next[links[k].from]++] = k;
  plain_.assign(n, 0);
  needs_start_.assign(n, 0);
  for (std::size_t i = 0; i < n; ++i) {
    const Task& task = tasks[i];
    plain_[i] = !may_be_there(task.not_before) && !may_be_there(task.latest_finish) &&
                !may_be_there(task.latest_start) && !is_there(task.started) && !is_there(task.finished);
  }
  for (const TaskLink& link : links) if (link.from_start || link.lag == TaskLink::share) needs_start_[link.from] = 1;
  changing_.assign(calendars.size(), 0);
  for (const Closure& each : closures) changing_[each.calendar] = 1;
  for (const LostDays& each : lost) changing_[each.calendar] = 1;
}

void Schedule::set_calendars(std::size_t run, std::size_t lane, Room& room) const {
  for (std::size_t c = 0; c < calendars.size(); ++c) {
    if (!changing_[c]) continue;
    const Calendar& own = calendars[c];
    room.closed.resize(own.days(), 0);
    room.free.clear();
    const auto free = [&](std::size_t day) {
      if (room.closed[day]) return;
      room.closed[day] = 1;
      room.free.push_back(day);
    };
    for (const Closure& each : closures) {
      if (each.calendar != c) continue;
      const double days = each.days.at(run);
      if (!(days > 0)) continue;
      const double from = std::floor(each.from.at(run)), to = from + std::ceil(days);
      const double last = std::min(to, static_cast<double>(own.days()));
      for (double day = std::max(from, 0.0); day < last; ++day) free(static_cast<std::size_t>(day));
    }
    for (const LostDays& each : lost) {
      if (each.calendar != c) continue;
      room.worked.clear();
      for (std::size_t day = each.first; day <= each.last && day < own.days(); ++day) {
        if (own.is_worked(day) && !room.closed[day]) room.worked.push_back(day);
      }
      const double many = std::nearbyint(each.lost.at(run));
      if (!(many > 0)) continue;
      const std::size_t n = room.worked.size();
      const std::size_t gone = many < static_cast<double>(n) ? static_cast<std::size_t>(many) : n;
      const double order = each.order.at(run);
      std::uint64_t state;
      std::memcpy(&state, &order, sizeof state);
      for (std::size_t i = 0; i < gone; ++i) {
        std::swap(room.worked[i], room.worked[i + static_cast<std::size_t>(next_word(state) % (n - i))]);
        free(room.worked[i]);
      }
    }
    std::sort(room.free.begin(), room.free.end());
    room.changed[c * lanes + lane].close(room.free);
    for (const std::size_t day : room.free) room.closed[day] = 0;  // all open again, for the next
  }
}

void Schedule::block(std::size_t first, std::size_t count, const Result& result, double limit, Room& room) const {
  bool late = false, free = false, chains = false;
  room.starts = false;
  for (const Asked& asked : result.tasks) {
    late = late || asked.total || asked.longer;
    free = free || asked.free;
    chains = chains || asked.critical;
    room.starts = room.starts || asked.start || asked.free;
  }
  room.starts = room.starts || !result.paid.empty();
  const double shown = dated ? 1 : 0, missing = std::numeric_limits<double>::quiet_NaN(), begin = instant(start);
  const auto day = [&](double at) { return dated ? day_zero + std::floor(at / day_length) : (at - begin) / day_length; };
  // the day of a finish is that which ends with it, but not before the schedule starts
  const auto finish_day = [&](double at) { return day(at > begin ? at - shown : at); };
  for (std::size_t lane = 0; lane < count; ++lane) set_calendars(first + lane, lane, room);
  forward(first, count, room);
  for (std::size_t lane = 0; lane < count; ++lane) {
    const bool failed = room.failed[lane] > 0;
    const std::size_t to = first + lane;
    if (result.failed) (*result.failed)[to] = room.failed[lane];
    if (result.finish) result.finish[to] = failed ? missing : finish_day(room.finish[lane]);
    if (result.exact) result.exact[to] = failed ? missing : (room.finish[lane] - begin) / day_length;
    if (!result.paths || failed) continue;
    std::size_t at = tasks.size();
    while (at > 0 && room.f[(at - 1) * lanes + lane] != room.finish[lane]) --at;
    for (int next = static_cast<int>(at); next > 0; next = room.driver[(static_cast<std::size_t>(next) - 1) * lanes + lane]) {
      (*result.paths)[to].push_back(next - 1);
    }
  }
  if (!result.paid.empty()) pay(first, count, result, room);
  if (late) backward(first, count, is_there(limit) ? begin + instant(limit) : limit, false, room);
  for (std::size_t i = 0; i < tasks.size(); ++i) {
    const Asked& asked = result.tasks[i];
    const bool over = is_there(tasks[i].finished), begun = is_there(tasks[i].started);
    for (std::size_t lane = 0; lane < count; ++lane) {
      const std::size_t at = i * lanes + lane, to = first + lane;
      const bool failed = room.failed[lane] > 0;
      // what is finished may be before the start
      const auto last_day = [&](double when) { return over ? day(when - shown) : finish_day(when); };
      if (asked.start) {
        asked.start[to] = failed ? missing : room.work[at] > 0 || begun ? day(room.s[at]) : last_day(room.s[at]);
      }
      if (asked.finish) asked.finish[to] = failed ? missing : last_day(room.f[at]);
      if (asked.driver) asked.driver[to] = failed ? 0 : room.driver[at];
      if (asked.longer) asked.longer[to] = failed || over ? missing : longer_by(i, lane, room);
    }
    if (asked.total) total_floats(i, first, count, room, asked.total);
  }
  if (free) {
    backward(first, count, missing, true, room);
    for (std::size_t i = 0; i < tasks.size(); ++i) {
      if (!result.tasks[i].free) continue;
      for (std::size_t lane = 0; lane < count; ++lane) {
        const std::size_t at = i * lanes + lane;
        result.tasks[i].free[first + lane] = room.failed[lane] || is_there(tasks[i].finished) ? missing
            : room.work[at] == 0 ? (room.late_start[at] - room.f[at]) / day_length
            : (room.late_done[at] - room.done[at]) / calendar_at(tasks[i].calendar, lane, room).workday();
      }
    }
  }
  if (chains) {
    chain(first, count, room);
    for (std::size_t i = 0; i < tasks.size(); ++i) {
      if (!result.tasks[i].critical) continue;
      for (std::size_t lane = 0; lane < count; ++lane) {
        const std::size_t at = i * lanes + lane;
        result.tasks[i].critical[first + lane] = !room.failed[lane] && (room.by_start[at] || room.by_finish[at]);
      }
    }
  }
}

// By how many days of work a task may start later, and take longer.
void Schedule::total_floats(std::size_t i, std::size_t run, std::size_t count, const Room& room, double* out) const {
  const std::size_t at = i * lanes;
  const double *work = &room.work[at], *u = &room.u[at], *late_finish = &room.late_finish[at], *late_done = &room.late_done[at],
               *done = &room.done[at];
  const bool over = is_there(tasks[i].finished);
  const double workday = calendars[tasks[i].calendar].workday();
  for (std::size_t lane = 0; lane < count; ++lane) {
    double slack = late_done[lane] - done[lane];
    if (work[lane] > 0 && u[lane] > late_finish[lane]) {
      const Calendar& calendar = calendar_at(tasks[i].calendar, lane, room);
      slack = std::min(slack, calendar.done(late_finish[lane]) - calendar.done(u[lane]));
    }
    out[run + lane] = work[lane] > 0 ? slack / workday : (room.late_start[at + lane] - room.f[at + lane]) / day_length;
    if (over || room.failed[lane] > 0) out[run + lane] = std::numeric_limits<double>::quiet_NaN();
  }
}

double Schedule::longer_by(std::size_t i, std::size_t lane, const Room& room) const {
  const std::size_t at = i * lanes + lane;
  const Calendar& calendar = calendar_at(tasks[i].calendar, lane, room);
  const double last = calendar.done(room.late_finish[at]);
  double slack = room.work[at] == 0 ? last - calendar.done(room.f[at]) : last - room.done[at] - room.work[at];
  if (room.work[at] > 0 && room.u[at] > room.late_finish[at]) slack = std::min(slack, last - calendar.done(room.u[at]));
  return slack / calendar.workday();
}

void Schedule::run(std::size_t count, const Result& result, double limit, unsigned threads) const {
  const std::size_t piece = 32 * lanes, pieces = (count + piece - 1) / piece;
  std::vector<Room> rooms(std::max(threads, 1u));
  share_out_to_workers(pieces, threads, [&](std::size_t k, std::size_t worker) {
    Room& room = rooms[worker];
    if (room.t.empty()) {
      for (auto* each : {&room.t, &room.s, &room.f, &room.u, &room.done, &room.work, &room.late_start, &room.late_finish, &room.late_done}) {
        each->assign(tasks.size() * lanes, 0);
      }
      room.by_start.assign(tasks.size() * lanes, 0);
      room.by_finish.assign(tasks.size() * lanes, 0);
      room.driver.assign(tasks.size() * lanes, 0);
      if (std::count(changing_.begin(), changing_.end(), 1)) {
        for (const Calendar& calendar : calendars) room.changed.insert(room.changed.end(), lanes, calendar);
      }
    }
    const std::size_t end = std::min(count, (k + 1) * piece);
    for (std::size_t from = k * piece; from < end; from += lanes) {
      block(from, std::min(lanes, end - from), result, limit, room);
    }
  });
}

}  // namespace ensayo
