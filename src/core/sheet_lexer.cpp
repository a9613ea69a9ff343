#include "sheet_lexer.h"

#include <cstring>

#include "number_text.h"
#include "sheet_value.h"

namespace ensayo {
namespace sheet {

namespace {

bool is_letter(char c) { return (c >= 'A' && c <= 'Z') || (c >= 'a' && c <= 'z'); }
bool is_digit(char c) { return c >= '0' && c <= '9'; }
bool is_blank(char c) { return c == ' ' || c == '\t' || c == '\n' || c == '\r'; }
bool is_name_character(char c) { return is_letter(c) || is_digit(c) || std::strchr("_.\\?$", c) || static_cast<unsigned char>(c) >= 0x80; }

// Names that later versions of programs write with the place they come from before them.
std::string plain_name(std::string name) {
  for (const char* before : {"_XLFN.", "_XLWS.", "COM.MICROSOFT.", "COM.SUN.STAR.SHEET.ADDIN.ANALYSIS.GET", "ORG.OPENOFFICE.",
                             "ORG.LIBREOFFICE.", "LEGACY."}) {
    if (name.compare(0, std::strlen(before), before) == 0) name.erase(0, std::strlen(before));
  }
  return name;
}

}  // namespace

Lexer::Lexer(const std::string& text, Dialect dialect) : text_(text), dialect_(dialect) {
  // "of:=", "oooc:=" and "msoxl:=" tell the language
  const std::size_t begins = text.find('=');
  if (dialect == Dialect::document && begins != std::string::npos && begins < 8) at_ = begins + 1;
  else if (!text.empty() && text[0] == '=') at_ = 1;
}

Word Lexer::fault(Token& token, const char* why) {
  token.text = why;
  token.first = at_;
  return Word::fault;
}

Word Lexer::next(bool after_operand, Token& token) {
  token = Token();
  const std::size_t before = at_;
  while (at_ < text_.size() && is_blank(text_[at_])) ++at_;
  token.first = at_;
  const bool parted = at_ > before && after_operand;
  if (at_ == text_.size()) return Word::end;
  const char c = text_[at_];
  const bool begins_reference = is_letter(c) || c == '$' || c == '\'' || c == '_' || c == '[' || static_cast<unsigned char>(c) >= 0x80;
  if (parted && dialect_ == Dialect::office && (begins_reference || c == '(')) {
    token.text = " ";
    return Word::sign;
  }
  const bool has_next = at_ + 1 < text_.size();
  if (is_digit(c) || (c == '.' && has_next && is_digit(text_[at_ + 1]))) {
    // whole rows such as 2:5 begin with a digit
    Token whole;
    std::size_t end = at_;
    if (dialect_ == Dialect::office && area(text_, end, whole)) return reference_after("", false, token);
    return number(token);
  }
  if (c == '"') return quoted_text(token);
  if (c == '#') return error(token);
  if (c == '[' && dialect_ == Dialect::document) return bracketed(token);
  if (begins_reference || c == '\\') return named(token);
  ++at_;
  token.end = at_;
  switch (c) {
    case '(': return Word::open;
    case ')': return Word::close;
    case '{': return Word::open_array;
    case '}': return Word::close_array;
    case '|': if (dialect_ == Dialect::document) return Word::new_row; break;
    case ';': return dialect_ == Dialect::document ? Word::separator : Word::new_row;
    case ',': if (dialect_ == Dialect::office) return Word::separator; break;
    case '~': if (dialect_ == Dialect::document) { token.text = ","; return Word::sign; } break;
    case '!': if (dialect_ == Dialect::document) { token.text = " "; return Word::sign; } break;
    case '@': return next(after_operand, token);   // the cell of this row: what a single value takes of a range anyway
    default: break;
  }
  if (c == '<' || c == '>') {
    token.text = c;
    if (at_ < text_.size() && (text_[at_] == '=' || (c == '<' && text_[at_] == '>'))) token.text += text_[at_++];
    return Word::sign;
  }
  if (std::strchr("+-*/^&=%:", c)) {
    token.text = c;
    return Word::sign;
  }
  at_ = token.first;
  return fault(token, "a character that formulas do not have");
}

Word Lexer::number(Token& token) {
  const std::size_t first = at_;
  const auto digits = [&] { while (at_ < text_.size() && is_digit(text_[at_])) ++at_; };
  digits();
  if (at_ < text_.size() && text_[at_] == '.') {
    ++at_;
    digits();
  }
  if (at_ < text_.size() && (text_[at_] == 'e' || text_[at_] == 'E')) {
    std::size_t power = at_ + 1;
    if (power < text_.size() && (text_[power] == '+' || text_[power] == '-')) ++power;
    if (power < text_.size() && is_digit(text_[power])) {
      at_ = power;
      digits();
    }
  }
  token.part = Part::number;
  token.end = at_;
  return read_number_text(text_.substr(first, at_ - first).c_str(), token.number) ? Word::value : fault(token, "a number that cannot be read");
}

// What stands between quotes, of which a double one is one; at_ goes behind it. Where it does not end, all of the rest.
std::string Lexer::quoted(char quote) {
  std::string out;
  for (++at_; at_ < text_.size(); ++at_) {
    if (text_[at_] == quote) {
      if (at_ + 1 >= text_.size() || text_[at_ + 1] != quote) {
        ++at_;
        return out;
      }
      ++at_;
    }
    out += text_[at_];
  }
  ++at_;
  return out;
}

Word Lexer::quoted_text(Token& token) {
  token.part = Part::text;
  token.text = quoted('"');
  if (at_ > text_.size()) return fault(token, "a text without an end");
  token.end = at_;
  return Word::value;
}

Word Lexer::error(Token& token) {
  std::size_t end = at_ + 1;
  while (end < text_.size() && (is_letter(text_[end]) || is_digit(text_[end]) || text_[end] == '/')) ++end;
  if (end < text_.size() && (text_[end] == '!' || text_[end] == '?')) ++end;
  token.part = Part::error;
  token.count = error_named(text_.substr(at_, end - at_));
  if (token.count == 0) return fault(token, "an error value that is not known");
  at_ = token.end = end;
  return Word::value;
}

bool Lexer::corner(const std::string& text, std::size_t& at, Corner& out) const {
  std::size_t i = at;
  out = {-1, -1, true, true};
  if (i < text.size() && text[i] == '$') {
    out.column_moves = false;
    ++i;
  }
  std::int32_t column = 0;
  std::size_t letters = 0;
  while (i < text.size() && is_letter(text[i]) && letters < 4) {
    column = column * 26 + (text[i] & 0x1f);
    ++i;
    ++letters;
  }
  if (letters > 3 || column > last_column + 1) return false;
  if (letters > 0) {
    out.column = column - 1;
    if (i < text.size() && text[i] == '$') {
      out.row_moves = false;
      ++i;
    }
  } else if (!out.column_moves) {
    // the sign belongs to the row
    out.column_moves = true;
    out.row_moves = false;
  }
  std::int32_t row = 0;
  std::size_t digits = 0;
  while (i < text.size() && is_digit(text[i]) && digits < 8) {
    row = row * 10 + (text[i] - '0');
    ++i;
    ++digits;
  }
  if (digits > 7 || row > last_row + 1 || (digits > 0 && row == 0)) return false;
  if (digits > 0) out.row = row - 1;
  else if (!out.row_moves) return false;
  if (letters == 0 && digits == 0) return false;
  at = i;
  return true;
}

// A cell, or two corners of whole rows, of whole columns.
bool Lexer::area(const std::string& text, std::size_t& at, Token& token) const {
  std::size_t i = at;
  if (!corner(text, i, token.from)) return false;
  const bool whole = token.from.row < 0 || token.from.column < 0;
  token.part = Part::cell;
  token.to = token.from;
  std::size_t more = i;
  if (more < text.size() && text[more] == ':') {
    ++more;
    if (dialect_ == Dialect::document && more < text.size() && text[more] == '.') ++more;
    Corner to;
    if (corner(text, more, to) && (more >= text.size() || (!is_name_character(text[more]) && text[more] != '(' && text[more] != '!')) &&
        (to.row < 0) == (token.from.row < 0) && (to.column < 0) == (token.from.column < 0)) {
      token.part = Part::range;
      token.to = to;
      i = more;
    }
  }
  if (token.part == Part::cell && whole) return false;
  if (i < text.size() && (is_name_character(text[i]) || text[i] == '(' || text[i] == '!')) return false;
  if (token.from.row < 0) {
    token.from.row = 0;
    token.to.row = last_row;
    token.from.row_moves = token.to.row_moves = false;
  }
  if (token.from.column < 0) {
    token.from.column = 0;
    token.to.column = last_column;
    token.from.column_moves = token.to.column_moves = false;
  }
  at = i;
  return true;
}

Word Lexer::reference_after(const std::string& sheet, bool on_sheet, Token& token) {
  const std::size_t first = token.first, corners = at_;
  if (!area(text_, at_, token)) {
    if (text_.compare(at_, 5, "#REF!") == 0) {
      at_ += 5;
      token.part = Part::error;
      token.count = static_cast<std::uint32_t>(Error::reference);
    } else {
      // a name of that sheet
      const std::string name = word();
      if (name.empty()) return fault(token, "a reference that cannot be read");
      token.part = Part::name;
      token.text = name;
      token.first = first;
      token.end = at_;
      return Word::value;
    }
  }
  token.text = sheet;
  token.on_sheet = on_sheet;
  token.first = first;
  token.corners = corners;
  token.end = at_;
  return Word::reference;
}

std::string Lexer::word() {
  const std::size_t first = at_;
  while (at_ < text_.size() && is_name_character(text_[at_])) ++at_;
  return text_.substr(first, at_ - first);
}

Word Lexer::named(Token& token) {
  const auto foreign = [&](const char* what) {
    token.part = Part::foreign;
    token.text = what;
    token.end = at_;
    return Word::value;
  };
  if (text_[at_] == '[') {
    // of another workbook; the rest of it is passed over
    const std::size_t close = text_.find(']', at_);
    if (close == std::string::npos) return fault(token, "a bracket without an end");
    at_ = close + 1;
    if (at_ < text_.size() && text_[at_] == '\'') quoted('\'');
    while (at_ < text_.size() && (is_name_character(text_[at_]) || text_[at_] == '!' || text_[at_] == ':')) ++at_;
    return foreign("another workbook");
  }
  if (text_[at_] == '\'') {
    const std::string sheet = quoted('\'');
    if (at_ >= text_.size() || text_[at_] != '!') return fault(token, "a sheet's name without a cell");
    ++at_;
    if (sheet.find('[') != std::string::npos) {
      word();
      return foreign("another workbook");
    }
    return reference_after(sheet, true, token);
  }
  std::size_t end = at_;
  if (area(text_, end, token)) return reference_after("", false, token);
  const std::string name = word();
  if (at_ < text_.size() && text_[at_] == '!') {
    ++at_;
    return reference_after(name, true, token);
  }
  if (at_ < text_.size() && text_[at_] == ':' && text_.find('!', at_) != std::string::npos) {
    const std::size_t mark = text_.find_first_of("!+-*/(), ", at_);
    if (text_[mark] == '!') {
      at_ = mark + 1;
      word();
      if (at_ < text_.size() && text_[at_] == ':') { ++at_; word(); }
      return foreign("cells of several sheets at once");
    }
  }
  token.end = at_;
  if (at_ < text_.size() && text_[at_] == '(') {
    ++at_;
    token.part = Part::function;
    token.text = plain_name(in_capitals(name));
    return Word::opens_function;
  }
  const std::string capitals = in_capitals(name);
  if (capitals == "TRUE" || capitals == "FALSE") {
    token.part = Part::logical;
    token.count = capitals == "TRUE";
    return Word::value;
  }
  if (at_ < text_.size() && text_[at_] == '[') {
    unsigned depth = 0;
    for (; at_ < text_.size(); ++at_) {
      if (text_[at_] == '[') ++depth;
      if (text_[at_] == ']' && --depth == 0) break;
    }
    if (at_ < text_.size()) ++at_;
    return foreign("columns of a table by their names");
  }
  token.part = Part::name;
  token.text = name;
  return Word::value;
}

// [.A1], [$Sheet.A1:.B2], ['My sheet'.A1], [.A:.C]
Word Lexer::bracketed(Token& token) {
  const std::size_t first = at_, close = [&] {
    bool quote = false;
    for (std::size_t i = at_; i < text_.size(); ++i) {
      if (text_[i] == '\'') quote = !quote;
      if (text_[i] == ']' && !quote) return i;
    }
    return std::string::npos;
  }();
  if (close == std::string::npos) return fault(token, "a bracket without an end");
  ++at_;
  std::string sheet;
  bool on_sheet = false;
  const auto foreign = [&](const char* what) {
    at_ = close + 1;
    token.part = Part::foreign;
    token.text = what;
    token.first = first;
    token.end = at_;
    return Word::value;
  };
  if (text_[at_] == '$' && at_ + 1 < close && (text_[at_ + 1] == '\'' || text_.find('.', at_) < close)) ++at_;
  if (text_[at_] == '\'') {
    sheet = quoted('\'');
    on_sheet = true;
    if (at_ < close && text_[at_] == '#') return foreign("another workbook");
  } else if (text_[at_] != '.') {
    const std::size_t point = text_.find('.', at_);
    if (text_.compare(at_, 5, "#REF!") == 0 || point >= close) {
      at_ = close + 1;
      token.part = Part::error;
      token.count = static_cast<std::uint32_t>(Error::reference);
      token.first = first;
      token.end = at_;
      return Word::reference;
    }
    sheet = text_.substr(at_, point - at_);
    on_sheet = true;
    at_ = point;
  }
  if (text_[at_] != '.') return fault(token, "a reference that cannot be read");
  ++at_;
  if (text_.find('#', at_) < close) return foreign("a cell that is no longer there");
  if (!area(text_, at_, token) || at_ != close) return foreign("cells of several sheets at once");
  at_ = close + 1;
  token.text = sheet;
  token.on_sheet = on_sheet;
  token.first = first;
  token.end = at_;
  return Word::reference;
}

}  // namespace sheet
}  // namespace ensayo
