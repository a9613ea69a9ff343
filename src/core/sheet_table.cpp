#include "sheet_table.h"

#include <algorithm>
#include <cstring>

#include "sheet_formula.h"
#include "sheet_value.h"

namespace ensayo {
namespace sheet {

namespace {

// Rows that a reference asks for.
struct Asked {
  bool all = false, data = false, headings = false, totals = false, this_row = false;
  std::vector<std::string> columns;   // none, one, or the first and the last of several
};

class TableReader {
 public:
  TableReader(const std::string& text, std::size_t at) : text_(text), at_(at) {}

  // From the bracket that opens to behind the one that closes; false where it cannot be read.
  bool read(Asked& out) {
    ++at_;
    blanks();
    if (here() == ']') return closes();
    if (here() == '@') {
      ++at_;
      out.this_row = true;
      if (here() == ']') return closes();
      if (here() != '[') return item(out) && closes();
    }
    if (here() != '[') return item(out) && closes();
    for (;;) {
      if (here() != '[') return false;
      ++at_;
      if (!item(out) || !closes()) return false;
      blanks();
      if (here() == ':') {
        ++at_;
        blanks();
        if (here() != '[') return false;
        ++at_;
        if (!item(out) || !closes()) return false;
        blanks();
      }
      if (here() == ']') return closes();
      if (here() != ',') return false;
      ++at_;
      blanks();
    }
  }

  std::size_t at() const { return at_; }

 private:
  char here() const { return at_ < text_.size() ? text_[at_] : '\0'; }
  void blanks() { while (here() == ' ' || here() == '\n' || here() == '\r') ++at_; }
  bool closes() {
    if (here() != ']') return false;
    ++at_;
    return true;
  }

  // A column's name, in which an apostrophe stands before what would mean something else, or one of the words for rows.
  bool item(Asked& out) {
    const bool word = here() == '#';
    std::string name;
    for (; at_ < text_.size() && here() != ']'; ++at_) {
      if (here() == '\'' && at_ + 1 < text_.size()) ++at_;
      else if (here() == '[') return false;
      name += here();
    }
    if (!word) {
      out.columns.push_back(name);
      return out.columns.size() <= 2;
    }
    const std::string rows = folded(name);
    if (rows == folded("#All")) out.all = true;
    else if (rows == folded("#Data")) out.data = true;
    else if (rows == folded("#Headers")) out.headings = true;
    else if (rows == folded("#Totals")) out.totals = true;
    else if (rows == folded("#This Row")) out.this_row = true;
    else return false;
    return true;
  }

  const std::string& text_;
  std::size_t at_;
};

bool is_word(char c) {
  return (c >= 'A' && c <= 'Z') || (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || std::strchr("_.\\", c) || static_cast<unsigned char>(c) >= 0x80;
}

std::string quoted_sheet(const std::string& name) {
  const bool plain = std::all_of(name.begin(), name.end(), [](char c) { return is_word(c) && !(c >= '0' && c <= '9') && c != '.' && c != '\\'; });
  if (plain) return name;
  std::string out = "'";
  for (char c : name) out += c == '\'' ? "''" : std::string(1, c);
  return out + "'";
}

// The place that is meant, or an error; false for a column that there is not.
bool place_of(const Table& table, const Asked& asked, std::int32_t at_row, std::string& out) {
  std::int32_t column = table.column, to_column = table.to_column;
  for (std::size_t k = 0; k < asked.columns.size(); ++k) {
    const auto found = std::find_if(table.columns.begin(), table.columns.end(), [&](const std::string& one) { return folded(one) == folded(asked.columns[k]); });
    if (found == table.columns.end()) return false;
    const std::int32_t at = table.column + static_cast<std::int32_t>(found - table.columns.begin());
    if (k == 0) column = at;
    to_column = at;
  }
  if (column > to_column) std::swap(column, to_column);
  const std::int32_t first = table.row + table.headings, last = table.to_row - table.totals;
  std::int32_t row = first, to_row = last;
  bool moves = false;
  if (asked.this_row) {
    // elsewhere than in its rows there is no such cell
    if (at_row < first || at_row > last) {
      out = at_row < 0 ? "#REF!" : "#VALUE!";
      return true;
    }
    row = to_row = at_row;
    moves = true;
  } else if (asked.all || (asked.headings && asked.totals)) {
    row = table.row;
    to_row = table.to_row;
  } else if (asked.headings) {
    row = table.row;
    if (!asked.data) to_row = first - 1;
  } else if (asked.totals) {
    to_row = table.to_row;
    if (!asked.data) row = last + 1;
  }
  if (row > to_row) {
    out = "#REF!";
    return true;
  }
  const auto corner = [moves](std::int32_t r, std::int32_t c) {
    const std::string letters = place_text(0, c);
    return "$" + letters.substr(0, letters.size() - 1) + (moves ? "" : "$") + std::to_string(r + 1);
  };
  out = quoted_sheet(table.sheet) + "!" + corner(row, column);
  if (row != to_row || column != to_column) out += ":" + corner(to_row, to_column);
  return true;
}

}  // namespace

std::string without_tables(const std::string& formula, const std::vector<Table>& tables, std::int32_t row) {
  std::string out;
  for (std::size_t at = 0; at < formula.size();) {
    const char c = formula[at];
    if (c == '"' || c == '\'') {
      // texts and names of sheets are passed over
      std::size_t end = formula.find(c, at + 1);
      end = end == std::string::npos ? formula.size() : end + 1;
      out.append(formula, at, end - at);
      at = end;
      continue;
    }
    if (!is_word(c)) {
      out += c;
      ++at;
      continue;
    }
    std::size_t end = at;
    while (end < formula.size() && is_word(formula[end])) ++end;
    const std::string word = formula.substr(at, end - at);
    std::string place;
    const auto table = std::find_if(tables.begin(), tables.end(), [&](const Table& one) { return folded(one.name) == folded(word); });
    if (table != tables.end()) {
      Asked asked;
      TableReader reader(formula, end);
      const char next = end < formula.size() ? formula[end] : ' ';
      if (next == '[') {
        if (reader.read(asked) && place_of(*table, asked, row, place)) end = reader.at();
      } else if (next != '(' && next != '!') {
        place_of(*table, asked, row, place);   // its name alone is its rows of data
      }
    }
    out += place.empty() ? word : place;
    at = end;
  }
  return out;
}

}  // namespace sheet
}  // namespace ensayo
