// Dates, times and working days.
#include "sheet_function.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <vector>

#include "sheet_date.h"

namespace ensayo {
namespace sheet {

namespace {

// A day of an argument, without its time.
bool whole_day(const Frame& frame, std::size_t argument, long& out, double& wrong) {
  if (!frame.day(argument, wrong)) return false;
  out = static_cast<long>(wrong);  // days are not below 0
  return true;
}

double date(const Frame& frame) {
  double year, month, day;
  if (!frame.number(0, year)) return year;
  if (!frame.number(1, month)) return month;
  if (!frame.number(2, day)) return day;
  year = std::trunc(year);
  if (year < 0 || year > 9999 || std::fabs(month) > 1e5 || std::fabs(day) > 4e6) return fault(Error::number);
  if (year < 1900) year += 1900;
  const long first = months_on(serial_of(static_cast<long>(year), 1, 1), static_cast<long>(std::floor(month)) - 1);
  const double out = frame.from_day(static_cast<double>(first) + std::floor(day) - 1);
  return out < 0 ? fault(Error::number) : out;
}

enum class Piece { year, month, day };

template <Piece piece>
double piece_of(const Frame& frame) {
  long day, year;
  int month, of_month;
  double wrong;
  if (!whole_day(frame, 0, day, wrong)) return wrong;
  date_of(day, year, month, of_month);
  return static_cast<double>(piece == Piece::year ? year : piece == Piece::month ? month : of_month);
}

double seconds_of(double x) { return std::round((x - std::floor(x)) * 86400); }

double hour(const Frame& frame) {
  double x;
  return frame.number(0, x) ? std::fmod(std::floor(seconds_of(x) / 3600), 24) : x;
}
double minute(const Frame& frame) {
  double x;
  return frame.number(0, x) ? std::fmod(std::floor(seconds_of(x) / 60), 60) : x;
}
double second(const Frame& frame) {
  double x;
  return frame.number(0, x) ? std::fmod(seconds_of(x), 60) : x;
}
double time(const Frame& frame) {
  double hours, minutes, seconds;
  if (!frame.number(0, hours)) return hours;
  if (!frame.number(1, minutes)) return minutes;
  if (!frame.number(2, seconds)) return seconds;
  const double out = (std::trunc(hours) * 3600 + std::trunc(minutes) * 60 + std::trunc(seconds)) / 86400;
  return out < 0 ? fault(Error::number) : out - std::floor(out);
}

double weekday(const Frame& frame) {
  long day;
  double wrong, kind;
  if (!whole_day(frame, 0, day, wrong)) return wrong;
  if (!frame.number(1, kind, 1)) return kind;
  const int monday = weekday_of(day);
  kind = std::trunc(kind);
  if (kind == 1) return (monday + 1) % 7 + 1;
  if (kind == 2) return monday + 1;
  if (kind == 3) return monday;
  // 11 to 17: the week begins on Monday to Sunday
  return kind >= 11 && kind <= 17 ? (monday - (static_cast<int>(kind) - 11) + 7) % 7 + 1 : fault(Error::number);
}

double iso_week_of(long day) {
  // of the Thursday in the same week
  const long thursday = day - weekday_of(day) + 3;
  long year;
  int month, of_month;
  date_of(thursday, year, month, of_month);
  return static_cast<double>((thursday - serial_of(year, 1, 1)) / 7 + 1);
}

double iso_week(const Frame& frame) {
  long day;
  double wrong;
  return whole_day(frame, 0, day, wrong) ? iso_week_of(day) : wrong;
}

double week(const Frame& frame) {
  long day, year;
  int month, of_month;
  double wrong, kind;
  if (!whole_day(frame, 0, day, wrong)) return wrong;
  if (!frame.number(1, kind, 1)) return kind;
  kind = std::trunc(kind);
  if (kind == 21) return iso_week_of(day);
  const int begins = kind == 1 ? 6 : kind == 2 ? 0 : kind >= 11 && kind <= 17 ? static_cast<int>(kind) - 11 : -1;
  if (begins < 0) return fault(Error::number);
  date_of(day, year, month, of_month);
  const long first = serial_of(year, 1, 1);
  return static_cast<double>((day - first + (weekday_of(first) - begins + 7) % 7) / 7 + 1);
}

double months_later(const Frame& frame) {
  long day;
  double wrong, months;
  if (!whole_day(frame, 0, day, wrong)) return wrong;
  if (!frame.number(1, months)) return months;
  if (std::fabs(months) > 1e5) return fault(Error::number);
  return frame.from_day(static_cast<double>(months_on(day, static_cast<long>(std::trunc(months)))));
}

double month_end(const Frame& frame) {
  long day, year;
  int month, of_month;
  double wrong, months;
  if (!whole_day(frame, 0, day, wrong)) return wrong;
  if (!frame.number(1, months)) return months;
  if (std::fabs(months) > 1e5) return fault(Error::number);
  date_of(months_on(day, static_cast<long>(std::trunc(months))), year, month, of_month);
  return frame.from_day(static_cast<double>(serial_of(year, month, days_in_month(year, month))));
}

double days_between(const Frame& frame) {
  long end, start;
  double wrong;
  if (!whole_day(frame, 0, end, wrong) || !whole_day(frame, 1, start, wrong)) return wrong;
  return static_cast<double>(end - start);
}

bool is_last_of_february(long year, int month, int day) { return month == 2 && day == days_in_month(year, 2); }

// Days of a year of 360, as bonds of the United States (or of Europe) count them.
long days_of_360(long from, long to, bool european) {
  long year_1, year_2;
  int month_1, day_1, month_2, day_2;
  date_of(from, year_1, month_1, day_1);
  date_of(to, year_2, month_2, day_2);
  if (european) {
    day_1 = std::min(day_1, 30);
    day_2 = std::min(day_2, 30);
  } else {
    const bool last_1 = is_last_of_february(year_1, month_1, day_1);
    if (last_1 && is_last_of_february(year_2, month_2, day_2)) day_2 = 30;
    if (last_1) day_1 = 30;
    if (day_2 == 31 && day_1 >= 30) day_2 = 30;
    if (day_1 == 31) day_1 = 30;
  }
  return (year_2 - year_1) * 360 + (month_2 - month_1) * 30 + (day_2 - day_1);
}

double days_360(const Frame& frame) {
  long from, to;
  double wrong;
  bool european;
  if (!whole_day(frame, 0, from, wrong) || !whole_day(frame, 1, to, wrong)) return wrong;
  if (!frame.logical(2, european, wrong, false)) return wrong;
  return static_cast<double>(days_of_360(from, to, european));
}

double year_share(const Frame& frame) {
  long from, to;
  double wrong, basis;
  if (!whole_day(frame, 0, from, wrong) || !whole_day(frame, 1, to, wrong)) return wrong;
  if (!frame.number(2, basis)) return basis;
  basis = std::trunc(basis);
  if (from > to) std::swap(from, to);
  const double days = static_cast<double>(to - from);
  if (basis == 0) return static_cast<double>(days_of_360(from, to, false)) / 360;
  if (basis == 2) return days / 360;
  if (basis == 3) return days / 365;
  if (basis == 4) return static_cast<double>(days_of_360(from, to, true)) / 360;
  if (basis != 1) return fault(Error::number);
  long year_1, year_2;
  int month_1, day_1, month_2, day_2;
  date_of(from, year_1, month_1, day_1);
  date_of(to, year_2, month_2, day_2);
  const auto length = [](long year) { return 337.0 + days_in_month(year, 2); };
  const bool within_a_year = year_1 == year_2 || (year_2 == year_1 + 1 && (month_1 > month_2 || (month_1 == month_2 && day_1 >= day_2)));
  if (!within_a_year) {
    double all = 0;
    for (long year = year_1; year <= year_2; ++year) all += length(year);
    return days / (all / static_cast<double>(year_2 - year_1 + 1));
  }
  if (year_1 == year_2) return days / length(year_1);
  // of two years, whether a leap day lies between
  const auto has_leap_day = [&](long year) {
    if (days_in_month(year, 2) == 28) return false;
    const long leap = serial_of(year, 2, 29);
    return leap >= from && leap <= to;
  };
  return days / (has_leap_day(year_1) || has_leap_day(year_2) ? 366 : 365);
}

double difference_in(const Frame& frame) {
  long from, to, year_1, year_2;
  int month_1, day_1, month_2, day_2;
  double wrong;
  std::string unit;
  if (!whole_day(frame, 0, from, wrong) || !whole_day(frame, 1, to, wrong) || !frame.text(2, unit, wrong)) return wrong;
  if (from > to) return fault(Error::number);
  date_of(from, year_1, month_1, day_1);
  date_of(to, year_2, month_2, day_2);
  const long months = (year_2 - year_1) * 12 + month_2 - month_1 - (day_2 < day_1);
  unit = folded(unit);
  if (unit == "d") return static_cast<double>(to - from);
  if (unit == "m") return static_cast<double>(months);
  if (unit == "y") return static_cast<double>(months / 12);
  if (unit == "ym") return static_cast<double>(months % 12);
  if (unit == "md") return static_cast<double>(to - months_on(from, months));
  if (unit == "yd") return static_cast<double>(to - months_on(from, months / 12 * 12));
  return fault(Error::number);
}

// Days that are not worked: days of the week, and dates.
struct WorkingWeek {
  bool off[7] = {false, false, false, false, false, true, true};
  std::vector<long> holidays;     // each once

