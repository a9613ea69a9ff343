#include "exact.h"
#include "schedule_room.h"

#include <algorithm>

namespace ensayo {

// What is paid in each period. An instant that ends a period is in the next one; what is paid at a finish is paid in its last
// millisecond, so that it is in the period that ends with it.
void Schedule::pay(std::size_t run, std::size_t count, const Result& result, Room& room) const {
  std::vector<double> ends(result.ends.size());
  std::transform(result.ends.begin(), result.ends.end(), ends.begin(), instant);
  const std::size_t periods = ends.size();
  for (double* column : result.paid) {
    for (std::size_t lane = 0; lane < count; ++lane) {
      column[run + lane] = room.failed[lane] > 0 ? std::numeric_limits<double>::quiet_NaN() : 0;
    }
  }
  const auto period_of = [&](double at) {
    return static_cast<std::size_t>(std::upper_bound(ends.begin(), ends.end(), at) - ends.begin());
  };
  for (const Payment& payment : payments) {
    const double later = instant(payment.lag);
    for (std::size_t lane = 0; lane < count; ++lane) {
      const double amount = payment.amount.at(run + lane);
      if (room.failed[lane] > 0 || amount == 0) continue;
      const std::size_t at = payment.task * lanes + lane;
      const double start = payment.whole ? instant(this->start) : room.s[at];
      const double finish = payment.whole ? room.finish[lane] : room.f[at];
      const auto pay_at = [&](double when) {
        const std::size_t k = period_of(when);
        if (k < periods) result.paid[k][run + lane] += amount;
      };
      // the time of the clock, or working time of the task's calendar, up to an instant
      const auto worked = [&](double when) {
        return payment.whole ? when : calendar_at(tasks[payment.task].calendar, lane, room).done(when);
      };
      const double begun = worked(start), all = worked(finish) - begun;
      if (payment.when == Payment::at_start) pay_at(start + later);
      else if (payment.when == Payment::at_finish || !(all > 0)) pay_at(finish - 1 + later);
      else {
        double before = 0;
        for (std::size_t k = period_of(start + later); k < periods && before < all; ++k) {
          const double done = ends[k] - later < finish ? worked(ends[k] - later) - begun : all;
          result.paid[k][run + lane] += amount * ((done - before) / all);
          before = done;
        }
      }
    }
  }
}

}  // namespace ensayo
