// A workbook as it is calculated: cells by their places, formulas read once, names.
#ifndef ENSAYO_CORE_SHEET_BOOK_H
#define ENSAYO_CORE_SHEET_BOOK_H

#include <cstdint>
#include <string>
#include <unordered_map>
#include <vector>

#include "sheet_formula.h"
#include "sheet_function.h"

namespace ensayo {
namespace sheet {

constexpr std::uint32_t no_cell = 0xffffffff;

struct Cell {
  std::int32_t sheet, row, column;
  double value;                              // as the file has it
  std::int32_t formula = -1;                 // of the book's; moved so many rows and columns
  std::int32_t down = 0, right = 0;
  std::int32_t array_rows = 0, array_columns = 0;
  std::uint32_t master = no_cell;            // the cell whose array fills this one
};

struct Name {
  std::string name;                          // folded
  std::int32_t sheet;                        // of one sheet alone, or -1
  Formula formula;
};

class Book {
 public:
  Book(std::vector<std::string> sheets, Dialect dialect, bool from_1904);
  void add_formula(const std::string& text, const std::string& note);
  void add_name(const std::string& name, std::int32_t sheet, const std::string& formula);
  std::uint32_t add_cell(const Cell& cell);
  // How far a sheet is used, though cells that are not needed are left out.
  void reach(std::int32_t sheet, std::int32_t row, std::int32_t column);

  std::int32_t sheet_named(const std::string& name) const;   // -1 where there is none
  const Name* name(const std::string& name, std::int32_t sheet) const;
  std::uint32_t cell_at(std::int32_t sheet, std::int32_t row, std::int32_t column) const;
  // Once all cells are there: those that an array fills know it.
  void place_arrays();
  std::int32_t last_row_of(std::int32_t sheet) const { return last_rows_[static_cast<std::size_t>(sheet)]; }
  std::int32_t last_column_of(std::int32_t sheet) const { return last_columns_[static_cast<std::size_t>(sheet)]; }
  const Formula& formula_of(const Cell& cell) const { return formulas_[static_cast<std::size_t>(cell.formula)]; }
  const std::string& note_of(const Cell& cell) const { return notes_[static_cast<std::size_t>(cell.formula)]; }

  std::vector<Cell> cells;
  std::vector<std::string> sheets;
  Setting setting;

 private:
  static std::uint64_t key(std::int32_t sheet, std::int32_t row, std::int32_t column) {
    return static_cast<std::uint64_t>(sheet) << 40 | static_cast<std::uint64_t>(row) << 16 | static_cast<std::uint64_t>(column);
  }
  Dialect dialect_;
  std::vector<Formula> formulas_;
  std::vector<std::string> notes_;
  std::vector<Name> names_;
  std::unordered_map<std::uint64_t, std::uint32_t> places_;
  std::unordered_map<std::string, std::int32_t> sheet_places_;
  std::vector<std::uint32_t> arrays_;
  std::vector<std::int32_t> last_rows_, last_columns_;
};

// For each cell, how many formulas refer to it.
std::vector<int> cell_uses(const Book& book);

}  // namespace sheet
}  // namespace ensayo

#endif
