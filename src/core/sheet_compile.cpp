#include "sheet_compile.h"

#include <algorithm>
#include <cmath>

namespace ensayo {
namespace sheet {

namespace {

// Names in names: how deep, and how many behind a cell.
constexpr unsigned deepest_name = 50, most_names = 10000;

// Which tokens stand where whole arrays are calculated: in an array formula, or in an argument that takes one. From the
// last, which works on all others, to the first.
std::vector<bool> array_places(const std::vector<Token>& tokens, bool whole) {
  std::vector<bool> out(tokens.size(), false), waiting = {whole};
  for (std::size_t at = tokens.size(); at-- > 0;) {
    const Token& token = tokens[at];
    const bool here = waiting.back();
    waiting.pop_back();
    out[at] = here;
    std::uint32_t operands = 0;
    bool inside = here;
    if (token.part == Part::function) {
      operands = token.count;
      const Definition* definition = definition_of(token.text);
      inside = here || (definition && definition->flags & takes_array);
    } else if (token.part == Part::array) operands = token.count * static_cast<std::uint32_t>(token.number);
    else if (token.part == Part::binds || token.part == Part::minus || token.part == Part::plus || token.part == Part::per_cent) operands = 1;
    else if (token.part >= Part::add) operands = 2;
    for (std::uint32_t k = 0; k < operands; ++k) waiting.push_back(inside);
  }
  return out;
}

const char* sign_of(Part part) {
  switch (part) {
    case Part::add: return "+";
    case Part::subtract: return "-";
    case Part::multiply: return "*";
    case Part::divide: return "/";
    case Part::power: return "^";
    case Part::join: return "&";
    case Part::equal: return "=";
    case Part::unequal: return "<>";
    case Part::less: return "<";
    case Part::at_most: return "<=";
    case Part::more: return ">";
    case Part::at_least: return ">=";
    case Part::minus: return "u-";
    default: return "%";
  }
}

Shape shape_of(const Matrix& matrix) { return {matrix.rows, matrix.columns, matrix.reference, matrix.left_out}; }

}  // namespace

Compiler::Compiler(Book& book, const std::vector<std::uint32_t>& inputs, Purpose purpose)
    : book_(book), purpose_(purpose), nodes_(book.cells.size(), no_node), calculated_(book.cells.size(), empty_value()), scale_(book.cells.size(), 0), state_(book.cells.size(), State::fresh), is_input_(book.cells.size(), false),
      varies_(book.cells.size(), false) {
  for (std::size_t k = 0; k < inputs.size(); ++k) {
    const std::uint32_t cell = inputs[k];
    is_input_[cell] = varies_[cell] = true;
    state_[cell] = State::done;
    calculated_[cell] = book.cells[cell].value;
    nodes_[cell] = purpose == Purpose::runs ? graph.column(static_cast<std::uint32_t>(k), Kind::number, false)
                                            : graph.constant(book.cells[cell].value, Kind::number);
  }
}

bool Compiler::refuse(const char* why, const std::string& what) {
  refusal_ = {at_cell_, why, what};
  return false;
}

Matrix Compiler::constant(double value) {
  Matrix out;
  out.nodes = {graph.constant(value, Kind::number)};
  return out;
}

// Cells wait on a list of their own, so that no depth of a workbook is too much.
bool Compiler::compile(std::uint32_t root) {
  std::vector<std::uint32_t> stack = {root}, waits_for;
  while (!stack.empty()) {
    const std::uint32_t id = stack.back();
    if (state_[id] == State::done) {
      stack.pop_back();
      continue;
    }
    state_[id] = State::open;
    waits_for.clear();
    bool good = compile_cell(id, waits_for);
    for (std::uint32_t other : waits_for) {
      if (good && state_[other] == State::open) {
        at_cell_ = id;
        good = refuse("circle", "");
      }
      if (state_[other] == State::fresh) stack.push_back(other);
    }
    if (!good) {
      for (std::uint32_t each : stack) if (state_[each] == State::open) state_[each] = State::fresh;
      return false;
    }
    if (!waits_for.empty()) continue;
    stack.pop_back();
  }
  return true;
}

// A cell whose formula needs others that are not there yet stays open, and they wait.
bool Compiler::compile_cell(std::uint32_t id, std::vector<std::uint32_t>& waits_for) {
  const Cell cell = book_.cells[id];
  at_cell_ = id;
  if (cell.master != no_cell) {
    if (state_[cell.master] == State::done) state_[id] = State::done;
    else waits_for.push_back(cell.master);
    return true;
  }
  if (cell.formula < 0) {
    nodes_[id] = graph.constant(cell.value, Kind::number);
    calculated_[id] = cell.value;
    origins_.resize(graph.size(), id);
    state_[id] = State::done;
    return true;
  }
  waits_ = &waits_for;
  saw_input_ = false;
  names_ = 0;
  given_.clear();
  first_given_ = 0;
  largest_ = 0;
  const Formula& formula = book_.formula_of(cell);
  const std::string& note = book_.note_of(cell);
  // what it refers to comes first, so that it is known whether an input is behind it
  bool good = references(formula, cell, 0);
  if (good && !waits_for.empty()) return true;
  Matrix out;
  if (good) {
    if (!note.empty()) good = refuse("note", note);
    else if (!formula.fault.empty()) good = refuse("fault", formula.fault);
    else good = evaluate(formula, cell, cell.array_rows * cell.array_columns > 0, out, 0);
  }
  if (good && !waits_for.empty()) {
    origins_.resize(graph.size(), id);
    return true;
  }
  if (!good) {
    waits_for.clear();
    const bool keeps = !saw_input_ && refusal_.why != "random" && refusal_.why != "fault" && !is_type(cell.value, Type::empty);
    if (!keeps) return false;
    kept_.push_back(refusal_);
    out = constant(cell.value);
  }
  give(id, out);
  origins_.resize(graph.size(), id);
  return true;
}

void Compiler::give(std::uint32_t id, const Matrix& matrix) {
  const Cell& cell = book_.cells[id];
  const bool array = cell.array_rows * cell.array_columns > 0;
  settle(id, filled(matrix.nodes.empty() ? graph.constant(empty_value(), Kind::number) : array ? matrix.nodes[0] : single(matrix, cell).node()));
  state_[id] = State::done;
  if (cell.array_rows * cell.array_columns < 2) return;
  for (std::int32_t row = 0; row < cell.array_rows; ++row) {
    for (std::int32_t column = 0; column < cell.array_columns; ++column) {
      const std::uint32_t at = book_.cell_at(cell.sheet, cell.row + row, cell.column + column);
      if (at == no_cell || at == id || book_.cells[at].master != id) continue;
      // a single row or column is repeated
      const std::uint32_t r = matrix.rows == 1 ? 0 : static_cast<std::uint32_t>(row), c = matrix.columns == 1 ? 0 : static_cast<std::uint32_t>(column);
      settle(at, r < matrix.rows && c < matrix.columns ? filled(matrix.nodes[r * matrix.columns + c])
                                                       : graph.constant(error_value(Error::missing), Kind::number));
    }
  }
}

void Compiler::settle(std::uint32_t id, std::uint32_t node) {
  const double saved = book_.cells[id].value;
  varies_[id] = saw_input_;
  scale_[id] = largest_;
  if (graph.is_constant(node)) calculated_[id] = graph[node].value;
  nodes_[id] = purpose_ == Purpose::check && !is_type(saved, Type::empty) ? graph.constant(saved, Kind::number) : node;
}

void Compiler::note_size(double number) {
  if (std::isfinite(number)) largest_ = std::max(largest_, std::fabs(number));
}

// An empty cell that a formula shows is 0.
std::uint32_t Compiler::filled(std::uint32_t node) {
  const Node& of = graph[node];
  if (of.operation == Operation::constant) return is_type(of.value, Type::empty) ? graph.constant(0, Kind::number) : node;
  if (of.operation != Operation::call) return node;
  const Definition& definition = static_cast<const Call*>(of.function)->definition;
  const std::string name = definition.name;
  if (name != "INDEX" && name.find("LOOKUP") == std::string::npos) return node;
  bool any = false;
  graph.each_operand(of, [&](std::uint32_t, std::uint32_t operand) {
    any = any || (graph.is_constant(operand) && is_type(graph[operand].value, Type::empty));
  });
  return any ? apply(*operator_definition("filled"), {{1, 1, false, false}}, {node}) : node;
}

bool Compiler::references(const Formula& formula, const Cell& cell, unsigned depth) {
  if (depth > deepest_name || ++names_ > most_names) return refuse("names", "");
  for (const Token& token : formula.tokens) {
    Matrix unused;
    if (token.part == Part::cell || token.part == Part::range) {
      if (!refer(token, cell, unused)) return false;
    } else if (token.part == Part::name) {
      const Name* name = book_.name(token.text, cell.sheet);
      if (name && !references(name->formula, cell, depth + 1)) return false;
    }
  }
  return true;
}

bool Compiler::evaluate(const Formula& formula, const Cell& cell, bool array, Matrix& out, unsigned depth) {
  if (depth > deepest_name || ++names_ > most_names) return refuse("names", "");
  const std::vector<bool> arrays = array_places(formula.tokens, array);
  std::vector<Matrix> stack;
  // names that LET gives are not known in the formulas of other names
  const std::size_t outside = first_given_;
  first_given_ = given_.size();
  for (std::size_t at = 0; at < formula.tokens.size(); ++at) {
    if (!take(formula.tokens[at], arrays[at], cell, stack, depth)) return false;
  }
  first_given_ = outside;
  out = std::move(stack.back());
  return true;
}

bool Compiler::take(const Token& token, bool array, const Cell& cell, std::vector<Matrix>& stack, unsigned depth) {
  Matrix out;
  switch (token.part) {
    case Part::number:
      note_size(token.number);
      stack.push_back(constant(token.number));
      return true;
    case Part::text: stack.push_back(constant(book_.setting.texts.value(token.text))); return true;
    case Part::logical: stack.push_back(constant(logical_value(token.count != 0))); return true;
    case Part::error: stack.push_back(constant(error_value(static_cast<Error>(token.count)))); return true;
    case Part::left_out:
      out = constant(empty_value());
      out.left_out = true;
      break;
    case Part::cell:
    case Part::range:
      if (!refer(token, cell, out)) return false;
      break;
    case Part::foreign: return refuse("foreign", token.text);
    case Part::binds:
      given_.emplace_back(folded(token.text), stack.back());
      return true;
    case Part::name:
      if (!named(token, array, cell, out, depth)) return false;
      break;
    case Part::function: return take_function(token, array, cell, stack);
    case Part::array: {
      const std::size_t count = token.count * static_cast<std::size_t>(token.number);
      out.rows = token.count;
      out.columns = static_cast<std::uint32_t>(token.number);
      for (std::size_t k = stack.size() - count; k < stack.size(); ++k) out.nodes.push_back(stack[k].node());
      stack.resize(stack.size() - count);
      break;
    }
    case Part::plus: return true;
    case Part::span:
    case Part::intersection:
    case Part::both: {
      const Matrix second = stack.back(), first = stack[stack.size() - 2];
      stack.resize(stack.size() - 2);
      if (!first.reference || !second.reference) return refuse("moves", token.part == Part::span ? ":" : "");
      if (token.part == Part::span) {
        if (!spans(first, second, out)) return false;
      } else if (token.part == Part::both) {
        out.reference = true;
        out.nodes = first.nodes;
        out.nodes.insert(out.nodes.end(), second.nodes.begin(), second.nodes.end());
        out.rows = static_cast<std::uint32_t>(out.nodes.size());
      } else {
        const std::int32_t row = std::max(first.row, second.row), column = std::max(first.column, second.column);
        const std::int32_t to_row = std::min(first.row + static_cast<std::int32_t>(first.rows), second.row + static_cast<std::int32_t>(second.rows)) - 1;
        const std::int32_t to_column = std::min(first.column + static_cast<std::int32_t>(first.columns), second.column + static_cast<std::int32_t>(second.columns)) - 1;
        if (first.sheet != second.sheet || row > to_row || column > to_column) out = constant(error_value(Error::null));
        else if (!range(first.sheet, row, column, to_row, to_column, out)) return false;
      }
      break;
    }
    default: {
      const std::size_t count = token.part >= Part::add ? 2 : 1;
      std::vector<Matrix> operands(stack.end() - static_cast<std::ptrdiff_t>(count), stack.end());
      stack.resize(stack.size() - count);
      out = spread(*operator_definition(sign_of(token.part)), operands, array, cell);
    }
  }
  stack.push_back(std::move(out));
  return true;
}

bool Compiler::take_function(const Token& token, bool array, const Cell& cell, std::vector<Matrix>& stack) {
  std::vector<Matrix> arguments(stack.end() - static_cast<std::ptrdiff_t>(token.count), stack.end());
  stack.resize(stack.size() - token.count);
  std::string name = token.text;
  if (name == "RAND" || name == "RANDBETWEEN" || name == "RANDARRAY" || name == "RAND.NV" || name == "RANDBETWEEN.NV") return refuse("random", name);
  if (name == "TODAY" || name == "NOW") return refuse("volatile", name);
  if (name == "LET") {
    if (token.count < 3 || token.count % 2 == 0) return refuse("arguments", name);
    given_.resize(given_.size() - (token.count - 1) / 2);
    stack.push_back(arguments.back());
    return true;
  }
  Matrix out;
  bool taken = false;
  if (!take_choice(name, arguments, out, taken) || (!taken && !take_shape(name, arguments, cell, out, taken)) ||
      (!taken && !take_place(name, arguments, cell, out, taken))) return false;
  if (!taken) take_lookup(name, arguments, out, taken);
  if (!taken) {
    if (!array) take_conditions(name, arguments);
    const Definition* definition = definition_of(name);
    if (!definition) return refuse("function", name);
    const int count = static_cast<int>(token.count);
    if (count < definition->least || (definition->most >= 0 && count > definition->most)) return refuse("arguments", name);
    out = spread(*definition, arguments, array, cell);
    if (out.nodes.size() == 1 && graph.is_constant(out.node()) && is_error(graph[out.node()].value) &&
        error_of(graph[out.node()].value) == Error::unsupported) return refuse("format", name);
  }
  stack.push_back(std::move(out));
  return true;
}

std::uint32_t Compiler::apply(const Definition& definition, const std::vector<Shape>& shapes, const std::vector<std::uint32_t>& operands) {
  std::unique_ptr<Call>& call = calls_[{&definition, shapes}];
  if (!call) call.reset(new Call(definition, shapes, book_.setting));
  const std::uint32_t node = graph.call(*call, Kind::number, operands);
  if (!graph.is_constant(node) && definition.flags & (makes_texts | main_thread_only)) on_one_thread_ = true;
  return node;
}

// A function of its arguments; where single values are meant and arrays are given, one call for each of their cells.
Matrix Compiler::spread(const Definition& definition, const std::vector<Matrix>& given, bool array, const Cell& cell) {
  const std::string takes = definition.takes;
  const auto is_single = [&](std::size_t k) {
    if (takes.empty()) return true;
    if (k < takes.size()) return takes[k] == 'v';
    return takes.size() == 1 ? takes[0] == 'v' : takes[takes.size() - 2 + (k - takes.size()) % 2] == 'v';
  };
  std::vector<Matrix> arguments = given;
  Matrix out;
  for (std::size_t k = 0; k < arguments.size(); ++k) {
    if (!is_single(k)) continue;
    if (!array && arguments[k].reference) arguments[k] = single(arguments[k], cell);
    out.rows = std::max(out.rows, arguments[k].rows);
    out.columns = std::max(out.columns, arguments[k].columns);
  }
  std::vector<Shape> shapes;
  for (std::size_t k = 0; k < arguments.size(); ++k) {
    Shape shape = shape_of(arguments[k]);
    if (is_single(k)) shape.rows = shape.columns = 1;
    shapes.push_back(shape);
  }
  for (std::uint32_t r = 0; r < out.rows; ++r) {
    for (std::uint32_t c = 0; c < out.columns; ++c) {
      std::vector<std::uint32_t> operands;
      bool outside = false;
      for (std::size_t k = 0; k < arguments.size(); ++k) {
        const Matrix& from = arguments[k];
        if (!is_single(k)) {
          operands.insert(operands.end(), from.nodes.begin(), from.nodes.end());
          continue;
        }
        const std::uint32_t row = from.rows == 1 ? 0 : r, column = from.columns == 1 ? 0 : c;
        outside = outside || row >= from.rows || column >= from.columns;
        operands.push_back(outside ? no_node : from.nodes[row * from.columns + column]);
      }
      out.nodes.push_back(outside ? graph.constant(error_value(Error::missing), Kind::number) : apply(definition, shapes, operands));
    }
  }
  return out;
}

}  // namespace sheet
}  // namespace ensayo