  bool is_holiday(long day) const { return std::find(holidays.begin(), holidays.end(), day) != holidays.end(); }

  long worked_a_week() const { return 7 - std::count(off, off + 7, true); }

  // Working days from one day to another, both counted.
  long between(long first, long last) const {
    const long weeks = (last - first + 1) / 7;
    long count = weeks * worked_a_week();
    int weekday = weekday_of(first);
    for (long left = last - first + 1 - weeks * 7; left > 0; --left) {
      count += !off[weekday];
      weekday = weekday == 6 ? 0 : weekday + 1;
    }
    for (long day : holidays) count -= day >= first && day <= last && !off[weekday_of(day)];
    return count;
  }

  // The day so many working days after another, or before it.
  long after(long day, long days) const {
    const int step = days < 0 ? -1 : 1;
    int weekday = weekday_of(day);
    const auto move = [&](long left) {
      const long weeks = left / worked_a_week();
      day += step * 7 * weeks;
      for (left -= weeks * worked_a_week(); left > 0;) {
        day += step;
        weekday = step > 0 ? (weekday == 6 ? 0 : weekday + 1) : (weekday == 0 ? 6 : weekday - 1);
        if (!off[weekday]) --left;
      }
      // whole weeks may have ended on a day off
      while (off[weekday]) {
        day -= step;
        weekday = step > 0 ? (weekday == 0 ? 6 : weekday - 1) : (weekday == 6 ? 0 : weekday + 1);
      }
    };
    // each holiday on the way is a day more, on whose way there may be others
    for (long left = std::labs(days); left > 0;) {
      const long begin = day;
      move(left);
      left = 0;
      for (long holiday : holidays) {
        const bool passed = step > 0 ? holiday > begin && holiday <= day : holiday < begin && holiday >= day;
        left += passed && !off[weekday_of(holiday)];
      }
    }
    return day;
  }
};

double read_holidays(const Frame& frame, std::size_t argument, WorkingWeek& week) {
  if (!frame.has(argument)) return 0;
  for (std::size_t k = 0; k < frame.shape(argument).size(); ++k) {
    double x = frame.at(argument, k);
    if (is_type(x, Type::empty)) continue;
    x = as_number(x, frame.texts());
    if (is_error(x)) return x;
    const long day = static_cast<long>(std::floor(x)) + (frame.setting().from_1904 ? 1462 : 0);
    if (!week.is_holiday(day)) week.holidays.push_back(day);
  }
  return 0;
}

// 1 to 7: two days from Saturday and Sunday on; 11 to 17: one day from Sunday on; or seven marks from Monday on.
double read_weekend(const Frame& frame, std::size_t argument, WorkingWeek& week) {
  if (!frame.has(argument)) return 0;
  double x = frame.at(argument);
  std::fill(week.off, week.off + 7, false);
  if (is_type(x, Type::text)) {
    const std::string marks = frame.texts().of(x);
    if (marks.size() != 7 || marks.find_first_not_of("01") != std::string::npos || marks == "1111111") return fault(Error::value);
    for (std::size_t k = 0; k < 7; ++k) week.off[k] = marks[k] == '1';
    return 0;
  }
  x = as_number(x, frame.texts());
  if (is_error(x)) return x;
  const int kind = static_cast<int>(x);
  if (kind >= 1 && kind <= 7) week.off[(kind + 4) % 7] = week.off[(kind + 5) % 7] = true;
  else if (kind >= 11 && kind <= 17) week.off[(kind - 5) % 7] = true;
  else return fault(Error::number);
  return 0;
}

double days_worked(const Frame& frame, const WorkingWeek& week) {
  long from, to;
  double wrong;
  if (!whole_day(frame, 0, from, wrong) || !whole_day(frame, 1, to, wrong)) return wrong;
  const long count = week.between(std::min(from, to), std::max(from, to));
  return static_cast<double>(from <= to ? count : -count);
}

double working_day(const Frame& frame, const WorkingWeek& week) {
  long day;
  double wrong, left;
  if (!whole_day(frame, 0, day, wrong)) return wrong;
  if (!frame.number(1, left)) return left;
  if (std::fabs(left) > 1e6) return fault(Error::number);
  day = week.after(day, static_cast<long>(left));
  return day < 0 ? fault(Error::number) : frame.from_day(static_cast<double>(day));
}

// The days off are read once where they are the same in all runs.
template <double (*of)(const Frame&, const WorkingWeek&), bool own_week>
void in_week(const Call& call, const Arguments& arguments, std::size_t n) {
  const bool same = are_single(call, arguments, 2, 1);
  double wrong = 0;
  WorkingWeek week;
  for (std::size_t i = 0; i < n; ++i) {
    const Frame frame(call, arguments, i);
    if (i == 0 || !same) {
      week = WorkingWeek();
      wrong = own_week ? read_weekend(frame, 2, week) : 0;
      if (wrong == 0) wrong = read_holidays(frame, own_week ? 3 : 2, week);
    }
    arguments.out[i] = wrong != 0 ? wrong : of(frame, week);
    if (!std::isfinite(arguments.out[i])) arguments.out[i] = error_value(error_of(arguments.out[i]));
  }
}

double date_written(const Frame& frame) {
  std::string text;
  double wrong, out;
  if (!frame.text(0, text, wrong)) return wrong;
  if (text.size() < 10 || text[4] != '-' || !text_as_number(text, out)) return fault(Error::value);
  return frame.from_day(out);
}

}  // namespace

std::vector<Definition> date_definitions() {
  return {{"DATE", 3, 3, "v", date}, {"YEAR", 1, 1, "v", piece_of<Piece::year>}, {"MONTH", 1, 1, "v", piece_of<Piece::month>},
          {"DAY", 1, 1, "v", piece_of<Piece::day>}, {"HOUR", 1, 1, "v", hour}, {"MINUTE", 1, 1, "v", minute}, {"SECOND", 1, 1, "v", second},
          {"TIME", 3, 3, "v", time}, {"WEEKDAY", 1, 2, "v", weekday}, {"WEEKNUM", 1, 2, "v", week}, {"ISOWEEKNUM", 1, 1, "v", iso_week},
          {"EDATE", 2, 2, "v", months_later}, {"EOMONTH", 2, 2, "v", month_end}, {"DAYS", 2, 2, "v", days_between},
          {"DAYS360", 2, 3, "v", days_360}, {"YEARFRAC", 2, 3, "v", year_share}, {"DATEDIF", 3, 3, "v", difference_in},
          by_block("NETWORKDAYS", 2, 3, "vvr", in_week<days_worked, false>), by_block("NETWORKDAYS.INTL", 2, 4, "vvvr", in_week<days_worked, true>),
          by_block("WORKDAY", 2, 3, "vvr", in_week<working_day, false>), by_block("WORKDAY.INTL", 2, 4, "vvvr", in_week<working_day, true>), {"DATEVALUE", 1, 1, "v", date_written}};
}

}  // namespace sheet
}  // namespace ensayo
