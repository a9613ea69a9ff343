// The cells that results need, as one list of instructions over blocks of runs.
#ifndef ENSAYO_CORE_SHEET_COMPILE_H
#define ENSAYO_CORE_SHEET_COMPILE_H

#include <cstdint>
#include <map>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "program.h"
#include "sheet_book.h"

namespace ensayo {
namespace sheet {

// What cannot be calculated, and the cell whose formula has it.
struct Refusal {
  std::uint32_t cell;
  std::string why;       // a code: function, foreign, name, fault, circle, moves, random, note, arguments, large
  std::string what;      // the name of the function, say
};

// What cells that formulas refer to are: inputs are columns and the rest follows from them; everything has the file's values and
// follows from those that are numbers themselves; or each cell is calculated from what the file says of those it refers to.
enum class Purpose { runs, values, check };

// Values of formulas while they are compiled: a rectangle of nodes.
struct Matrix {
  std::uint32_t rows = 1, columns = 1;
  std::vector<std::uint32_t> nodes;
  bool reference = false, left_out = false;
  std::int32_t sheet = 0, row = 0, column = 0;   // of a reference
  std::uint32_t node() const { return nodes[0]; }
};

class Compiler {
 public:
  // `inputs`: cells whose values are given by columns, in order; as the file has them but for runs.
  Compiler(Book& book, const std::vector<std::uint32_t>& inputs, Purpose purpose);
  // Compiles what a cell needs; false where it cannot be calculated (`refusal`).
  bool compile(std::uint32_t cell);
  std::uint32_t node_of(std::uint32_t cell) const { return nodes_[cell]; }
  bool is_compiled(std::uint32_t cell) const { return state_[cell] == State::done; }
  bool varies(std::uint32_t cell) const { return varies_[cell]; }
  // What a cell is at the file's values, and the largest size of a number from which it was calculated.
  double calculated(std::uint32_t cell) const { return calculated_[cell]; }
  double scale(std::uint32_t cell) const { return scale_[cell]; }
  const Refusal& refusal() const { return refusal_; }
  // Cells whose saved values stand for what cannot be calculated, but hangs on no input.
  const std::vector<Refusal>& kept() const { return kept_; }
  // The cell in whose formula a node stands first.
  const std::vector<std::uint32_t>& origins() const { return origins_; }
  bool on_one_thread() const { return on_one_thread_; }
  Graph graph;

 private:
  enum class State : std::uint8_t { fresh, open, done };
  bool compile_cell(std::uint32_t cell, std::vector<std::uint32_t>& waits_for);
  bool evaluate(const Formula& formula, const Cell& cell, bool array, Matrix& out, unsigned depth);
  bool take(const Token& token, bool array, const Cell& cell, std::vector<Matrix>& stack, unsigned depth);
  bool take_function(const Token& token, bool array, const Cell& cell, std::vector<Matrix>& stack);
  // Functions that are worked out while formulas are compiled; `taken` where one is.
  bool take_choice(const std::string& name, const std::vector<Matrix>& arguments, Matrix& out, bool& taken);
  bool take_shape(const std::string& name, const std::vector<Matrix>& arguments, const Cell& cell, Matrix& out, bool& taken);
  bool take_place(const std::string& name, const std::vector<Matrix>& arguments, const Cell& cell, Matrix& out, bool& taken);
  bool take_index(const std::vector<Matrix>& arguments, Matrix& out, bool& taken);
  // Look-ups of what is the same in all runs, and conditional sums whose conditions are, need no search in each run.
  void take_lookup(const std::string& name, const std::vector<Matrix>& arguments, Matrix& out, bool& taken);
  void take_conditions(std::string& name, std::vector<Matrix>& arguments);
  bool all_same(const Matrix& matrix) const;
  bool take_subtotal(const std::vector<Matrix>& arguments, const Cell& cell, Matrix& out);
  bool range(std::int32_t sheet, std::int32_t row, std::int32_t column, std::int32_t to_row, std::int32_t to_column, Matrix& out);
  bool refer(const Token& token, const Cell& cell, Matrix& out);
  bool refer_by_text(const std::string& text, const Cell& cell, Matrix& out);
  bool named(const Token& token, bool array, const Cell& cell, Matrix& out, unsigned depth);
  bool spans(const Matrix& from, const Matrix& to, Matrix& out);
  bool references(const Formula& formula, const Cell& cell, unsigned depth);
  Matrix constant(double value);
  Matrix single(const Matrix& matrix, const Cell& cell);
  std::uint32_t apply(const Definition& definition, const std::vector<Shape>& shapes, const std::vector<std::uint32_t>& operands);
  Matrix spread(const Definition& definition, const std::vector<Matrix>& arguments, bool array, const Cell& cell);
  bool refuse(const char* why, const std::string& what);
  // The number that an argument is in all runs; false where it differs or is none.
  bool same_number(const std::vector<Matrix>& arguments, std::size_t k, double other, double& out) const;
  void give(std::uint32_t cell, const Matrix& matrix);
  void settle(std::uint32_t cell, std::uint32_t node);
  void note_size(double number);
  std::uint32_t filled(std::uint32_t node);

  Book& book_;
  const Purpose purpose_;
  std::vector<std::uint32_t> nodes_;             // of cells
  std::vector<double> calculated_, scale_;       // by cell
  std::vector<State> state_;
  std::vector<bool> is_input_, varies_;           // by cell; and whether it hangs on an input
  std::vector<std::uint32_t> origins_;
  std::vector<Refusal> kept_;
  std::vector<std::uint32_t>* waits_ = nullptr;
  std::map<std::pair<const Definition*, std::vector<Shape>>, std::unique_ptr<Call>> calls_;
  Refusal refusal_;
  std::uint32_t at_cell_ = no_cell;
  bool saw_input_ = false, on_one_thread_ = false;
  std::vector<std::pair<std::string, Matrix>> given_;   // names that LET gives, and what they stand for
  std::size_t first_given_ = 0;                  // of the formula that is evaluated
  unsigned names_ = 0;                           // that the cell has used so far
  double largest_ = 0;                           // number from which it is calculated
};

}  // namespace sheet
}  // namespace ensayo

#endif
