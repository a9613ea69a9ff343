// Looking up: places of values in rows and columns, and what stands beside them. Only the cells that are looked at are read.
#include "sheet_function.h"

#include <cmath>
#include <utility>

namespace ensayo {
namespace sheet {

namespace {

constexpr std::size_t nowhere = static_cast<std::size_t>(-1);

// A row or a column of an argument, cell by cell.
struct Line {
  const Frame& frame;
  std::size_t argument, first, step, count;
  double at(std::size_t k) const { return frame.at(argument, first + k * step); }
};

Line whole_line(const Frame& frame, std::size_t argument) { return {frame, argument, 0, 1, frame.shape(argument).size()}; }
Line first_column(const Frame& frame, std::size_t argument) {
  const Shape& shape = frame.shape(argument);
  return {frame, argument, 0, shape.columns, shape.rows};
}
Line first_row(const Frame& frame, std::size_t argument) { return {frame, argument, 0, 1, frame.shape(argument).columns}; }

// Where a value stands; texts may be patterns.
std::size_t place_of(double wanted, const Line& line, bool patterns, bool from_end = false) {
  const Texts& texts = line.frame.texts();
  const Type type = type_of(wanted);
  const std::string pattern = type == Type::text ? folded(texts.of(wanted)) : "";
  const bool is_pattern = patterns && pattern.find_first_of("*?~") != std::string::npos;
  for (std::size_t k = 0; k < line.count; ++k) {
    const std::size_t at = from_end ? line.count - 1 - k : k;
    const double x = line.at(at);
    if (type == Type::number && std::isfinite(x)) {
      if (nearly_equal(x, wanted)) return at;
      continue;
    }
    if (type_of(x) != type || type == Type::error || type == Type::empty) continue;
    if (is_pattern ? matches(pattern, folded(texts.of(x))) : compared(x, wanted, texts) == 0) return at;
  }
  return nowhere;
}

// The last place of a rising line at which what stands there is at most a value; others kinds of values are passed over.
std::size_t last_at_most(double wanted, const Line& line, int direction = 1) {
  const Texts& texts = line.frame.texts();
  const Type type = type_of(wanted);
  std::size_t low = 0, high = line.count, found = nowhere;
  while (low < high) {
    std::size_t middle = low + (high - low) / 2, at = middle;
    while (at > low && type_of(line.at(at)) != type) --at;
    if (type_of(line.at(at)) != type) {
      // none here: on above it
      low = middle + 1;
      continue;
    }
    if (direction * compared(line.at(at), wanted, texts) <= 0) {
      found = at;
      low = middle + 1;
    } else high = at;
  }
  return found;
}

double look_in(const Frame& frame, bool by_rows) {
  double wanted = frame.at(0), which;
  bool near;
  double wrong;
  if (is_error(wanted)) return wanted;
  if (is_type(wanted, Type::empty)) wanted = 0;
  if (!frame.number(2, which)) return which;
  if (!frame.logical(3, near, wrong, frame.count() < 4)) return wrong;
  const Shape& table = frame.shape(1);
  const double across = by_rows ? table.columns : table.rows;
  which = std::floor(which);
  if (which < 1) return fault(Error::value);
  if (which > across) return fault(Error::reference);
  const Line keys = by_rows ? first_column(frame, 1) : first_row(frame, 1);
  const std::size_t at = near ? last_at_most(wanted, keys) : place_of(wanted, keys, true);
  if (at == nowhere) return fault(Error::missing);
  const std::size_t beside = static_cast<std::size_t>(which) - 1;
  return frame.at(1, by_rows ? at * table.columns + beside : beside * table.columns + at);
}

double look_down(const Frame& frame) { return look_in(frame, true); }
double look_across(const Frame& frame) { return look_in(frame, false); }

double look_up(const Frame& frame) {
  double wanted = frame.at(0);
  if (is_error(wanted)) return wanted;
  if (is_type(wanted, Type::empty)) wanted = 0;
  const Shape& table = frame.shape(1);
  if (frame.has(2)) {
    const std::size_t at = last_at_most(wanted, whole_line(frame, 1));
    if (at == nowhere) return fault(Error::missing);
    return at < frame.shape(2).size() ? frame.at(2, at) : fault(Error::missing);
  }
  // in the longer direction, and what stands last beside it
  const bool by_rows = table.rows >= table.columns;
  const std::size_t at = last_at_most(wanted, by_rows ? first_column(frame, 1) : first_row(frame, 1));
  if (at == nowhere) return fault(Error::missing);
  return frame.at(1, by_rows ? (at + 1) * table.columns - 1 : (table.rows - 1) * table.columns + at);
}

double match(const Frame& frame) {
  double wanted = frame.at(0), order;
  if (is_error(wanted)) return wanted;
  if (is_type(wanted, Type::empty)) wanted = 0;
  if (!frame.number(2, order, frame.count() < 3)) return order;
  const Line line = whole_line(frame, 1);
  if (frame.shape(1).rows > 1 && frame.shape(1).columns > 1) return fault(Error::missing);
  const std::size_t at = order == 0 ? place_of(wanted, line, true) : last_at_most(wanted, line, order > 0 ? 1 : -1);
  return at == nowhere ? fault(Error::missing) : static_cast<double>(at) + 1;
}

// The nearest place below or above, where nothing is equal.
std::size_t nearest(double wanted, const Line& line, int side) {
  const Texts& texts = line.frame.texts();
  std::size_t best = nowhere;
  for (std::size_t k = 0; k < line.count; ++k) {
    const double x = line.at(k);
    if (type_of(x) != type_of(wanted) || compared(x, wanted, texts) * side <= 0) continue;
    if (best == nowhere || compared(x, line.at(best), texts) * side < 0) best = k;
  }
  return best;
}

std::size_t found_by_mode(double wanted, const Line& line, double mode, double direction) {
  const std::size_t at = place_of(wanted, line, mode == 2, direction < 0);
  return at != nowhere || mode == 0 || mode == 2 ? at : nearest(wanted, line, mode < 0 ? -1 : 1);
}

double match_by_mode(const Frame& frame) {
  const double wanted = frame.at(0);
  double mode, direction;
  if (is_error(wanted)) return wanted;
  if (!frame.number(2, mode)) return mode;
  if (!frame.number(3, direction, 1)) return direction;
  const std::size_t at = found_by_mode(wanted, whole_line(frame, 1), mode, direction);
  return at == nowhere ? fault(Error::missing) : static_cast<double>(at) + 1;
}

double look_by_mode(const Frame& frame) {
  const double wanted = frame.at(0);
  double mode, direction;
  if (is_error(wanted)) return wanted;
  if (!frame.number(4, mode)) return mode;
  if (!frame.number(5, direction, 1)) return direction;
  if (frame.shape(1).size() != frame.shape(2).size()) return fault(Error::value);
  const std::size_t at = found_by_mode(wanted, whole_line(frame, 1), mode, direction);
  if (at == nowhere) return frame.has(3) ? frame.at(3) : fault(Error::missing);
  return frame.at(2, at);
}

// One cell of a range, whose place may differ from run to run.
double cell_of(const Frame& frame) {
  double row, column;
  const Shape& shape = frame.shape(0);
  if (!frame.number(1, row)) return row;
  if (!frame.number(2, column)) return column;
  row = std::floor(row);
  column = std::floor(column);
  if (frame.count() < 3 && shape.rows == 1) std::swap(row, column);
  // of a single row or column, 0 is the one that there is
  if (row == 0 && shape.rows == 1) row = 1;
  if (column == 0 && shape.columns == 1) column = 1;
  if (row < 0 || column < 0) return fault(Error::value);
  if (row > shape.rows || column > shape.columns) return fault(Error::reference);
  if (row == 0 || column == 0) return fault(Error::value);
  return frame.at(0, (static_cast<std::size_t>(row) - 1) * shape.columns + static_cast<std::size_t>(column) - 1);
}

double one_of(const Frame& frame) {
  double which;
  if (!frame.number(0, which)) return which;
  which = std::floor(which);
  if (which < 1 || which >= static_cast<double>(frame.count())) return fault(Error::value);
  const double x = frame.at(static_cast<std::size_t>(which));
  return is_type(x, Type::empty) ? 0 : x;
}

}  // namespace

std::vector<Definition> lookup_definitions() {
  return {{"VLOOKUP", 3, 4, "vrvv", look_down}, {"HLOOKUP", 3, 4, "vrvv", look_across}, {"LOOKUP", 2, 3, "vrr", look_up},
          {"MATCH", 2, 3, "vrv", match}, {"XMATCH", 2, 4, "vrvv", match_by_mode}, {"XLOOKUP", 3, 6, "vrrvvv", look_by_mode},
          {"INDEX", 2, 3, "rvv", cell_of}, {"CHOOSE", 2, -1, "v", one_of}};
}

}  // namespace sheet
}  // namespace ensayo
