// Doors to schedules.
#include <Rcpp.h>

#include <deque>

#include "core/schedule.h"
#include "doors.h"

using ensayo::Calendar;
using ensayo::DayPattern;
using ensayo::RunValue;
using ensayo::Schedule;

namespace {

// Which of the runs are made, all where there are no `rows`; and the columns of these.
struct Runs {
  std::size_t all;
  Rcpp::IntegerVector rows;
  std::deque<std::vector<double>> columns;
  std::size_t count() const { return rows.size() > 0 ? static_cast<std::size_t>(rows.size()) : all; }
};

// One number for all runs, or a column with one for each.
RunValue value_of(SEXP column, Runs& runs) {
  RunValue value;
  const double* numbers = doubles(column);
  if (Rf_xlength(column) == 1) value.constant = numbers[0];
  else if (static_cast<std::size_t>(Rf_xlength(column)) != runs.all) Rcpp::stop("a value for each run is needed");
  else if (runs.rows.size() == 0) value.column = numbers;
  else {
    runs.columns.emplace_back(runs.count());
    std::vector<double>& some = runs.columns.back();
    for (std::size_t i = 0; i < some.size(); ++i) some[i] = numbers[runs.rows[static_cast<R_xlen_t>(i)] - 1];
    value.column = some.data();
  }
  return value;
}

std::size_t place(int one_based) { return static_cast<std::size_t>(one_based - 1); }

Calendar calendar_of(const Rcpp::List& given) {
  std::vector<DayPattern> patterns;
  for (SEXP each : Rcpp::List(given["patterns"])) {
    const Rcpp::NumericVector spans(each);  // from, to, from, to, ...
    DayPattern pattern;
    for (R_xlen_t i = 0; i + 1 < spans.size(); i += 2) pattern.add(spans[i], spans[i + 1]);
    patterns.push_back(pattern);
  }
  return Calendar(patterns, Rcpp::as<std::vector<int>>(given["days"]), Rcpp::as<std::vector<int>>(given["week"]), given["workday"]);
}

Schedule schedule_of(const Rcpp::List& given, Runs& n) {
  Schedule made;
  made.start = given["start"];
  made.status = given["status"];
  made.dated = given["dated"];
  made.day_zero = given["day_zero"];
  for (SEXP each : Rcpp::List(given["calendars"])) made.calendars.push_back(calendar_of(each));
  const Rcpp::List tasks = given["tasks"];
  const Rcpp::IntegerVector calendar = tasks["calendar"];
  const Rcpp::LogicalVector milestone = tasks["milestone"];
  const Rcpp::NumericVector started = tasks["started"], finished = tasks["finished"], left = tasks["left"];
  const Rcpp::List work = tasks["work"], not_before = tasks["not_before"], latest_finish = tasks["latest_finish"], latest_start = tasks["latest_start"];
  for (R_xlen_t i = 0; i < calendar.size(); ++i) {
    ensayo::Task task;
    task.calendar = place(calendar[i]);
    task.milestone = milestone[i];
    task.work = value_of(work[i], n);
    task.not_before = value_of(not_before[i], n);
    task.latest_finish = value_of(latest_finish[i], n);
    task.latest_start = value_of(latest_start[i], n);
    task.started = started[i];
    task.finished = finished[i];
    task.left = left[i];
    made.tasks.push_back(task);
  }
  const Rcpp::List links = given["links"];
  const Rcpp::IntegerVector from = links["from"], to = links["to"], lag = links["lag"];
  const Rcpp::LogicalVector from_start = links["from_start"], to_finish = links["to_finish"];
  const Rcpp::List length = links["length"];
  for (R_xlen_t i = 0; i < from.size(); ++i) {
    made.links.push_back({place(from[i]), place(to[i]), static_cast<bool>(from_start[i]), static_cast<bool>(to_finish[i]),
                          static_cast<ensayo::TaskLink::Lag>(static_cast<int>(lag[i])), value_of(length[i], n)});
  }
  for (SEXP each : Rcpp::List(given["closures"])) {
    const Rcpp::List closure(each);
    made.closures.push_back({place(closure["calendar"]), value_of(closure["from"], n), value_of(closure["days"], n)});
  }
  for (SEXP each : Rcpp::List(given["lost"])) {
    const Rcpp::List lost(each);
    made.lost.push_back({place(lost["calendar"]), place(lost["first"]), place(lost["last"]), value_of(lost["lost"], n),
                         value_of(lost["order"], n)});
  }
  for (SEXP each : Rcpp::List(given["payments"])) {
    const Rcpp::List payment(each);
    ensayo::Payment own;
    const int task = payment["task"];
    own.whole = task == 0;
    if (!own.whole) own.task = place(task);
    own.when = static_cast<ensayo::Payment::When>(Rcpp::as<int>(payment["when"]));
    own.lag = payment["lag"];
    own.amount = value_of(payment["amount"], n);
    made.payments.push_back(own);
  }
  made.prepare();
  return made;
}

}  // namespace

