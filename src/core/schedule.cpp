#include "exact.h"
#include "schedule.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <limits>

#include "threads.h"

namespace ensayo {

namespace {

const double never = std::numeric_limits<double>::infinity();

// The nearest whole number, of numbers that have any digits after the point: as the sum's last bit is a whole one.
inline double whole(double x) {
  const double shift = 6755399441055744;  // 1.5 times 2^52
  return std::fabs(x) < 2e15 ? (x + shift) - shift : x;
}

double instant(double days) { return whole(days * day_length); }

bool is_there(double x) { return x == x; }

bool may_be_there(const RunValue& value) { return value.column || is_there(value.constant); }

// A generator for what order days are lost in: splitmix64 (Steele, Lea and Flood 2014), from the bits of a uniform number.
std::uint64_t next_word(std::uint64_t& state) {
  std::uint64_t z = (state += 0x9E3779B97F4A7C15u);
  z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9u;
  z = (z ^ (z >> 27)) * 0x94D049BB133111EBu;
  return z ^ (z >> 31);
}

}  // namespace

// What a thread keeps of the runs at hand, which go through the network together: task by task, a place for each run.
constexpr std::size_t lanes = 16;

struct Schedule::Room {
  std::vector<double> t, s, f, u, done, work, late_start, late_finish, late_done;
  std::vector<unsigned char> by_start, by_finish;
  std::vector<int> driver;
  bool starts = false;  // every task's start is asked for
  std::vector<Calendar> changed;                 // of calendars that differ from run to run
  std::vector<std::size_t> worked;
  std::vector<unsigned char> closed;
  double finish[lanes];
  int failed[lanes];
};

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
    plain_[i] = !may_be_there(task.not_before) && !may_be_there(task.finish_not_before) && !may_be_there(task.latest_finish) &&
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
    room.closed.assign(own.days(), 0);
    for (const Closure& each : closures) {
      if (each.calendar != c) continue;
      const double days = each.days.at(run);
      if (!(days > 0)) continue;
      const double from = std::floor(each.from.at(run)), to = from + std::ceil(days);
      const double last = std::min(to, static_cast<double>(own.days()));
      for (double day = std::max(from, 0.0); day < last; ++day) room.closed[static_cast<std::size_t>(day)] = 1;
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
        room.closed[room.worked[i]] = 1;
      }
    }
    room.worked.clear();
    for (std::size_t day = 0; day < room.closed.size(); ++day) if (room.closed[day]) room.worked.push_back(day);
    room.changed[c * lanes + lane].close(room.worked);
  }
}

inline const Calendar& Schedule::calendar_at(std::size_t calendar, std::size_t lane, const Room& room) const {
  return changing_[calendar] ? room.changed[calendar * lanes + lane] : calendars[calendar];
}

double Schedule::bound_of(const TaskLink& link, std::size_t run, std::size_t lane, const Room& room) const {
  const std::size_t at = link.from * lanes + lane;
  const double from = link.from_start ? room.s[at] : room.f[at];
  switch (link.lag) {
    case TaskLink::none: return from;
    case TaskLink::elapsed: return from + instant(link.length.at(run));
    case TaskLink::working: {
      const double length = link.length.at(run);
      if (length == 0) return from;
      const Calendar& calendar = calendar_at(tasks[link.to].calendar, lane, room);
      return calendar.earliest(calendar.done(from) + whole(length * calendar.workday()));
    }
    case TaskLink::share: {
      const Task& task = tasks[link.from];
      const double open = room.work[at], all = task.left > 0 ? open / task.left : 0;
      const double to_do = whole(all * link.length.at(run) - (all - open));
      if (!(to_do > 0)) return room.s[at];
      return calendar_at(task.calendar, lane, room).earliest(room.done[at] + to_do);
    }
  }
  return from;
}

