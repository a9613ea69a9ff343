// Tables of a workbook, whose columns formulas call by their names: ISO/IEC 29500-1, 18.5.1 and 18.17.6.5.
#ifndef ENSAYO_CORE_SHEET_TABLE_H
#define ENSAYO_CORE_SHEET_TABLE_H

#include <cstdint>
#include <string>
#include <vector>

namespace ensayo {
namespace sheet {

struct Table {
  std::string name, sheet;
  std::int32_t row = 0, column = 0, to_row = 0, to_column = 0;   // all of it, with its headings and totals
  std::int32_t headings = 1, totals = 0;                         // rows of them
  std::vector<std::string> columns;
};

Table read_office_table(const char* text, std::size_t size);

// A formula with places of cells instead of columns' names. `row`: where it stands, which "this row" means; -1 for nowhere.
// What names no known table or column stays as it is.
std::string without_tables(const std::string& formula, const std::vector<Table>& tables, std::int32_t row);

}  // namespace sheet
}  // namespace ensayo

#endif
