// What a workbook's files say: ISO/IEC 29500 (office) and OpenDocument 1.3 (document).
#ifndef ENSAYO_CORE_SHEET_FILE_H
#define ENSAYO_CORE_SHEET_FILE_H

#include <cstdint>
#include <string>
#include <utility>
#include <vector>

#include "sheet_value.h"
#include "xml.h"

namespace ensayo {
namespace sheet {

// How a cell's number is shown.
enum class Shown : std::uint8_t { plain, per_cent, money, date, time };

struct SheetFacts {
  std::string name, part;       // and where it is kept
  bool hidden = false, is_protected = false;
  std::size_t merged = 0;       // ranges of merged cells
};

struct NameFacts {
  std::string name, formula;
  std::int32_t sheet = -1;      // of one sheet alone
};

// The cells of a sheet that hold something, by column. A formula is one of `formulas`, moved so many rows and columns.
struct CellColumns {
  std::vector<std::int32_t> row, column, formula, down, right;
  std::vector<Type> type;
  std::vector<double> number;            // of a number, TRUE or FALSE, an error
  std::vector<std::string> text;
  std::vector<std::uint8_t> shown;
  std::vector<std::int32_t> array_rows, array_columns;   // of a formula that fills several cells, from here on; else 0
  std::vector<std::string> formulas;
  std::vector<std::string> notes;        // what cannot be calculated, such as a table of data: by formula, mostly empty

  void add(std::int32_t at_row, std::int32_t at_column, Type of, double value, std::string words, Shown as) {
    row.push_back(at_row);
    column.push_back(at_column);
    type.push_back(of);
    number.push_back(value);
    text.push_back(std::move(words));
    shown.push_back(static_cast<std::uint8_t>(as));
    formula.push_back(-1);
    down.push_back(0);
    right.push_back(0);
    array_rows.push_back(0);
    array_columns.push_back(0);
  }
  // Cells that arrays fill besides those that are listed.
  double filled = 0;
  void set_array(std::int32_t rows_of, std::int32_t columns_of, std::size_t most) {
    filled += static_cast<double>(rows_of) * static_cast<double>(columns_of);
    if (filled > static_cast<double>(most)) throw XmlFault("its arrays fill more cells than are read");
    array_rows.back() = rows_of;
    array_columns.back() = columns_of;
  }
  void set_formula(std::string words, std::string note = "") {
    formula.back() = static_cast<std::int32_t>(formulas.size());
    formulas.push_back(std::move(words));
    notes.push_back(std::move(note));
  }
};

struct BookFacts {
  std::vector<SheetFacts> sheets;
  std::vector<NameFacts> names;
  bool from_1904 = false, iterates = false, is_protected = false, has_external = false;
};

// More is taken for an attack: cells of a sheet, characters of a formula, and of texts that are said to be repeated.
struct SheetLimits {
  std::size_t cells = 5000000, formula = 32768, repeated = 100000000;
};

// How a number format shows a number: a code such as 0.0%, or one of the standard's numbers.
Shown shown_by(const std::string& code);
Shown shown_by_number(long id);

// Parts of a workbook of ISO/IEC 29500.
BookFacts read_office_book(const char* text, std::size_t size);
std::vector<std::pair<std::string, std::string>> read_office_links(const char* text, std::size_t size);
std::vector<std::string> read_office_texts(const char* text, std::size_t size);
std::vector<Shown> read_office_styles(const char* text, std::size_t size);
CellColumns read_office_sheet(const char* text, std::size_t size, const std::vector<std::string>& texts,
                              const std::vector<Shown>& styles, SheetFacts& facts, const SheetLimits& limits);

// The one part of an OpenDocument workbook that holds all of it.
BookFacts read_document(const char* text, std::size_t size, std::vector<CellColumns>& sheets, const SheetLimits& limits);

}  // namespace sheet
}  // namespace ensayo

#endif
