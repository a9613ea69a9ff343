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

// What a thread keeps of the run at hand.
struct Schedule::Room {
  std::vector<double> t, s, f, u, done, work, late_start, late_finish, late_done;
  bool starts = false;  // every task's start is asked for
  std::vector<unsigned char> by_start, by_finish;
  std::vector<int> driver;
  std::vector<const Calendar*> calendar;
  std::vector<Calendar> changed;
  std::vector<std::size_t> worked;
  std::vector<unsigned char> closed;
  double finish = 0;
  int failed = 0;
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
  changing_.assign(calendars.size(), false);
  for (const Closure& each : closures) changing_[each.calendar] = true;
  for (const LostDays& each : lost) changing_[each.calendar] = true;
}

void Schedule::set_calendars(std::size_t run, Room& room) const {
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
    room.changed[c].close(room.worked);
  }
}

double Schedule::bound_of(const TaskLink& link, std::size_t run, const Room& room) const {
  const double from = link.from_start ? room.s[link.from] : room.f[link.from];
  switch (link.lag) {
    case TaskLink::none: return from;
    case TaskLink::elapsed: return from + instant(link.length.at(run));
    case TaskLink::working: {
      const double length = link.length.at(run);
      if (length == 0) return from;
      const Calendar& calendar = *room.calendar[tasks[link.to].calendar];
      return calendar.earliest(calendar.done(from) + whole(length * calendar.workday()));
    }
    case TaskLink::share: {
      const Task& task = tasks[link.from];
      const double open = room.work[link.from], all = task.left > 0 ? open / task.left : 0;
      const double to_do = whole(all * link.length.at(run) - (all - open));
      if (!(to_do > 0)) return room.s[link.from];
      return room.calendar[task.calendar]->earliest(room.done[link.from] + to_do);
    }
  }
  return from;
}

void Schedule::forward(std::size_t run, Room& room) const {
  const double begin = instant(std::max(start, status));
  room.finish = -never;
  room.failed = 0;
  for (std::size_t i = 0; i < tasks.size(); ++i) {
    const Task& task = tasks[i];
    const Calendar& calendar = *room.calendar[task.calendar];
    double t = begin, u = -never;
    int driver = 0;
    if (!plain_[i]) {
      if (may_be_there(task.not_before)) {
        const double bound = instant(task.not_before.at(run));
        if (bound > t) t = bound;
      }
      if (may_be_there(task.finish_not_before)) u = instant(task.finish_not_before.at(run));
    }
    for (std::size_t k = in_first_[i]; k < in_first_[i + 1]; ++k) {
      const double bound = bound_of(links[k], run, room);
      if (links[k].to_finish) {
        if (bound > u) u = bound;
      } else if (bound > t) {
        t = bound;
        driver = static_cast<int>(links[k].from) + 1;
      }
    }
    double work = task.milestone ? 0 : whole(task.work.at(run) * task.left * calendar.workday());
    if (!(work >= 0 && work < 1e15)) {
      if (!room.failed) room.failed = static_cast<int>(i) + 1;
      work = 0;
    }
    double s, f;
    if (!plain_[i] && is_there(task.finished)) {
      f = instant(task.finished);
      s = t = is_there(task.started) ? instant(task.started) : f;
      work = 0;
      u = -never;
      driver = 0;
      room.done[i] = 0;
    } else if (work == 0) {
      s = f = std::max(t, u);
      room.done[i] = 0;
    } else {
      const double done = calendar.done(t);
      const double own = calendar.earliest(done + work);
      f = std::max(own, u);
      if (u >= own) driver = 0;
      s = needs_start_[i] || room.starts ? calendar.next(done) : t;
      room.done[i] = done;
    }
    if (driver == 0 && u > -never && f == u) {
      for (std::size_t k = in_first_[i]; k < in_first_[i + 1] && driver == 0; ++k) {
        if (links[k].to_finish && bound_of(links[k], run, room) == u) driver = static_cast<int>(links[k].from) + 1;
      }
    }
    if (!plain_[i] && is_there(task.started)) s = instant(task.started);
    room.t[i] = t;
    room.s[i] = s;
    room.f[i] = f;
    room.u[i] = u;
    room.work[i] = work;
    room.driver[i] = driver;
    if (f > room.finish) room.finish = f;
  }
}

// The latest instant of the link's beginning that keeps the bound.
double Schedule::latest_from(const TaskLink& link, double bound, std::size_t run, const Room& room) const {
  switch (link.lag) {
    case TaskLink::elapsed: return bound - instant(link.length.at(run));
    case TaskLink::working: {
      const double length = link.length.at(run);
      if (length == 0) return bound;
      const Calendar& calendar = *room.calendar[tasks[link.to].calendar];
      return calendar.next(calendar.done(bound) - whole(length * calendar.workday()));
    }
    default: return bound;
  }
}