void Schedule::forward(std::size_t run, std::size_t count, Room& room) const {
  const double begin = instant(std::max(start, status));
  for (std::size_t lane = 0; lane < count; ++lane) {
    room.finish[lane] = -never;
    room.failed[lane] = 0;
  }
  for (std::size_t i = 0; i < tasks.size(); ++i) {
    const Task& task = tasks[i];
    const std::size_t at = i * lanes;
    double *t = &room.t[at], *u = &room.u[at], *s = &room.s[at], *f = &room.f[at], *work = &room.work[at], *done = &room.done[at];
    int* driver = &room.driver[at];
    bool held = false;  // something bounds the finish
    for (std::size_t lane = 0; lane < count; ++lane) {
      t[lane] = begin;
      u[lane] = -never;
      driver[lane] = 0;
    }
    if (!plain_[i]) {
      for (std::size_t lane = 0; lane < count; ++lane) {
        if (may_be_there(task.not_before)) {
          const double bound = instant(task.not_before.at(run + lane));
          if (bound > t[lane]) t[lane] = bound;
        }
        if (may_be_there(task.finish_not_before)) {
          u[lane] = instant(task.finish_not_before.at(run + lane));
          held = true;
        }
      }
    }
    for (std::size_t k = in_first_[i]; k < in_first_[i + 1]; ++k) {
      const TaskLink& link = links[k];
      const int from = static_cast<int>(link.from) + 1;
      double bounds[lanes];
      const double* bound = link.from_start ? &room.s[link.from * lanes] : &room.f[link.from * lanes];
      if (link.lag != TaskLink::none) {
        for (std::size_t lane = 0; lane < count; ++lane) bounds[lane] = bound_of(link, run + lane, lane, room);
        bound = bounds;
      }
      if (link.to_finish) {
        held = true;
        for (std::size_t lane = 0; lane < count; ++lane) if (bound[lane] > u[lane]) u[lane] = bound[lane];
      } else {
        for (std::size_t lane = 0; lane < count; ++lane) {
          if (bound[lane] > t[lane]) {
            t[lane] = bound[lane];
            driver[lane] = from;
          }
        }
      }
    }
    const bool finished = !plain_[i] && is_there(task.finished), begun = !plain_[i] && is_there(task.started);
    const bool starts = needs_start_[i] || room.starts;
    for (std::size_t lane = 0; lane < count; ++lane) {
      const Calendar& calendar = calendar_at(task.calendar, lane, room);
      double own = task.milestone ? 0 : whole(task.work.at(run + lane) * task.left * calendar.workday());
      if (!(own >= 0 && own < 1e15)) {
        if (!room.failed[lane]) room.failed[lane] = static_cast<int>(i) + 1;
        own = 0;
      }
      if (finished) {
        f[lane] = instant(task.finished);
        s[lane] = t[lane] = begun ? instant(task.started) : f[lane];
        own = 0;
        u[lane] = -never;
        driver[lane] = 0;
        done[lane] = 0;
      } else if (own == 0) {
        s[lane] = f[lane] = std::max(t[lane], u[lane]);
        done[lane] = 0;
        if (u[lane] > t[lane]) driver[lane] = 0;
      } else {
        done[lane] = calendar.done(t[lane]);
        const double finish = calendar.earliest(done[lane] + own);
        f[lane] = std::max(finish, u[lane]);
        if (u[lane] > finish) driver[lane] = 0;
        s[lane] = starts ? calendar.next(done[lane]) : t[lane];
      }
      if (begun) s[lane] = instant(task.started);
      work[lane] = own;
      if (held && driver[lane] == 0 && f[lane] == u[lane]) {
        for (std::size_t k = in_first_[i]; k < in_first_[i + 1] && driver[lane] == 0; ++k) {
          if (links[k].to_finish && bound_of(links[k], run + lane, lane, room) == u[lane]) driver[lane] = static_cast<int>(links[k].from) + 1;
        }
      }
      if (f[lane] > room.finish[lane]) room.finish[lane] = f[lane];
    }
  }
}

// The latest instant of the link's beginning that keeps the bound.
double Schedule::latest_from(const TaskLink& link, double bound, std::size_t run, std::size_t lane, const Room& room) const {
  switch (link.lag) {
    case TaskLink::elapsed: return bound - instant(link.length.at(run));
    case TaskLink::working: {
      const double length = link.length.at(run);
      if (length == 0) return bound;
      const Calendar& calendar = calendar_at(tasks[link.to].calendar, lane, room);
      return calendar.next(calendar.done(bound) - whole(length * calendar.workday()));
    }
    default: return bound;
  }
}

