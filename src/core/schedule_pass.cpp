#include "exact.h"
#include "schedule_room.h"

#include <algorithm>

namespace ensayo {

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
        if (!may_be_there(task.not_before)) continue;
        const double bound = instant(task.not_before.at(run + lane));
        if (bound > t[lane]) t[lane] = bound;
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

}  // namespace ensayo
