// Days as workbooks number them: 1899-12-30 is day 0.
#ifndef ENSAYO_CORE_SHEET_DATE_H
#define ENSAYO_CORE_SHEET_DATE_H

namespace ensayo {
namespace sheet {

// Of the calendar of Gregory.
long serial_of(long year, int month, int day);
void date_of(long serial, long& year, int& month, int& day);
int days_in_month(long year, int month);
// So many months on; a day that the month has not is its last.
long months_on(long serial, long months);
// 0 for Monday.
int weekday_of(long serial);

}  // namespace sheet
}  // namespace ensayo

#endif
