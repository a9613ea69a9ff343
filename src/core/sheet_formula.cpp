#include "sheet_formula.h"

#include <cctype>
#include <cmath>

#include "sheet_lexer.h"
#include "sheet_value.h"

namespace ensayo {
namespace sheet {

namespace {

// What waits until its operands are there.
struct Waiting {
  enum class What { sign, parenthesis, function, array } what;
  Token token;
  int rank = 0;                 // of a sign: those of higher rank bind closer
  std::uint32_t arguments = 0, row = 0;
  std::string name;             // of LET, the name that waits for what it stands for
};

constexpr int rank_of_prefix = 6, rank_of_per_cent = 5;

struct Sign { Part part; int rank; };

Sign sign_of(const std::string& text) {
  if (text == ":") return {Part::span, 9};
  if (text == " ") return {Part::intersection, 8};
  if (text == ",") return {Part::both, 7};
  if (text == "^") return {Part::power, 4};
  if (text == "*") return {Part::multiply, 3};
  if (text == "/") return {Part::divide, 3};
  if (text == "+") return {Part::add, 2};
  if (text == "-") return {Part::subtract, 2};
  if (text == "&") return {Part::join, 1};
  if (text == "=") return {Part::equal, 0};
  if (text == "<>") return {Part::unequal, 0};
  if (text == "<") return {Part::less, 0};
  if (text == "<=") return {Part::at_most, 0};
  if (text == ">") return {Part::more, 0};
  return {Part::at_least, 0};
}

class Reader {
 public:
  Reader(const std::string& text, Dialect dialect) : lexer_(text, dialect) {}

  Formula read() {
    for (;;) {
      Token token;
      const Word word = lexer_.next(after_operand_, token);
      if (word == Word::fault) return fault(token.text, token);
      if (word == Word::end) break;
      if (!take(word, token)) return fault(why_, token);
    }
    if (!after_operand_) return fault("an operand is missing at its end", Token());
    pop_signs(-1);
    if (!waiting_.empty()) return fault("a parenthesis without an end", waiting_.back().token);
    return std::move(out_);
  }

 private:
  Formula fault(const std::string& why, const Token& token) {
    out_.tokens.clear();
    out_.fault = why;
    out_.where = token.first;
    return std::move(out_);
  }

  bool refuse(const char* why) {
    why_ = why;
    return false;
  }

  void put(Token token) {
    out_.tokens.push_back(std::move(token));
    after_operand_ = true;
  }

  // Signs that bind at least so close as `rank` have their operands now.
  void pop_signs(int rank) {
    while (!waiting_.empty() && waiting_.back().what == Waiting::What::sign && waiting_.back().rank >= rank) {
      out_.tokens.push_back(waiting_.back().token);
      waiting_.pop_back();
    }
  }

  void wait(Waiting::What what, const Token& token, int rank = 0) {
    Waiting one;
    one.what = what;
    one.token = token;
    one.rank = rank;
    waiting_.push_back(one);
    after_operand_ = false;
  }

  bool take(Word word, Token& token) {
    switch (word) {
      case Word::value:
      case Word::reference:
        if (after_operand_) return refuse("an operator is missing before it");
        put(token);
        return true;
      case Word::opens_function:
      case Word::open:
      case Word::open_array:
        if (after_operand_) return refuse("an operator is missing before it");
        wait(word == Word::open ? Waiting::What::parenthesis : word == Word::open_array ? Waiting::What::array
          : Waiting::What::function, token);
        return true;
      case Word::separator: return take_separator(token);
      case Word::new_row: return take_row();
      case Word::close: return take_close();
      case Word::close_array: return take_array_end();
      default: return take_sign(token);
    }
  }

  bool take_sign(Token& token) {
    if (token.text == "%") {
      if (!after_operand_) return refuse("an operand is missing before it");
      pop_signs(rank_of_per_cent);
      token.part = Part::per_cent;
      put(token);
      return true;
    }
    if (!after_operand_) {
      if (token.text != "-" && token.text != "+") return refuse("an operand is missing before it");
      token.part = token.text == "-" ? Part::minus : Part::plus;
      wait(Waiting::What::sign, token, rank_of_prefix);
      return true;
    }
    const Sign sign = sign_of(token.text);
    pop_signs(sign.rank);
    token.part = sign.part;
    wait(Waiting::What::sign, token, sign.rank);
    return true;
  }

  void put_left_out() {
    Token token;
    token.part = Part::left_out;
    put(token);
  }

  bool take_separator(Token& token) {
    if (after_operand_) pop_signs(0);
    if (waiting_.empty()) return refuse("a separator outside a function");
    Waiting& around = waiting_.back();
    if (around.what == Waiting::What::parenthesis) {
      if (!after_operand_) return refuse("an operand is missing before it");
      token.text = ",";
      return take_sign(token);
    }
    if (around.what == Waiting::What::sign || (around.what == Waiting::What::array && !after_operand_)) return refuse("an operand is missing before it");
    if (!after_operand_) put_left_out();
    if (around.token.text == "LET" && !take_name(around)) return false;
    ++around.arguments;
    after_operand_ = false;
    return true;
  }