// A schedule through `all` runs, or those at the places `rows`: list(finish, exact, failed, paths, and what is `asked` of tasks by their places: a list of columns for
// each of start, finish, total, free, longer, critical, driver). Floats are counted to `limit`, in days from the start, or where that
// is NA to each run's own finish. `ends`, in days from day 0, are those of periods: `paid` is what is paid in each, of the plan's
// `payments`, whose task is 0 for the project.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_run_schedule(Rcpp::List given, int all, Rcpp::IntegerVector rows, Rcpp::List asked, bool paths, double limit,
                            Rcpp::NumericVector ends, int threads) {
  Runs held{static_cast<std::size_t>(all), rows, {}};
  const Schedule schedule = schedule_of(given, held);
  const std::size_t runs = held.count();
  const int n = static_cast<int>(runs);
  Schedule::Result result;
  result.tasks.resize(schedule.tasks.size());
  Rcpp::NumericVector finish(n), exact(n);
  std::vector<int> failed(runs);
  std::vector<std::vector<int>> found(paths ? runs : 0);
  result.finish = finish.begin();
  result.exact = exact.begin();
  result.failed = &failed;
  if (paths) result.paths = &found;
  Rcpp::List columns;
  const Rcpp::CharacterVector names = asked.size() > 0 ? Rcpp::CharacterVector(asked.names()) : Rcpp::CharacterVector();
  for (R_xlen_t j = 0; j < asked.size(); ++j) {
    const std::string what(names[j]);
    const Rcpp::IntegerVector which = asked[j];
    Rcpp::List own(which.size());
    for (R_xlen_t i = 0; i < which.size(); ++i) {
      Schedule::Asked& of = result.tasks[place(which[i])];
      if (what == "critical" || what == "driver") {
        SEXP made = Rf_allocVector(what == "critical" ? LGLSXP : INTSXP, n);
        own[i] = made;
        std::fill(INTEGER(made), INTEGER(made) + n, 0);
        (what == "critical" ? of.critical : of.driver) = INTEGER(made);
      } else {
        SEXP made = Rf_allocVector(REALSXP, n);
        own[i] = made;
        (what == "start" ? of.start : what == "finish" ? of.finish : what == "total" ? of.total : what == "free" ? of.free : of.longer) =
            REAL(made);
      }
    }
    columns.push_back(own, what);
  }
  result.ends.assign(ends.begin(), ends.end());
  Rcpp::List paid(ends.size());
  for (R_xlen_t k = 0; k < ends.size(); ++k) {
    SEXP made = Rf_allocVector(REALSXP, n);
    paid[k] = made;
    result.paid.push_back(REAL(made));
  }
  if (ends.size() > 0) columns.push_back(paid, "paid");
  schedule.run(runs, result, limit, static_cast<unsigned>(threads));
  columns.push_back(finish, "finish_of_all");
  columns.push_back(exact, "exact");
  columns.push_back(Rcpp::IntegerVector(failed.begin(), failed.end()), "failed");
  if (paths) {
    Rcpp::List traced(n);
    for (R_xlen_t i = 0; i < n; ++i) {
      const std::vector<int>& path = found[static_cast<std::size_t>(i)];
      Rcpp::IntegerVector places(path.rbegin(), path.rend());
      traced[i] = places + 1;
    }
    columns.push_back(traced, "paths");
  }
  return columns;
}

// Instants of a calendar, in days from its day 0: the working time before each in days of work ("done"), or the earliest and the next
// instant with so much done.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_calendar(Rcpp::List given, std::string what, Rcpp::NumericVector x) {
  const Calendar calendar = calendar_of(given);
  Rcpp::NumericVector out(x.size());
  for (R_xlen_t i = 0; i < x.size(); ++i) {
    if (what == "done") out[i] = calendar.done(std::nearbyint(x[i] * ensayo::day_length)) / calendar.workday();
    else {
      const double work = std::nearbyint(x[i] * calendar.workday());
      out[i] = (what == "earliest" ? calendar.earliest(work) : calendar.next(work)) / ensayo::day_length;
    }
  }
  return out;
}
