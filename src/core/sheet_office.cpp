// Workbooks of ISO/IEC 29500.
#include <algorithm>
#include <cstdlib>
#include <cstring>
#include <unordered_map>

#include "number_text.h"
#include "sheet_file.h"
#include "sheet_formula.h"
#include "sheet_table.h"

namespace ensayo {
namespace sheet {

namespace {

bool is_true(const std::string& text) { return text == "1" || text == "true" || text == "on"; }

// _x000D_ and the like are characters that XML cannot hold.
std::string unescaped(const std::string& text) {
  if (text.find("_x") == std::string::npos) return text;
  std::string out;
  for (std::size_t i = 0; i < text.size(); ++i) {
    char* end = nullptr;
    const std::string digits = text.compare(i, 2, "_x") == 0 && i + 6 < text.size() && text[i + 6] == '_' ? text.substr(i + 2, 4) : "";
    const unsigned long code = digits.empty() ? 0 : std::strtoul(digits.c_str(), &end, 16);
    if (digits.empty() || *end != 0 || code > 0x7f || code == 0) {
      out += text[i];
    } else {
      out += static_cast<char>(code);
      i += 6;
    }
  }
  return out;
}

// The text of the tag that was opened last, up to its end.
std::string text_inside(Xml& xml) {
  xml.forget_text();
  const std::size_t outside = xml.depth() - 1;
  while (xml.depth() > outside) if (xml.next() == Xml::Event::end) break;
  return xml.text();
}

// Of several pieces of text in a tag, without how they are spoken.
std::string pieces_inside(Xml& xml) {
  std::string out;
  const std::size_t outside = xml.depth() - 1;
  while (xml.depth() > outside) {
    const Xml::Event event = xml.next();
    if (event == Xml::Event::end) break;
    if (event != Xml::Event::open) continue;
    if (xml.is("t")) out += text_inside(xml);
    else if (xml.is("rPh") || xml.is("phoneticPr")) xml.skip();
  }
  return unescaped(out);
}

double number_in(const std::string& text) {
  double out;
  if (!read_number_text(text.c_str(), out)) throw XmlFault("a cell's number that cannot be read");
  return out;
}

// A formula that other cells share, and where it was written.
struct Shared { std::int32_t formula, row, column; };

class SheetReader {
 public:
  SheetReader(const char* text, std::size_t size, const std::vector<std::string>& texts, const std::vector<Shown>& styles,
              SheetFacts& facts, const SheetLimits& limits)
      : xml_(text, size), texts_(texts), styles_(styles), facts_(facts), limits_(limits) {}

  CellColumns read() {
    for (;;) {
      const Xml::Event event = xml_.next();
      if (event == Xml::Event::end) return std::move(out_);
      if (event != Xml::Event::open) continue;
      if (xml_.is("row")) {
        const std::string told = xml_.attribute("r");
        row_ = told.empty() ? row_ + 1 : std::atoi(told.c_str()) - 1;
        column_ = -1;
        if (row_ < 0 || row_ > last_row) throw XmlFault("a row beyond the last that there is");
      } else if (xml_.is("c")) cell();
      else if (xml_.is("sheetProtection")) facts_.is_protected = is_true(xml_.attribute("sheet"));
      else if (xml_.is("mergeCell")) ++facts_.merged;
    }
  }

