// Schedules: tasks with links and calendars, forward and backward through blocks of runs.
//
// t is when a task is ready, s its start, f its finish; d its work. W is the working time up to an instant in the task's
// calendar, T- the earliest instant with so much done, T+ the next working one (calendar.h). Forward
//   t = the latest of the schedule's start, "not before" and what links to the start say
//   u = the latest of what links to the finish say
//   f = max(T-(W(t) + d), u), s = T+(W(t)); without work f = s = max(t, u)
// so that a link to the finish stretches a task and never moves its start. Backward the same bounds are turned round.
#ifndef ENSAYO_CORE_SCHEDULE_H
#define ENSAYO_CORE_SCHEDULE_H

#include <cstddef>
#include <cstdint>
#include <vector>

#include "calendar.h"

namespace ensayo {

// A number for each run, or the same for all.
struct RunValue {
  const double* column = nullptr;
  double constant = 0;
  double at(std::size_t run) const { return column ? column[run] : constant; }
};

// Links begin at a task's start or finish and bound another's start or finish. A lag is working time of the later task's
// calendar, in its days of work, elapsed days, or a share of the earlier task's work, counted from its start.
struct TaskLink {
  enum Lag { none, working, elapsed, share };
  std::size_t from, to;
  bool from_start, to_finish;
  Lag lag;
  RunValue length;
};

// Dates are days from day 0, NaN where there is none.
struct Task {
  std::size_t calendar = 0;
  bool milestone = false;
  RunValue work;                              // in days of work of its calendar
  RunValue not_before;                        // binds the start
  RunValue latest_finish, latest_start;       // bind nothing but late dates
  double started = 0, finished = 0;           // what has happened, NaN where it has not; instants in days
  double left = 1;                            // the share of the work that is to do
};

// What makes days of a calendar free in some runs.
struct Closure {
  std::size_t calendar;
  RunValue from, days;                        // from a day on, so many; none where 0
};
struct LostDays {
  std::size_t calendar;
  std::size_t first, last;                    // of a stretch of days
  RunValue lost;                              // how many worked ones of it are lost
  RunValue order;                             // a uniform number: which ones
};

// Money that a task, or with `whole` the project from start to finish, pays: evenly over its working time, or at an end; `lag` elapsed
// days later.
struct Payment {
  enum When { spread, at_start, at_finish };
  std::size_t task = 0;
  bool whole = false;
  When when = spread;
  double lag = 0;
  RunValue amount;
};

class Schedule {
 public:
  // Tasks in an order in which each comes after those it is linked from.
  std::vector<Task> tasks;
  std::vector<TaskLink> links;
  std::vector<Calendar> calendars;
  std::vector<Closure> closures;
  std::vector<LostDays> lost;
  std::vector<Payment> payments;
  double start = 0, status = 0;               // in days from day 0; what is to do is done from the status on
  bool dated = false;                         // times are shown as whole days of a calendar: `day_zero` and on
  double day_zero = 0;

  // Where to put what is asked of a task: a number for each run, null for what is not.
  struct Asked {
    double *start = nullptr, *finish = nullptr, *total = nullptr, *free = nullptr, *longer = nullptr;
    int *critical = nullptr, *driver = nullptr;
  };
  struct Result {
    std::vector<Asked> tasks;
    double* finish = nullptr;                 // of the schedule
    double* exact = nullptr;                  // the same in days from the schedule's start, to the millisecond
    std::vector<std::vector<int>>* paths = nullptr;  // of each run the tasks of a critical path, from the last to the first
    std::vector<int>* failed = nullptr;       // of each run 0, or 1 + the first task whose work is not a number from 0 on
    // Periods of money, by their ends in days from day 0; of each what is paid in it: a number for each run, or null. What comes after
    // the last end is no period's.
    std::vector<double> ends;
    std::vector<double*> paid;
  };
  // `limit`: an instant in days from the schedule's start that floats are counted to; NaN for each run's own finish.
  void run(std::size_t count, const Result& result, double limit, unsigned threads) const;

  void prepare();                             // once all is there

 private:
  struct Room;
  void block(std::size_t first, std::size_t count, const Result& result, double limit, Room& room) const;
  void forward(std::size_t run, std::size_t count, Room& room) const;
  void backward(std::size_t run, std::size_t count, double limit, bool with_free, Room& room) const;
  void chain(std::size_t run, std::size_t count, Room& room) const;
  void pay(std::size_t run, std::size_t count, const Result& result, Room& room) const;
  void set_calendars(std::size_t run, std::size_t lane, Room& room) const;
  const Calendar& calendar_at(std::size_t calendar, std::size_t lane, const Room& room) const;
  double bound_of(const TaskLink& link, std::size_t run, std::size_t lane, const Room& room) const;
  double latest_from(const TaskLink& link, double bound, std::size_t run, std::size_t lane, const Room& room) const;
  void total_floats(std::size_t task, std::size_t run, std::size_t count, const Room& room, double* out) const;
  double longer_by(std::size_t task, std::size_t lane, const Room& room) const;

  std::vector<std::size_t> in_first_, out_first_, out_;  // links by the task they end at, and by that they begin at
  std::vector<unsigned char> changing_;                            // calendars
  std::vector<unsigned char> plain_, needs_start_;        // tasks without dates of their own; whose start something asks for
};

}  // namespace ensayo

#endif
