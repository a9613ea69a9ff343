// Formulas of workbooks, read into a list in which each operator comes after what it works on: ISO/IEC 29500, 18.17, and
// OpenFormula (OpenDocument 1.3, part 4).
#ifndef ENSAYO_CORE_SHEET_FORMULA_H
#define ENSAYO_CORE_SHEET_FORMULA_H

#include <cstdint>
#include <string>
#include <vector>

namespace ensayo {
namespace sheet {

enum class Dialect { office, document };

enum class Part : std::uint8_t {
  // values: a number, a text (by `text`), TRUE or FALSE or an error (by `count`), an argument that is left out
  number, text, logical, error, left_out,
  // a cell, a range of cells, a name, something that cannot be read here (by `text`, what it is)
  cell, range, name, foreign,
  // a function of `count` arguments, by its name in capitals; rows by columns of an array constant; what a name in LET stands for,
  // which stays where it is
  function, array, binds,
  // of one, and of two
  minus, plus, per_cent, add, subtract, multiply, divide, power, join, equal, unequal, less, at_most, more, at_least,
  // of references
  span, intersection, both
};

// A place of a cell; `moves` where it goes along with a formula that is copied.
struct Corner {
  std::int32_t row, column;
  bool row_moves, column_moves;
};

struct Token {
  Part part;
  std::uint32_t count = 0;          // see Part
  double number = 0;
  std::string text;                 // of a reference the sheet, where one is named
  bool on_sheet = false;
  Corner from = {0, 0, false, false}, to = {0, 0, false, false};
  std::size_t first = 0, end = 0;   // where it stands in the formula's text
  std::size_t corners = 0;          // of a reference, where its corners begin
};

constexpr std::int32_t last_row = 1048575, last_column = 16383;

struct Formula {
  std::vector<Token> tokens;
  std::string fault;                // why it cannot be read; empty where it can
  std::size_t where = 0;            // at which character
};

Formula read_formula(const std::string& text, Dialect dialect);

// A cell's place as "A1"; false where a text is none.
bool read_place(const std::string& text, std::int32_t& row, std::int32_t& column);
std::string place_text(std::int32_t row, std::int32_t column);

// The text of a formula that was copied so many rows down and columns to the right.
std::string moved_formula(const std::string& text, const Formula& formula, std::int32_t down, std::int32_t right);

}  // namespace sheet
}  // namespace ensayo

#endif
