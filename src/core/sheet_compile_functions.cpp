// Functions that are worked out while a workbook's formulas are compiled: what they choose or refer to is the same in all runs.
#include "sheet_compile.h"

#include <algorithm>
#include <cmath>

namespace ensayo {
namespace sheet {

bool Compiler::same_number(const std::vector<Matrix>& arguments, std::size_t k, double other, double& out) const {
  out = other;
  if (k >= arguments.size() || arguments[k].left_out) return true;
  if (arguments[k].nodes.size() != 1 || !graph.is_constant(arguments[k].node())) return false;
  out = as_number(graph[arguments[k].node()].value, book_.setting.texts);
  return std::isfinite(out);
}

// Where a condition is the same in all runs, only what it chooses is needed.
bool Compiler::take_choice(const std::string& name, const std::vector<Matrix>& arguments, Matrix& out, bool& taken) {
  double which;
  if (name == "IF" && arguments.size() >= 2 && arguments.size() <= 3) {
    if (arguments[0].nodes.size() != 1 || !graph.is_constant(arguments[0].node())) return true;
    const double condition = as_logical(graph[arguments[0].node()].value, book_.setting.texts);
    taken = true;
    if (is_error(condition)) out = constant(condition);
    else if (payload_of(condition)) out = arguments[1];
    else out = arguments.size() > 2 ? arguments[2] : constant(logical_value(false));
    if (out.left_out) out = constant(0);
  } else if (name == "CHOOSE" && arguments.size() >= 2 && same_number(arguments, 0, 0, which)) {
    taken = true;
    which = std::floor(which);
    out = which < 1 || which >= static_cast<double>(arguments.size()) ? constant(error_value(Error::value)) : arguments[static_cast<std::size_t>(which)];
    if (out.left_out) out = constant(0);
  }
  return true;
}

// Functions of where cells are and of how many.
bool Compiler::take_shape(const std::string& name, const std::vector<Matrix>& arguments, const Cell& cell, Matrix& out, bool& taken) {
  const bool has = !arguments.empty() && !arguments[0].left_out;
  if (name == "ROWS" || name == "COLUMNS") {
    if (arguments.size() != 1) return refuse("arguments", name);
    taken = true;
    out = constant(name == "ROWS" ? arguments[0].rows : arguments[0].columns);
  } else if (name == "ROW" || name == "COLUMN") {
    if (has && !arguments[0].reference) return refuse("moves", name);
    taken = true;
    const bool rows = name == "ROW";
    const std::int32_t first = has ? (rows ? arguments[0].row : arguments[0].column) : (rows ? cell.row : cell.column);
    out.rows = has && rows ? arguments[0].rows : 1;
    out.columns = has && !rows ? arguments[0].columns : 1;
    for (std::uint32_t k = 0; k < out.rows * out.columns; ++k) out.nodes.push_back(graph.constant(first + 1.0 + k, Kind::number));
  } else if (name == "TRANSPOSE") {
    if (arguments.size() != 1) return refuse("arguments", name);
    taken = true;
    const Matrix& from = arguments[0];
    out.rows = from.columns;
    out.columns = from.rows;
    for (std::uint32_t r = 0; r < out.rows; ++r) for (std::uint32_t c = 0; c < out.columns; ++c) out.nodes.push_back(from.nodes[c * from.columns + r]);
  } else if (name == "SUBTOTAL") {
    taken = true;
    return take_subtotal(arguments, cell, out);
  } else if (name == "SHEET" || name == "SHEETS") {
    taken = true;
    out = constant(name == "SHEET" ? (has ? arguments[0].sheet : cell.sheet) + 1.0 : static_cast<double>(book_.sheets.size()));
  }
  return true;
}

bool Compiler::take_place(const std::string& name, const std::vector<Matrix>& arguments, const Cell& cell, Matrix& out, bool& taken) {
  if (name == "INDEX") return take_index(arguments, out, taken);
  if (name == "INDIRECT") {
    taken = true;
    double plain;
    if (arguments.empty() || arguments[0].nodes.size() != 1 || !graph.is_constant(arguments[0].node())) return refuse("moves", name);
    if (arguments.size() > 1 && (!same_number(arguments, 1, 1, plain) || plain == 0)) return refuse("moves", name);
    const double value = graph[arguments[0].node()].value;
    return is_type(value, Type::text) ? refer_by_text(book_.setting.texts.of(value), cell, out) : refuse("moves", name);
  }
  if (name != "OFFSET") return true;
  taken = true;
  double rows, columns, height, width;
  if (arguments.size() < 3 || !arguments[0].reference) return refuse("arguments", name);
  if (!same_number(arguments, 1, 0, rows) || !same_number(arguments, 2, 0, columns) || !same_number(arguments, 3, arguments[0].rows, height) ||
      !same_number(arguments, 4, arguments[0].columns, width)) return refuse("moves", name);
  const double row = arguments[0].row + std::trunc(rows), column = arguments[0].column + std::trunc(columns);
  if (row < 0 || column < 0 || height < 1 || width < 1 || row + height > last_row + 1.0 || column + width > last_column + 1.0) {
    out = constant(error_value(Error::reference));
    return true;
  }
  return range(arguments[0].sheet, static_cast<std::int32_t>(row), static_cast<std::int32_t>(column), static_cast<std::int32_t>(row + std::trunc(height)) - 1,
               static_cast<std::int32_t>(column + std::trunc(width)) - 1, out);
}

// At places that are the same in all runs INDEX is a reference; else a cell is picked in each run.
bool Compiler::take_index(const std::vector<Matrix>& arguments, Matrix& out, bool& taken) {
  double row, column;
  if (arguments.empty() || arguments.size() > 3) return refuse("arguments", "INDEX");
  const Matrix& from = arguments[0];
  const bool line = arguments.size() < 3 && from.rows == 1;
  if (!same_number(arguments, line ? 2 : 1, line ? 1 : 0, row) || !same_number(arguments, line ? 1 : 2, from.columns == 1 ? 1 : 0, column)) {
    // a whole row or column that differs from run to run would not be one value
    double zero;
    for (std::size_t k = 1; k < arguments.size(); ++k) {
      if (same_number(arguments, k, 0, zero) && zero == 0 && (k == 1 ? from.rows : from.columns) > 1) return refuse("moves", "INDEX");
    }
    return true;
  }
  taken = true;
  row = std::floor(row);
  column = std::floor(column);
  if (row < 0 || column < 0 || row > from.rows || column > from.columns) {
    out = constant(error_value(row < 0 || column < 0 ? Error::value : Error::reference));
    return true;
  }
  const std::uint32_t first_row = row == 0 ? 0 : static_cast<std::uint32_t>(row) - 1, first_column = column == 0 ? 0 : static_cast<std::uint32_t>(column) - 1;
  out.rows = row == 0 ? from.rows : 1;
  out.columns = column == 0 ? from.columns : 1;
  out.reference = from.reference;
  out.sheet = from.sheet;
  out.row = from.row + static_cast<std::int32_t>(first_row);
  out.column = from.column + static_cast<std::int32_t>(first_column);
  for (std::uint32_t r = 0; r < out.rows; ++r) {
    for (std::uint32_t c = 0; c < out.columns; ++c) out.nodes.push_back(from.nodes[(first_row + r) * from.columns + first_column + c]);
  }
  return true;
}

bool Compiler::all_same(const Matrix& matrix) const {
  return std::all_of(matrix.nodes.begin(), matrix.nodes.end(), [&](std::uint32_t node) { return graph.is_constant(node); });
}

void Compiler::take_lookup(const std::string& name, const std::vector<Matrix>& arguments, Matrix& out, bool& taken) {
  const bool down = name == "VLOOKUP";
  if ((!down && name != "HLOOKUP") || arguments.size() < 3 || arguments.size() > 4 || arguments[0].nodes.size() != 1) return;
  const Matrix& table = arguments[1];
  double which, near;
  if (!same_number(arguments, 2, 0, which) || !same_number(arguments, 3, arguments.size() < 4, near)) return;
  which = std::floor(which);
  if (which < 1 || which > (down ? table.columns : table.rows)) return;
  Matrix keys;
  keys.rows = down ? table.rows : 1;
  keys.columns = down ? 1 : table.columns;
  for (std::uint32_t k = 0; k < (down ? table.rows : table.columns); ++k) keys.nodes.push_back(table.nodes[down ? k * table.columns : k]);
  if (!all_same(arguments[0]) || !all_same(keys)) return;
  std::vector<std::uint32_t> operands = {arguments[0].node()};
  operands.insert(operands.end(), keys.nodes.begin(), keys.nodes.end());
  operands.push_back(graph.constant(near != 0, Kind::number));
  const Shape one = {1, 1, false, false};
  const double place = graph[apply(*definition_of("MATCH"), {one, {keys.rows, keys.columns, true, false}, one}, operands)].value;
  taken = true;
  const std::size_t at = static_cast<std::size_t>(place) - 1, beside = static_cast<std::size_t>(which) - 1;
  if (is_error(place)) out = constant(place);
  else out.nodes = {table.nodes[down ? at * table.columns + beside : beside * table.columns + at]};
}

// Cells that miss a condition which is the same in all runs are left out, and so is the condition.
void Compiler::take_conditions(std::string& name, std::vector<Matrix>& arguments) {
  const bool single = name == "SUMIF" || name == "AVERAGEIF";
  const bool many = name == "SUMIFS" || name == "AVERAGEIFS" || name == "MINIFS" || name == "MAXIFS" || name == "COUNTIFS";
  if ((!single && !many) || arguments.size() < 2) return;
  const std::size_t first = name == "COUNTIFS" || single ? 0 : 1, size = arguments[first].nodes.size();
  if (single && (arguments.size() < 3 || arguments[2].nodes.size() != size)) return;
  std::vector<std::size_t> same, open;
  for (std::size_t k = first; k + 1 < arguments.size() && !(single && k > 0); k += 2) {
    if (arguments[k].nodes.size() != size || arguments[k + 1].nodes.size() != 1 || arguments[k].rows != arguments[first].rows) return;
    (all_same(arguments[k]) && all_same(arguments[k + 1]) ? same : open).push_back(k);
  }
  if (same.empty() || (!single && first == 1 && arguments[0].nodes.size() != size)) return;
  std::vector<Criterion> criteria;
  for (std::size_t k : same) criteria.emplace_back(graph[arguments[k + 1].node()].value, book_.setting.texts);
  std::vector<std::size_t> kept;
  for (std::size_t j = 0; j < size; ++j) {
    bool met = true;
    for (std::size_t c = 0; c < same.size() && met; ++c) met = criteria[c].met(graph[arguments[same[c]].nodes[j]].value);
    if (met) kept.push_back(j);
  }
  if (kept.empty()) return;
  const auto reduced = [&](const Matrix& from) {
    Matrix out;
    out.reference = from.reference;
    out.rows = static_cast<std::uint32_t>(kept.size());
    for (std::size_t j : kept) out.nodes.push_back(from.nodes[j]);
    return out;
  };
  std::vector<Matrix> left;
  if (single || (open.empty() && first == 1)) {
    // without a condition it is a plain sum
    left = {reduced(arguments[single ? 2 : 0])};
    name.resize(name.find("IF"));
  } else if (open.empty()) {
    left = {constant(static_cast<double>(kept.size()))};
    name = "SUM";
  } else {
    if (first == 1) left.push_back(reduced(arguments[0]));
    for (std::size_t k : open) {
      left.push_back(reduced(arguments[k]));
      left.push_back(arguments[k + 1]);
    }
  }
  arguments = std::move(left);
}

// Cells that are subtotals themselves do not count.
bool Compiler::take_subtotal(const std::vector<Matrix>& arguments, const Cell& cell, Matrix& out) {
  static const char* const names[] = {"AVERAGE", "COUNT", "COUNTA", "MAX", "MIN", "PRODUCT", "STDEV", "STDEVP", "SUM", "VAR", "VARP"};
  double code;
  if (arguments.size() < 2) return refuse("arguments", "SUBTOTAL");
  if (!same_number(arguments, 0, 0, code)) return refuse("moves", "SUBTOTAL");
  code = std::floor(code);
  if (code > 100) code -= 100;
  if (code < 1 || code > 11) {
    out = constant(error_value(Error::value));
    return true;
  }
  std::vector<Matrix> ranges(arguments.begin() + 1, arguments.end());
  for (Matrix& each : ranges) {
    if (!each.reference) continue;
    for (std::uint32_t k = 0; k < each.nodes.size(); ++k) {
      const std::uint32_t id = book_.cell_at(each.sheet, each.row + static_cast<std::int32_t>(k / each.columns), each.column + static_cast<std::int32_t>(k % each.columns));
      if (id == no_cell || book_.cells[id].formula < 0) continue;
      const std::vector<Token>& tokens = book_.formula_of(book_.cells[id]).tokens;
      const bool is_one = std::any_of(tokens.begin(), tokens.end(), [](const Token& token) { return token.part == Part::function && token.text == "SUBTOTAL"; });
      if (is_one) each.nodes[k] = graph.constant(empty_value(), Kind::number);
    }
  }
  out = spread(*definition_of(names[static_cast<std::size_t>(code) - 1]), ranges, false, cell);
  return true;
}

}  // namespace sheet
}  // namespace ensayo