 private:
  void cell() {
    const std::string place = xml_.attribute("r"), type = xml_.attribute("t");
    const std::size_t style = static_cast<std::size_t>(std::atol(xml_.attribute("s").c_str()));
    if (place.empty()) ++column_;
    else if (!read_place(place, row_, column_)) throw XmlFault("a cell's place that cannot be read");
    if (out_.row.size() >= limits_.cells) throw XmlFault("it has more cells than are read");
    std::string value, written, kind, shared, area;
    bool has_value = false, has_formula = false, inline_text = false;
    const std::size_t outside = xml_.depth() - 1;
    while (xml_.depth() > outside) {
      const Xml::Event event = xml_.next();
      if (event == Xml::Event::end) break;
      if (event != Xml::Event::open) continue;
      if (xml_.is("v")) {
        has_value = true;
        value = text_inside(xml_);
      } else if (xml_.is("is")) {
        has_value = inline_text = true;
        value = pieces_inside(xml_);
      } else if (xml_.is("f")) {
        has_formula = true;
        kind = xml_.attribute("t");
        shared = xml_.attribute("si");
        area = xml_.attribute("ref");
        written = text_inside(xml_);
        if (written.size() > limits_.formula) throw XmlFault("a formula longer than the standard allows");
      } else xml_.skip();
    }
    if (!has_value && !has_formula) return;
    const Shown shown = style < styles_.size() ? styles_[style] : Shown::plain;
    if (!has_value) out_.add(row_, column_, Type::empty, 0, "", shown);
    else if (inline_text) out_.add(row_, column_, Type::text, 0, value, shown);
    else if (type == "s") {
      const std::size_t at = static_cast<std::size_t>(number_in(value));
      if (at >= texts_.size()) throw XmlFault("a text that is not in the workbook's table of texts");
      out_.add(row_, column_, Type::text, 0, texts_[at], shown);
    } else if (type == "str") out_.add(row_, column_, Type::text, 0, unescaped(value), shown);
    else if (type == "b") out_.add(row_, column_, Type::logical, is_true(value), "", shown);
    else if (type == "e") out_.add(row_, column_, Type::error, std::max(1u, error_named(value)), "", shown);
    else if (type == "d") {
      double day;
      if (!text_as_number(value.substr(0, 10), day)) throw XmlFault("a date that cannot be read");
      out_.add(row_, column_, Type::number, day, "", Shown::date);
    } else out_.add(row_, column_, Type::number, number_in(value), "", shown);
    if (has_formula) formula(kind, shared, area, written);
  }

  void formula(const std::string& kind, const std::string& shared, const std::string& area, const std::string& written) {
    if (kind == "dataTable") {
      out_.set_formula(written, "a table of data");
      return;
    }
    if (kind == "shared" && written.empty()) {
      const auto known = shared_.find(shared);
      if (known == shared_.end()) throw XmlFault("a shared formula that was not written before");
      out_.formula.back() = known->second.formula;
      out_.down.back() = row_ - known->second.row;
      out_.right.back() = column_ - known->second.column;
      return;
    }
    out_.set_formula(written);
    if (kind == "shared") shared_[shared] = {out_.formula.back(), row_, column_};
    if (kind == "array") {
      std::int32_t first_row, first_column, row, column;
      const std::size_t colon = area.find(':');
      if (!read_place(area.substr(0, colon), first_row, first_column)) return;
      if (colon == std::string::npos || !read_place(area.substr(colon + 1), row, column)) {
        row = first_row;
        column = first_column;
      }
      if (row < row_ || column < column_) throw XmlFault("an array whose place cannot be read");
      out_.set_array(row - row_ + 1, column - column_ + 1, limits_.cells);
    }
  }