// From the last task to the first: the latest instants of being ready and of finishing that move nothing beyond `limit`, or with
// `with_free` nothing at all. Of a task with work `late_done` is the working time up to the first.
void Schedule::backward(std::size_t run, double limit, bool with_free, Room& room) const {
  for (std::size_t i = tasks.size(); i-- > 0;) {
    const Task& task = tasks[i];
    if (!plain_[i] && is_there(task.finished)) {
      room.late_start[i] = room.late_finish[i] = never;
      continue;
    }
    const Calendar& calendar = *room.calendar[task.calendar];
    const double work = room.work[i];
    const bool begun = !plain_[i] && is_there(task.started);
    double finish = limit, ready = never;
    const auto start_by = [&](double at) {
      if (work == 0) {
        finish = std::min(finish, at);
        return;
      }
      const double done = calendar.done(at);
      ready = std::min(ready, calendar.next(done) == at ? done : done - 1);
    };
    if (!with_free && !plain_[i]) {
      if (may_be_there(task.latest_finish)) finish = std::min(finish, instant(task.latest_finish.at(run)));
      if (may_be_there(task.latest_start) && !begun) start_by(instant(task.latest_start.at(run)));
    }
    for (std::size_t k = out_first_[i]; k < out_first_[i + 1]; ++k) {
      const TaskLink& link = links[out_[k]];
      const double bound = with_free ? (link.to_finish ? room.f[link.to] : room.s[link.to])
                                     : (link.to_finish ? room.late_finish[link.to] : room.late_start[link.to]);
      if (bound == never || (!plain_[link.to] && is_there(tasks[link.to].finished))) continue;
      if (link.lag == TaskLink::share && work > 0) {
        const double all = work / task.left;
        const double to_do = whole(all * link.length.at(run) - (all - work));
        if (to_do > 0) ready = std::min(ready, calendar.done(bound) - to_do);
        continue;
      }
      const double at = latest_from(link, bound, run, room);
      if (!link.from_start) finish = std::min(finish, at);
      else if (!begun) start_by(at);
    }
    room.late_finish[i] = finish;
    if (work == 0) {
      room.late_start[i] = finish;
      continue;
    }
    room.late_done[i] = std::min(ready, calendar.done(finish) - work);
    room.late_start[i] = calendar.next(room.late_done[i]);
  }
}

// Which tasks are on a chain of links that drive, from the last finish back.
void Schedule::chain(std::size_t run, Room& room) const {
  const std::size_t n = tasks.size();
  std::fill(room.by_start.begin(), room.by_start.end(), 0);
  for (std::size_t i = 0; i < n; ++i) room.by_finish[i] = room.f[i] == room.finish;
  for (std::size_t i = n; i-- > 0;) {
    if (!room.by_start[i] && !room.by_finish[i]) continue;
    const Task& task = tasks[i];
    if (is_there(task.finished)) continue;
    const Calendar& calendar = *room.calendar[task.calendar];
    const bool works = room.work[i] > 0;
    const double ready = works ? room.done[i] : room.t[i];
    const double held = room.u[i] == -never ? -never : works ? calendar.done(room.u[i]) : room.u[i];
    const bool by_ready = room.by_start[i] || held <= ready + room.work[i];
    const bool by_held = room.by_finish[i] && held >= ready + room.work[i];
    for (std::size_t k = in_first_[i]; k < in_first_[i + 1]; ++k) {
      const TaskLink& link = links[k];
      if (link.to_finish ? !by_held : !by_ready) continue;
      const double bound = bound_of(link, run, room);
      const double at = works ? calendar.done(bound) : bound;
      if (at != (link.to_finish ? held : ready)) continue;
      if (link.from_start || link.lag == TaskLink::share) room.by_start[link.from] = 1;
      else room.by_finish[link.from] = 1;
    }
  }
}