// From the last task to the first: the latest instants of being ready and of finishing that move nothing beyond `limit`, NaN for each
// run's own finish, or with `with_free` nothing at all. Of a task with work `late_done` is the working time up to the first.
void Schedule::backward(std::size_t run, std::size_t count, double limit, bool with_free, Room& room) const {
  for (std::size_t i = tasks.size(); i-- > 0;) {
    const Task& task = tasks[i];
    const std::size_t at = i * lanes;
    double *late_finish = &room.late_finish[at], *late_start = &room.late_start[at];
    const double* work = &room.work[at];
    if (!plain_[i] && is_there(task.finished)) {
      std::fill(late_start, late_start + count, never);
      std::fill(late_finish, late_finish + count, never);
      continue;
    }
    const bool begun = !plain_[i] && is_there(task.started);
    double ready[lanes];
    const auto start_by = [&](std::size_t lane, double bound) {
      if (work[lane] == 0) {
        late_finish[lane] = std::min(late_finish[lane], bound);
        return;
      }
      const Calendar& calendar = calendar_at(task.calendar, lane, room);
      const double done = calendar.done(bound);
      ready[lane] = std::min(ready[lane], calendar.next(done) == bound ? done : done - 1);
    };
    for (std::size_t lane = 0; lane < count; ++lane) {
      late_finish[lane] = is_there(limit) ? limit : room.finish[lane];
      ready[lane] = never;
      if (with_free || plain_[i]) continue;
      if (may_be_there(task.latest_finish)) {
        late_finish[lane] = std::min(late_finish[lane], instant(task.latest_finish.at(run + lane)));
      }
      if (may_be_there(task.latest_start) && !begun) start_by(lane, instant(task.latest_start.at(run + lane)));
    }
    for (std::size_t k = out_first_[i]; k < out_first_[i + 1]; ++k) {
      const TaskLink& link = links[out_[k]];
      if (!plain_[link.to] && is_there(tasks[link.to].finished)) continue;
      const double* bound = with_free ? (link.to_finish ? &room.f[link.to * lanes] : &room.s[link.to * lanes])
                                      : (link.to_finish ? &room.late_finish[link.to * lanes] : &room.late_start[link.to * lanes]);
      if (link.lag == TaskLink::none && !link.from_start) {
        for (std::size_t lane = 0; lane < count; ++lane) if (bound[lane] < late_finish[lane]) late_finish[lane] = bound[lane];
        continue;
      }
      for (std::size_t lane = 0; lane < count; ++lane) {
        if (link.lag == TaskLink::share && work[lane] > 0) {
          const double all = work[lane] / task.left;
          const double to_do = whole(all * link.length.at(run + lane) - (all - work[lane]));
          if (to_do > 0) ready[lane] = std::min(ready[lane], calendar_at(task.calendar, lane, room).done(bound[lane]) - to_do);
          continue;
        }
        const double latest = latest_from(link, bound[lane], run + lane, lane, room);
        if (!link.from_start) late_finish[lane] = std::min(late_finish[lane], latest);
        else if (!begun) start_by(lane, latest);
      }
    }
    for (std::size_t lane = 0; lane < count; ++lane) {
      if (work[lane] == 0) {
        late_start[lane] = late_finish[lane];
        continue;
      }
      const Calendar& calendar = calendar_at(task.calendar, lane, room);
      const double done = std::min(ready[lane], calendar.done(late_finish[lane]) - work[lane]);
      room.late_done[at + lane] = done;
      late_start[lane] = calendar.next(done);
    }
  }
}

// Which tasks are on a chain of links that drive, from the last finish back.
void Schedule::chain(std::size_t run, std::size_t count, Room& room) const {
  const std::size_t n = tasks.size();
  std::fill(room.by_start.begin(), room.by_start.end(), 0);
  for (std::size_t i = 0; i < n; ++i) {
    for (std::size_t lane = 0; lane < count; ++lane) room.by_finish[i * lanes + lane] = room.f[i * lanes + lane] == room.finish[lane];
  }
  for (std::size_t i = n; i-- > 0;) {
    const Task& task = tasks[i];
    if (!plain_[i] && is_there(task.finished)) continue;
    for (std::size_t lane = 0; lane < count; ++lane) {
      const std::size_t at = i * lanes + lane;
      if (!room.by_start[at] && !room.by_finish[at]) continue;
      const Calendar& calendar = calendar_at(task.calendar, lane, room);
      const bool works = room.work[at] > 0;
      const double ready = works ? room.done[at] : room.t[at];
      const double held = room.u[at] == -never ? -never : works ? calendar.done(room.u[at]) : room.u[at];
      const bool by_ready = room.by_start[at] || held <= ready + room.work[at];
      const bool by_held = room.by_finish[at] && held >= ready + room.work[at];
      for (std::size_t k = in_first_[i]; k < in_first_[i + 1]; ++k) {
        const TaskLink& link = links[k];
        if (link.to_finish ? !by_held : !by_ready) continue;
        const double bound = bound_of(link, run + lane, lane, room);
        if ((works ? calendar.done(bound) : bound) != (link.to_finish ? held : ready)) continue;
        if (link.from_start || link.lag == TaskLink::share) room.by_start[link.from * lanes + lane] = 1;
        else room.by_finish[link.from * lanes + lane] = 1;
      }
    }
  }
}