  Xml xml_;
  const std::vector<std::string>& texts_;
  const std::vector<Shown>& styles_;
  SheetFacts& facts_;
  const SheetLimits& limits_;
  CellColumns out_;
  std::int32_t row_ = -1, column_ = -1;
  std::unordered_map<std::string, Shared> shared_;
};

}  // namespace

Shown shown_by(const std::string& code) {
  // what is in quotes, escaped or in brackets is not part of the form, but for a currency in brackets
  std::string plain;
  bool money = false;
  for (std::size_t i = 0; i < code.size() && code[i] != ';'; ++i) {
    const char c = code[i];
    if (c == '"') {
      while (++i < code.size() && code[i] != '"') {}
    } else if (c == '\\' || c == '_' || c == '*') ++i;
    else if (c == '[') {
      if (code.compare(i, 2, "[$") == 0 && code.compare(i, 3, "[$-") != 0) money = true;
      while (++i < code.size() && code[i] != ']') {}
    } else plain += c;
  }
  if (plain.find('%') != std::string::npos) return Shown::per_cent;
  if (money || plain.find('$') != std::string::npos || plain.find("\xe2\x82\xac") != std::string::npos) return Shown::money;
  if (plain.find("General") != std::string::npos) return Shown::plain;
  const std::string letters = folded(plain);
  if (letters.find_first_of("yd") != std::string::npos) return Shown::date;
  if (letters.find('h') != std::string::npos || letters.find("ss") != std::string::npos) return Shown::time;
  return letters.find("mm") != std::string::npos ? Shown::date : Shown::plain;
}

Shown shown_by_number(long id) {
  if (id == 9 || id == 10) return Shown::per_cent;
  if ((id >= 14 && id <= 17) || id == 22) return Shown::date;
  if ((id >= 18 && id <= 21) || (id >= 45 && id <= 47)) return Shown::time;
  return (id >= 5 && id <= 8) || id == 42 || id == 44 ? Shown::money : Shown::plain;
}

BookFacts read_office_book(const char* text, std::size_t size) {
  Xml xml(text, size);
  BookFacts out;
  for (;;) {
    const Xml::Event event = xml.next();
    if (event == Xml::Event::end) return out;
    if (event != Xml::Event::open) continue;
    if (xml.is("sheet")) {
      SheetFacts sheet;
      sheet.name = xml.attribute("name");
      sheet.part = xml.attribute("r:id");
      if (sheet.part.empty()) sheet.part = xml.attribute("d3p1:id");
      const std::string state = xml.attribute("state");
      sheet.hidden = state == "hidden" || state == "veryHidden";
      out.sheets.push_back(sheet);
    } else if (xml.is("definedName")) {
      NameFacts name;
      name.name = xml.attribute("name");
      const std::string own = xml.attribute("localSheetId");
      if (!own.empty()) name.sheet = std::atoi(own.c_str());
      name.formula = text_inside(xml);
      out.names.push_back(name);
    } else if (xml.is("workbookPr")) out.from_1904 = is_true(xml.attribute("date1904"));
    else if (xml.is("calcPr")) out.iterates = is_true(xml.attribute("iterate"));
    else if (xml.is("workbookProtection")) out.is_protected = is_true(xml.attribute("lockStructure"));
    else if (xml.is("externalReference")) out.has_external = true;
  }
}

std::vector<std::pair<std::string, std::string>> read_office_links(const char* text, std::size_t size) {
  Xml xml(text, size);
  std::vector<std::pair<std::string, std::string>> out;
  for (;;) {
    const Xml::Event event = xml.next();
    if (event == Xml::Event::end) return out;
    if (event != Xml::Event::open || !xml.is("Relationship")) continue;
    const std::string type = xml.attribute("Type"), id = xml.attribute("Id");
    const std::string kind = type.substr(type.rfind('/') == std::string::npos ? 0 : type.rfind('/') + 1);
    out.emplace_back(id + "\t" + kind, xml.attribute("Target"));
  }
}

Table read_office_table(const char* text, std::size_t size) {
  Xml xml(text, size);
  Table out;
  for (;;) {
    const Xml::Event event = xml.next();
    if (event == Xml::Event::end) return out;
    if (event != Xml::Event::open) continue;
    if (xml.is("tableColumn")) out.columns.push_back(unescaped(xml.attribute("name")));
    if (!xml.is("table")) continue;
    out.name = unescaped(xml.attribute("displayName"));
    const std::string cells = xml.attribute("ref");
    const std::size_t colon = cells.find(':');
    const std::string last = colon == std::string::npos ? cells : cells.substr(colon + 1);
    if (!read_place(cells.substr(0, colon), out.row, out.column) || !read_place(last, out.to_row, out.to_column)) throw XmlFault("a table without a place");
    std::string told;
    if (xml.attribute("headerRowCount", told)) out.headings = std::max(0, std::atoi(told.c_str()));
    if (xml.attribute("totalsRowCount", told)) out.totals = std::max(0, std::atoi(told.c_str()));
  }
}

std::vector<std::string> read_office_texts(const char* text, std::size_t size) {
  Xml xml(text, size);
  std::vector<std::string> out;
  for (;;) {
    const Xml::Event event = xml.next();
    if (event == Xml::Event::end) return out;
    if (event == Xml::Event::open && xml.is("si")) out.push_back(pieces_inside(xml));
  }
}

std::vector<Shown> read_office_styles(const char* text, std::size_t size) {
  Xml xml(text, size);
  std::unordered_map<long, Shown> own;
  std::vector<Shown> out;
  bool inside = false;
  for (;;) {
    const Xml::Event event = xml.next();
    if (event == Xml::Event::end) return out;
    if (xml.is("cellXfs")) inside = event == Xml::Event::open;
    if (event != Xml::Event::open) continue;
    if (xml.is("numFmt")) own[std::atol(xml.attribute("numFmtId").c_str())] = shown_by(xml.attribute("formatCode"));
    if (inside && xml.is("xf")) {
      const long id = std::atol(xml.attribute("numFmtId").c_str());
      const auto known = own.find(id);
      out.push_back(known == own.end() ? shown_by_number(id) : known->second);
    }
  }
}

CellColumns read_office_sheet(const char* text, std::size_t size, const std::vector<std::string>& texts,
                              const std::vector<Shown>& styles, SheetFacts& facts, const SheetLimits& limits) {
  return SheetReader(text, size, texts, styles, facts, limits).read();
}

}  // namespace sheet
}  // namespace ensayo
