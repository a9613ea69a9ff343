#include "sheet_date.h"

#include <algorithm>

namespace ensayo {
namespace sheet {

namespace {

// From 0000-03-01 to 1899-12-30.
constexpr long before = 693899;

long whole_part(long x, long by) { return x >= 0 ? x / by : -((by - 1 - x) / by); }

bool is_leap_year(long year) { return (year % 4 == 0 && year % 100 != 0) || year % 400 == 0; }

}  // namespace

// Years begin in March here, so that a leap day is a year's last.
long serial_of(long year, int month, int day) {
  if (month <= 2) --year;
  const long era = whole_part(year, 400), of_era = year - era * 400;
  const long of_year = (153 * (month + (month > 2 ? -3 : 9)) + 2) / 5 + day - 1;
  return era * 146097 + of_era * 365 + of_era / 4 - of_era / 100 + of_year - before;
}

void date_of(long serial, long& year, int& month, int& day) {
  const long days = serial + before, era = whole_part(days, 146097), of_era = days - era * 146097;
  const long years = (of_era - of_era / 1460 + of_era / 36524 - of_era / 146096) / 365;
  const long of_year = of_era - (365 * years + years / 4 - years / 100), shifted = (5 * of_year + 2) / 153;
  day = static_cast<int>(of_year - (153 * shifted + 2) / 5 + 1);
  month = static_cast<int>(shifted < 10 ? shifted + 3 : shifted - 9);
  year = years + era * 400 + (month <= 2);
}

int days_in_month(long year, int month) {
  return month == 2 ? (is_leap_year(year) ? 29 : 28) : month == 4 || month == 6 || month == 9 || month == 11 ? 30 : 31;
}

long months_on(long serial, long months) {
  long year;
  int month, day;
  date_of(serial, year, month, day);
  const long count = year * 12 + month - 1 + months;
  year = whole_part(count, 12);
  month = static_cast<int>(count - year * 12) + 1;
  return serial_of(year, month, std::min(day, days_in_month(year, month)));
}

// 1899-12-30 was a Saturday.
int weekday_of(long serial) { return static_cast<int>(serial + 5 - whole_part(serial + 5, 7) * 7); }

}  // namespace sheet
}  // namespace ensayo