  // Names and what they stand for take turns; what comes last is calculated with them.
  bool take_name(Waiting& let) {
    if (let.arguments % 2 == 0) {
      if (out_.tokens.back().part != Part::name) return refuse("a name is missing in LET");
      let.name = out_.tokens.back().text;
      out_.tokens.back() = Token();
      out_.tokens.back().part = Part::left_out;
      return true;
    }
    Token token;
    token.part = Part::binds;
    token.text = let.name;
    out_.tokens.push_back(token);
    return true;
  }

  bool take_row() {
    if (after_operand_) pop_signs(0);
    if (waiting_.empty() || waiting_.back().what != Waiting::What::array || !after_operand_) return refuse("a row's end outside an array");
    Waiting& array = waiting_.back();
    ++array.arguments;
    ++array.row;
    after_operand_ = false;
    return true;
  }

  bool take_close() {
    if (after_operand_) pop_signs(0);
    if (waiting_.empty() || waiting_.back().what == Waiting::What::array) return refuse("a parenthesis that was not opened");
    Waiting around = waiting_.back();
    if (around.what == Waiting::What::sign) return refuse("an operand is missing before it");
    if (around.what == Waiting::What::parenthesis) {
      if (!after_operand_) return refuse("nothing in parentheses");
      waiting_.pop_back();
      return true;
    }
    if (!after_operand_ && around.arguments > 0) put_left_out();
    around.token.count = around.arguments + (after_operand_ ? 1 : 0);
    waiting_.pop_back();
    put(around.token);
    return true;
  }

  bool take_array_end() {
    if (after_operand_) pop_signs(0);
    if (waiting_.empty() || waiting_.back().what != Waiting::What::array || !after_operand_) return refuse("an array that cannot be read");
    Token token = waiting_.back().token;
    const std::uint32_t cells = waiting_.back().arguments + 1, rows = waiting_.back().row + 1;
    waiting_.pop_back();
    if (cells % rows != 0) return refuse("an array whose rows differ in length");
    token.part = Part::array;
    token.count = rows;
    token.number = cells / rows;
    put(token);
    return true;
  }

  Lexer lexer_;
  Formula out_;
  std::vector<Waiting> waiting_;
  bool after_operand_ = false;
  std::string why_;
};

}  // namespace

Formula read_formula(const std::string& text, Dialect dialect) { return Reader(text, dialect).read(); }

bool read_place(const std::string& text, std::int32_t& row, std::int32_t& column) {
  std::size_t at = 0;
  column = row = 0;
  for (; at < text.size() && std::isalpha(static_cast<unsigned char>(text[at])) && at < 4; ++at) column = column * 26 + (text[at] & 0x1f);
  const std::size_t letters = at;
  for (; at < text.size() && std::isdigit(static_cast<unsigned char>(text[at])) && at - letters < 8; ++at) row = row * 10 + (text[at] - '0');
  --column;
  --row;
  return at == text.size() && letters > 0 && at > letters && column >= 0 && column <= last_column && row >= 0 && row <= last_row;
}

std::string place_text(std::int32_t row, std::int32_t column) {
  std::string letters;
  for (std::int32_t rest = column + 1; rest > 0; rest = (rest - 1) / 26) letters.insert(letters.begin(), static_cast<char>('A' + (rest - 1) % 26));
  return letters + std::to_string(row + 1);
}

std::string moved_formula(const std::string& text, const Formula& formula, std::int32_t down, std::int32_t right) {
  const auto corner = [&](const Corner& at, bool has_row, bool has_column) {
    const std::int32_t row = at.row + (at.row_moves ? down : 0), column = at.column + (at.column_moves ? right : 0);
    if (row < 0 || column < 0 || row > last_row || column > last_column) return std::string("#REF!");
    std::string letters = place_text(0, column);
    letters.pop_back();
    return (has_column ? (at.column_moves ? "" : "$") + letters : "") + (has_row ? (at.row_moves ? "" : "$") + std::to_string(row + 1) : "");
  };
  std::string out;
  std::size_t done = 0;
  // functions come after their arguments in the list; references are in order of the text
  for (const Token& token : formula.tokens) {
    if ((token.part != Part::cell && token.part != Part::range) || token.corners < done) continue;
    out += text.substr(done, token.corners - done);
    const bool whole_columns = token.part == Part::range && token.to.row == last_row && token.from.row == 0;
    const bool whole_rows = token.part == Part::range && token.to.column == last_column && token.from.column == 0;
    out += corner(token.from, !whole_columns, !whole_rows);
    if (token.part == Part::range) out += ":" + corner(token.to, !whole_columns, !whole_rows);
    done = token.end;
  }
  return out + text.substr(done);
}

}  // namespace sheet
}  // namespace ensayo