// Runs from `first` on, whose results stand from `place` on.
void Schedule::block(std::size_t first, std::size_t count, std::size_t place, const Result& result, double limit, Room& room) const {
  bool late = false, free = false, chains = false;
  room.starts = false;
  for (const Asked& asked : result.tasks) {
    late = late || asked.total || asked.longer;
    free = free || asked.free;
    chains = chains || asked.critical;
    room.starts = room.starts || asked.start || asked.free;
  }
  const double shown = dated ? 1 : 0, missing = std::numeric_limits<double>::quiet_NaN(), begin = instant(start);
  const auto day = [&](double at) { return dated ? day_zero + std::floor(at / day_length) : (at - begin) / day_length; };
  // the day of a finish is that which ends with it, but not before the schedule starts
  const auto finish_day = [&](double at) { return day(at > begin ? at - shown : at); };
  for (std::size_t lane = 0; lane < count; ++lane) set_calendars(first + lane, lane, room);
  forward(first, count, room);
  for (std::size_t lane = 0; lane < count; ++lane) {
    const bool failed = room.failed[lane] > 0;
    const std::size_t to = place + lane;
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
  if (late) backward(first, count, is_there(limit) ? begin + instant(limit) : limit, false, room);
  for (std::size_t i = 0; i < tasks.size(); ++i) {
    const Asked& asked = result.tasks[i];
    const bool over = is_there(tasks[i].finished), begun = is_there(tasks[i].started);
    for (std::size_t lane = 0; lane < count; ++lane) {
      const std::size_t at = i * lanes + lane, to = place + lane;
      const bool failed = room.failed[lane] > 0;
      if (asked.start) {
        asked.start[to] = failed ? missing : room.work[at] > 0 || begun ? day(room.s[at]) : finish_day(room.s[at]);
      }
      if (asked.finish) asked.finish[to] = failed ? missing : finish_day(room.f[at]);
      if (asked.driver) asked.driver[to] = failed ? 0 : room.driver[at];
      if (asked.total) asked.total[to] = failed || over ? missing : total_float(i, lane, room);
      if (asked.longer) asked.longer[to] = failed || over ? missing : longer_by(i, lane, room);
    }
  }
  if (free) {
    backward(first, count, missing, true, room);
    for (std::size_t i = 0; i < tasks.size(); ++i) {
      if (!result.tasks[i].free) continue;
      for (std::size_t lane = 0; lane < count; ++lane) {
        const std::size_t at = i * lanes + lane;
        result.tasks[i].free[place + lane] = room.failed[lane] || is_there(tasks[i].finished) ? missing
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
        result.tasks[i].critical[place + lane] = !room.failed[lane] && (room.by_start[at] || room.by_finish[at]);
      }
    }
  }
}

// By how many days of work a task may start later, and take longer.
double Schedule::total_float(std::size_t i, std::size_t lane, const Room& room) const {
  const std::size_t at = i * lanes + lane;
  if (room.work[at] == 0) return (room.late_start[at] - room.f[at]) / day_length;
  const Calendar& calendar = calendar_at(tasks[i].calendar, lane, room);
  double slack = room.late_done[at] - room.done[at];
  if (room.u[at] > room.late_finish[at]) slack = std::min(slack, calendar.done(room.late_finish[at]) - calendar.done(room.u[at]));
  return slack / calendar.workday();
}

double Schedule::longer_by(std::size_t i, std::size_t lane, const Room& room) const {
  const std::size_t at = i * lanes + lane;
  const Calendar& calendar = calendar_at(tasks[i].calendar, lane, room);
  const double last = calendar.done(room.late_finish[at]);
  double slack = room.work[at] == 0 ? last - calendar.done(room.f[at]) : last - room.done[at] - room.work[at];
  if (room.work[at] > 0 && room.u[at] > room.late_finish[at]) slack = std::min(slack, last - calendar.done(room.u[at]));
  return slack / calendar.workday();
}

void Schedule::run(std::size_t first, std::size_t count, const Result& result, double limit, unsigned threads) const {
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
      block(first + from, std::min(lanes, end - from), from, result, limit, room);
    }
  });
}

}  // namespace ensayo
