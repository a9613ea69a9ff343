// What formulas refer to: cells, ranges, and the one cell of a range that is meant.
#include "sheet_compile.h"

#include <algorithm>

namespace ensayo {
namespace sheet {

namespace {

constexpr std::size_t largest_range = 5000000;
constexpr double large_range = 100000;

}  // namespace

bool Compiler::refer(const Token& token, const Cell& cell, Matrix& out) {
  const std::int32_t sheet = token.on_sheet ? book_.sheet_named(token.text) : cell.sheet;
  if (sheet < 0) return refuse("sheet", token.text);
  const auto moved = [](std::int32_t at, bool moves, std::int32_t by) { return at + (moves ? by : 0); };
  std::int32_t row = moved(token.from.row, token.from.row_moves, cell.down), to_row = moved(token.to.row, token.to.row_moves, cell.down);
  std::int32_t column = moved(token.from.column, token.from.column_moves, cell.right), to_column = moved(token.to.column, token.to.column_moves, cell.right);
  if (row > to_row) std::swap(row, to_row);
  if (column > to_column) std::swap(column, to_column);
  if (row < 0 || column < 0 || to_row > last_row || to_column > last_column) {
    out = constant(error_value(Error::reference));
    return true;
  }
  return range(sheet, row, column, to_row, to_column, out);
}

bool Compiler::refer_by_text(const std::string& text, const Cell& cell, Matrix& out) {
  const Formula formula = read_formula(text, Dialect::office);
  if (formula.tokens.size() != 1) return refuse("moves", "INDIRECT");
  const Token& token = formula.tokens[0];
  Cell at = cell;
  at.down = at.right = 0;
  if (token.part == Part::cell || token.part == Part::range) return refer(token, at, out);
  const Name* name = token.part == Part::name ? book_.name(token.text, cell.sheet) : nullptr;
  if (!name || name->formula.tokens.size() != 1) return refuse("moves", "INDIRECT");
  const Token& named = name->formula.tokens[0];
  return named.part == Part::cell || named.part == Part::range ? refer(named, at, out) : refuse("moves", "INDIRECT");
}

// What a name stands for: one that LET gives, or one of the workbook's.
bool Compiler::named(const Token& token, bool array, const Cell& cell, Matrix& out, unsigned depth) {
  const std::string called = folded(token.text);
  std::size_t k = given_.size();
  while (k > first_given_ && given_[k - 1].first != called) --k;
  if (k > first_given_) {
    out = given_[k - 1].second;
    return true;
  }
  const Name* name = book_.name(token.text, cell.sheet);
  if (!name) return refuse("name", token.text);
  if (!name->formula.fault.empty()) return refuse("fault", name->formula.fault);
  Cell from = cell;
  // what moves in a name moves from the first cell on
  from.down = cell.row;
  from.right = cell.column;
  return evaluate(name->formula, from, array, out, depth + 1);
}

bool Compiler::spans(const Matrix& first, const Matrix& second, Matrix& out) {
  if (first.sheet != second.sheet) return refuse("moves", ":");
  const auto end = [](std::int32_t at, std::uint32_t size) { return at + static_cast<std::int32_t>(size) - 1; };
  return range(first.sheet, std::min(first.row, second.row), std::min(first.column, second.column),
               std::max(end(first.row, first.rows), end(second.row, second.rows)),
               std::max(end(first.column, first.columns), end(second.column, second.columns)), out);
}

// Cells of a range. Of whole rows and columns, and of large ranges, those beyond the last used are left out.
bool Compiler::range(std::int32_t sheet, std::int32_t row, std::int32_t column, std::int32_t to_row, std::int32_t to_column, Matrix& out) {
  const bool large = static_cast<double>(to_row - row + 1) * static_cast<double>(to_column - column + 1) > large_range;
  if (to_row == last_row || large) to_row = std::max(row, std::min(to_row, book_.last_row_of(sheet)));
  if (to_column == last_column || large) to_column = std::max(column, std::min(to_column, book_.last_column_of(sheet)));
  out = Matrix();
  out.rows = static_cast<std::uint32_t>(to_row - row + 1);
  out.columns = static_cast<std::uint32_t>(to_column - column + 1);
  out.reference = true;
  out.sheet = sheet;
  out.row = row;
  out.column = column;
  const std::size_t count = static_cast<std::size_t>(out.rows) * out.columns;
  if (count > largest_range) return refuse("large", "");
  out.nodes.reserve(count);
  const std::uint32_t nothing = graph.constant(empty_value(), Kind::number);
  for (std::int32_t r = row; r <= to_row; ++r) {
    for (std::int32_t c = column; c <= to_column; ++c) {
      const std::uint32_t id = book_.cell_at(sheet, r, c);
      if (id == no_cell) {
        out.nodes.push_back(nothing);
      } else if (state_[id] != State::done) {
        waits_->push_back(id);
        out.nodes.push_back(nothing);
      } else {
        saw_input_ = saw_input_ || varies_[id];
        if (graph.is_constant(nodes_[id])) note_size(graph[nodes_[id]].value);
        out.nodes.push_back(nodes_[id]);
      }
    }
  }
  return true;
}

// Where one value is meant: of a column the cell in this row, of a row the one in this column.
Matrix Compiler::single(const Matrix& matrix, const Cell& cell) {
  if (matrix.nodes.size() == 1) {
    Matrix out = matrix;
    return out;
  }
  Matrix out;
  if (!matrix.reference) {
    out.nodes = {matrix.nodes[0]};
    return out;
  }
  const std::int32_t row = cell.row - matrix.row, column = cell.column - matrix.column;
  if (matrix.columns == 1 && row >= 0 && row < static_cast<std::int32_t>(matrix.rows)) out.nodes = {matrix.nodes[static_cast<std::size_t>(row)]};
  else if (matrix.rows == 1 && column >= 0 && column < static_cast<std::int32_t>(matrix.columns)) out.nodes = {matrix.nodes[static_cast<std::size_t>(column)]};
  else return constant(error_value(Error::value));
  return out;
}

}  // namespace sheet
}  // namespace ensayo
