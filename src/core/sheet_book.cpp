#include "sheet_book.h"

#include <algorithm>

namespace ensayo {
namespace sheet {

Book::Book(std::vector<std::string> names, Dialect dialect, bool from_1904) : sheets(std::move(names)), dialect_(dialect) {
  setting.from_1904 = from_1904;
  setting.odd_roots = setting.texts.logical_is_number = dialect == Dialect::document;
  for (std::size_t i = 0; i < sheets.size(); ++i) sheet_places_.emplace(folded(sheets[i]), static_cast<std::int32_t>(i));
  last_rows_.assign(sheets.size(), -1);
  last_columns_.assign(sheets.size(), -1);
}

void Book::add_formula(const std::string& text, const std::string& note) {
  formulas_.push_back(note.empty() ? read_formula(text, dialect_) : Formula());
  notes_.push_back(note);
}

void Book::add_name(const std::string& name, std::int32_t sheet, const std::string& formula) {
  names_.push_back({folded(name), sheet, read_formula(formula, dialect_)});
}

std::uint32_t Book::add_cell(const Cell& cell) {
  const std::uint32_t id = static_cast<std::uint32_t>(cells.size());
  cells.push_back(cell);
  places_[key(cell.sheet, cell.row, cell.column)] = id;
  reach(cell.sheet, cell.row + std::max(0, cell.array_rows - 1), cell.column + std::max(0, cell.array_columns - 1));
  if (cell.array_rows * cell.array_columns > 1) arrays_.push_back(id);
  return id;
}

void Book::reach(std::int32_t sheet, std::int32_t row, std::int32_t column) {
  std::int32_t &last = last_rows_[static_cast<std::size_t>(sheet)], &last_column = last_columns_[static_cast<std::size_t>(sheet)];
  last = std::max(last, row);
  last_column = std::max(last_column, column);
}

std::int32_t Book::sheet_named(const std::string& name) const {
  const auto found = sheet_places_.find(folded(name));
  return found == sheet_places_.end() ? -1 : found->second;
}

const Name* Book::name(const std::string& name, std::int32_t sheet) const {
  const std::string wanted = folded(name);
  const Name* out = nullptr;
  for (const Name& each : names_) {
    if (each.name != wanted || (each.sheet >= 0 && each.sheet != sheet)) continue;
    if (!out || each.sheet >= 0) out = &each;
  }
  return out;
}

std::uint32_t Book::cell_at(std::int32_t sheet, std::int32_t row, std::int32_t column) const {
  const auto found = places_.find(key(sheet, row, column));
  return found == places_.end() ? no_cell : found->second;
}

void Book::place_arrays() {
  for (std::uint32_t id : arrays_) {
    const Cell array = cells[id];
    for (std::int32_t row = 0; row < array.array_rows; ++row) {
      for (std::int32_t column = 0; column < array.array_columns; ++column) {
        const std::uint32_t at = cell_at(array.sheet, array.row + row, array.column + column);
        if (at != no_cell && at != id && cells[at].formula < 0) cells[at].master = id;
      }
    }
  }
}

namespace {

void count_uses(const Book& book, const Formula& formula, const Cell& cell, unsigned& names, unsigned depth, std::vector<int>& uses) {
  for (const Token& token : formula.tokens) {
    // names may stand for names, even for themselves
    if (token.part == Part::name && depth < 50 && ++names < 10000) {
      const Name* name = book.name(token.text, cell.sheet);
      if (name) count_uses(book, name->formula, cell, names, depth + 1, uses);
    }
    if (token.part != Part::cell && token.part != Part::range) continue;
    const std::int32_t sheet = token.on_sheet ? book.sheet_named(token.text) : cell.sheet;
    if (sheet < 0) continue;
    const auto moved = [](std::int32_t at, bool moves, std::int32_t by) { return at + (moves ? by : 0); };
    const std::int32_t to_row = std::min(moved(token.to.row, token.to.row_moves, cell.down), book.last_row_of(sheet));
    const std::int32_t to_column = std::min(moved(token.to.column, token.to.column_moves, cell.right), book.last_column_of(sheet));
    for (std::int32_t row = moved(token.from.row, token.from.row_moves, cell.down); row <= to_row; ++row) {
      for (std::int32_t column = moved(token.from.column, token.from.column_moves, cell.right); column <= to_column; ++column) {
        const std::uint32_t id = book.cell_at(sheet, row, column);
        if (id != no_cell) ++uses[id];
      }
    }
  }
}

}  // namespace

std::vector<int> cell_uses(const Book& book) {
  std::vector<int> uses(book.cells.size(), 0);
  for (const Cell& cell : book.cells) {
    unsigned names = 0;
    if (cell.formula >= 0) count_uses(book, book.formula_of(cell), cell, names, 0, uses);
  }
  return uses;
}

}  // namespace sheet
}  // namespace ensayo