void Schedule::block(std::size_t first, std::size_t count, std::size_t place, const Result& result, double limit, Room& room) const {
  bool late = false, free = false, chains = false, each = false;
  for (const Asked& asked : result.tasks) {
    late = late || asked.total || asked.longer;
    free = free || asked.free;
    chains = chains || asked.critical;
    each = each || asked.start || asked.finish || asked.driver;
  }
  const double shown = dated ? 1 : 0, missing = std::numeric_limits<double>::quiet_NaN();
  const auto day = [&](double at) { return dated ? day_zero + std::floor(at / day_length) : (at - instant(start)) / day_length; };
  room.starts = free;
  for (const Asked& asked : result.tasks) room.starts = room.starts || asked.start;
  for (std::size_t r = 0; r < count; ++r) {
    const std::size_t run = first + r, to = place + r;
    set_calendars(run, room);
    forward(run, room);
    if (result.failed) (*result.failed)[to] = room.failed;
    const bool failed = room.failed > 0;
    // the day of a finish is that which ends with it, but not before the schedule starts
    const auto finish_day = [&](double at) { return day(at > instant(start) ? at - shown : at); };
    if (result.finish) result.finish[to] = failed ? missing : finish_day(room.finish);
    if (result.exact) result.exact[to] = failed ? missing : (room.finish - instant(start)) / day_length;
    if (late) backward(run, is_there(limit) ? instant(start) + instant(limit) : room.finish, false, room);
    for (std::size_t i = 0; (late || each) && i < tasks.size(); ++i) {
      const Asked& asked = result.tasks[i];
      if (asked.start) {
        asked.start[to] = failed ? missing : room.work[i] > 0 || is_there(tasks[i].started) ? day(room.s[i]) : finish_day(room.s[i]);
      }
      if (asked.finish) asked.finish[to] = failed ? missing : finish_day(room.f[i]);
      if (asked.driver) asked.driver[to] = failed ? 0 : room.driver[i];
      if (!asked.total && !asked.longer) continue;
      if (failed || is_there(tasks[i].finished)) {
        if (asked.total) asked.total[to] = missing;
        if (asked.longer) asked.longer[to] = missing;
        continue;
      }
      const Calendar& calendar = *room.calendar[tasks[i].calendar];
      const double work = room.work[i], finish = room.late_finish[i];
      double total, longer;
      if (work == 0) {
        total = (room.late_start[i] - room.f[i]) / day_length;
        longer = (calendar.done(finish) - calendar.done(room.f[i])) / calendar.workday();
      } else {
        total = room.late_done[i] - room.done[i];
        longer = calendar.done(finish) - room.done[i] - work;
        if (room.u[i] > finish) {
          const double held = calendar.done(finish) - calendar.done(room.u[i]);
          total = std::min(total, held);
          longer = std::min(longer, held);
        }
        total /= calendar.workday();
        longer /= calendar.workday();
      }
      if (asked.total) asked.total[to] = total;
      if (asked.longer) asked.longer[to] = longer;
    }
    if (free) {
      backward(run, room.finish, true, room);
      for (std::size_t i = 0; i < tasks.size(); ++i) {
        if (!result.tasks[i].free) continue;
        const Calendar& calendar = *room.calendar[tasks[i].calendar];
        result.tasks[i].free[to] = failed || is_there(tasks[i].finished) ? missing
            : room.work[i] == 0 ? (room.late_start[i] - room.f[i]) / day_length
            : (room.late_done[i] - room.done[i]) / calendar.workday();
      }
    }
    if (result.paths) {
      std::vector<int>& path = (*result.paths)[to];
      std::size_t at = tasks.size();
      while (at > 0 && room.f[at - 1] != room.finish) --at;
      for (int next = static_cast<int>(at); next > 0 && !failed; next = room.driver[static_cast<std::size_t>(next) - 1]) {
        path.push_back(next - 1);
      }
    }
    if (chains) {
      chain(run, room);
      for (std::size_t i = 0; i < tasks.size(); ++i) {
        if (result.tasks[i].critical) result.tasks[i].critical[to] = !failed && (room.by_start[i] || room.by_finish[i]);
      }
    }
  }
}

void Schedule::run(std::size_t first, std::size_t count, const Result& result, double limit, unsigned threads) const {
  const std::size_t piece = 512, pieces = (count + piece - 1) / piece;
  std::vector<Room> rooms(std::max(threads, 1u));
  share_out_to_workers(pieces, threads, [&](std::size_t k, std::size_t worker) {
    Room& room = rooms[worker];
    if (room.t.size() != tasks.size() || room.calendar.empty()) {
      for (auto* each : {&room.t, &room.s, &room.f, &room.u, &room.done, &room.work, &room.late_start, &room.late_finish, &room.late_done}) {
        each->assign(tasks.size(), 0);
      }
      room.by_start.assign(tasks.size(), 0);
      room.by_finish.assign(tasks.size(), 0);
      room.driver.assign(tasks.size(), 0);
      room.changed = calendars;
      for (std::size_t c = 0; c < calendars.size(); ++c) room.calendar.push_back(changing_[c] ? &room.changed[c] : &calendars[c]);
    }
    const std::size_t from = k * piece;
    block(first + from, std::min(piece, count - from), from, result, limit, room);
  });
}

}  // namespace ensayo
