// The words of a workbook's formula.
#ifndef ENSAYO_CORE_SHEET_LEXER_H
#define ENSAYO_CORE_SHEET_LEXER_H

#include <string>

#include "sheet_formula.h"

namespace ensayo {
namespace sheet {

enum class Word { end, value, reference, opens_function, open, close, open_array, close_array, separator, new_row, sign, fault };

// One word after the other. Of a sign its characters are in `text`; blanks are words only where they may stand between
// references.
class Lexer {
 public:
  Lexer(const std::string& text, Dialect dialect);
  Word next(bool after_operand, Token& token);

 private:
  Word fault(Token& token, const char* why);
  Word number(Token& token);
  Word quoted_text(Token& token);
  Word error(Token& token);
  Word named(Token& token);
  Word bracketed(Token& token);
  Word reference_after(const std::string& sheet, bool on_sheet, Token& token);
  bool corner(const std::string& text, std::size_t& at, Corner& out) const;
  bool area(const std::string& text, std::size_t& at, Token& token) const;
  std::string quoted(char quote);
  std::string word();
  const std::string& text_;
  Dialect dialect_;
  std::size_t at_ = 0;
};

}  // namespace sheet
}  // namespace ensayo

#endif
