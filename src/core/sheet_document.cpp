// Workbooks of OpenDocument 1.3.
#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <cstring>

#include "number_text.h"
#include "sheet_date.h"
#include "sheet_file.h"
#include "sheet_formula.h"

namespace ensayo {
namespace sheet {

namespace {

// A time of the day such as PT09H30M00S, in days.
double time_in(const std::string& text) {
  double days = 0, number = 0;
  bool after_t = false;
  for (const char* at = text.c_str(); *at; ++at) {
    if (*at == 'T') after_t = true;
    if ((*at >= '0' && *at <= '9') || *at == '.') {
      char* end = nullptr;
      number = std::strtod(at, &end);
      at = end - 1;
    } else if (*at == 'D') days += number;
    else if (*at == 'H') days += number / 24;
    else if (*at == 'M' && after_t) days += number / 1440;
    else if (*at == 'S') days += number / 86400;
  }
  return text[0] == '-' ? -days : days;
}

class DocumentReader {
 public:
  DocumentReader(const char* text, std::size_t size, std::vector<CellColumns>& sheets, const SheetLimits& limits)
      : xml_(text, size), sheets_(sheets), limits_(limits) {}

  BookFacts read() {
    for (;;) {
      const Xml::Event event = xml_.next();
      if (event == Xml::Event::end) break;
      const std::string& name = xml_.full_name();
      if (event == Xml::Event::close) {
        if (name == "table:table") open_sheet_ = -1;
        continue;
      }
      if (name == "table:null-date") {
        const std::string day = xml_.attribute("table:date-value");
        out_.from_1904 = day.compare(0, 4, "1904") == 0;
      } else if (name == "table:iteration") out_.iterates = xml_.attribute("table:status") == "enable";
      else if (name == "style:style") style_ = xml_.attribute("style:name");
      else if (name == "style:table-properties" && xml_.attribute("table:display") == "false") hidden_styles_.push_back(style_);
      else if (name == "table:table") sheet();
      else if (name == "table:table-row") row();
      else if (name == "table:table-cell" || name == "table:covered-table-cell") cell();
      else if (name == "table:named-range" || name == "table:named-expression") named();
      else if (name == "table:shapes" || name == "table:tracked-changes" || name == "office:forms" || name == "office:annotation" ||
               name == "table:table-source") xml_.skip();
      else if (name == "office:spreadsheet") out_.is_protected = xml_.attribute("table:structure-protected") == "true";
    }
    return std::move(out_);
  }

 private:
  void sheet() {
    SheetFacts facts;
    facts.name = xml_.attribute("table:name");
    facts.is_protected = xml_.attribute("table:protected") == "true";
    const std::string style = xml_.attribute("table:style-name");
    facts.hidden = std::find(hidden_styles_.begin(), hidden_styles_.end(), style) != hidden_styles_.end();
    out_.sheets.push_back(facts);
    sheets_.emplace_back();
    open_sheet_ = static_cast<int>(sheets_.size()) - 1;
    next_row_ = 0;
  }

  long repeated(const char* attribute) const {
    const std::string told = xml_.attribute(attribute);
    return told.empty() ? 1 : std::max(1L, std::min(std::atol(told.c_str()), static_cast<long>(last_row) + 1));
  }

  void row() {
    row_ = next_row_;
    rows_ = repeated("table:number-rows-repeated");
    next_row_ += rows_;
    column_ = 0;
  }

  void named() {
    NameFacts name;
    name.name = xml_.attribute("table:name");
    name.sheet = open_sheet_;
    const std::string range = xml_.attribute("table:cell-range-address");
    // a range is written without its brackets
    name.formula = range.empty() ? xml_.attribute("table:expression") : "of:=[" + range + "]";
    out_.names.push_back(name);
  }

  void cell() {
    const long columns = repeated("table:number-columns-repeated");
    const long first = column_;
    column_ += columns;
    const std::string type = xml_.attribute("office:value-type"), own = xml_.attribute("calcext:value-type"),
      formula = xml_.attribute("table:formula"), spanned = xml_.attribute("table:number-matrix-rows-spanned"),
      spanned_columns = xml_.attribute("table:number-matrix-columns-spanned"), value = xml_.attribute("office:value"),
      day = xml_.attribute("office:date-value"), hour = xml_.attribute("office:time-value"),
      yes = xml_.attribute("office:boolean-value");
    std::string words;
    const bool has_words = xml_.attribute("office:string-value", words);
    const bool merged = !xml_.attribute("table:number-columns-spanned").empty();
    std::string shown_words;
    const std::size_t outside = xml_.depth() - 1;
    bool any = false;
    while (xml_.depth() > outside) {
      const Xml::Event event = xml_.next();
      if (event == Xml::Event::end) break;
      if (event != Xml::Event::open) continue;
      if (xml_.full_name() == "text:p") {
        if (any) shown_words += '\n';
        any = true;
        shown_words += paragraph();
      } else xml_.skip();
    }
    if (open_sheet_ < 0) throw XmlFault("a cell outside a sheet");
    if (merged) ++out_.sheets.back().merged;
    if (type.empty() && own.empty() && formula.empty()) return;
    if (formula.size() > limits_.formula) throw XmlFault("a formula longer than is read");
    CellColumns& cells = sheets_.back();
    const double times = static_cast<double>(rows_) * static_cast<double>(columns);
    if (times + static_cast<double>(cells.row.size()) > static_cast<double>(limits_.cells)) throw XmlFault("it has more cells than are read");
    repeated_ += times > 1 ? times * static_cast<double>(words.size() + shown_words.size()) : 0;
    if (repeated_ > static_cast<double>(limits_.repeated)) throw XmlFault("it repeats more text than is read");
    std::int32_t shared = -1;
    for (long r = 0; r < rows_; ++r) {
      for (long c = 0; c < columns; ++c) {
        const std::int32_t at_row = static_cast<std::int32_t>(row_ + r), at_column = static_cast<std::int32_t>(first + c);
        if (at_row > last_row || at_column > last_column) throw XmlFault("a cell beyond the last that there is");
        if (own == "error") cells.add(at_row, at_column, Type::error, std::max(1u, error_of_words(shown_words)), "", Shown::plain);
        else if (type == "float") cells.add(at_row, at_column, Type::number, number_in(value), "", Shown::plain);
        else if (type == "percentage") cells.add(at_row, at_column, Type::number, number_in(value), "", Shown::per_cent);
        else if (type == "currency") cells.add(at_row, at_column, Type::number, number_in(value), "", Shown::money);
        else if (type == "date") cells.add(at_row, at_column, Type::number, day_in(day), "", Shown::date);
        else if (type == "time") cells.add(at_row, at_column, Type::number, time_in(hour), "", Shown::time);
        else if (type == "boolean") cells.add(at_row, at_column, Type::logical, yes == "true", "", Shown::plain);
        else if (type == "string") cells.add(at_row, at_column, Type::text, 0, has_words ? words : shown_words, Shown::plain);
        else cells.add(at_row, at_column, Type::empty, 0, "", Shown::plain);
        if (formula.empty()) continue;
        // one text, however often it is repeated
        if (shared < 0) cells.set_formula(formula);
        else cells.formula.back() = shared;
        shared = cells.formula.back();
        if (!spanned.empty()) {
          cells.set_array(std::max(1, std::atoi(spanned.c_str())), std::max(1, std::atoi(spanned_columns.c_str())), limits_.cells);
        }
      }
    }
  }

  std::string paragraph() {
    std::string out;
    const std::size_t outside = xml_.depth() - 1;
    xml_.forget_text();
    while (xml_.depth() > outside) {
      const Xml::Event event = xml_.next();
      out += xml_.text();
      xml_.forget_text();
      if (event == Xml::Event::end) break;
      if (event != Xml::Event::open) continue;
      if (xml_.full_name() == "text:s") out.append(static_cast<std::size_t>(std::min(1000L, repeated("text:c"))), ' ');
      else if (xml_.full_name() == "text:tab") out += '\t';
      else if (xml_.full_name() == "text:line-break") out += '\n';
      else if (xml_.full_name() == "office:annotation") xml_.skip();
    }
    return out;
  }

  static std::uint32_t error_of_words(const std::string& words) {
    const std::uint32_t known = error_named(words);
    return known ? known : static_cast<std::uint32_t>(words == "Err:502" || words == "Err:503" || words == "Err:523" ? Error::number : Error::value);
  }

  static double number_in(const std::string& text) {
    double out;
    if (!read_number_text(text.c_str(), out)) throw XmlFault("a cell's number that cannot be read");
    return out;
  }

  double day_in(const std::string& text) const {
    double day;
    if (!text_as_number(text.substr(0, 10), day)) throw XmlFault("a date that cannot be read");
    if (text.size() > 10 && text[10] == 'T') {
      int hours = 0, minutes = 0;
      double seconds = 0;
      if (std::sscanf(text.c_str() + 11, "%d:%d:%lf", &hours, &minutes, &seconds) >= 2) day += hours / 24.0 + minutes / 1440.0 + seconds / 86400;
    }
    return day - (out_.from_1904 ? 1462 : 0);
  }

  Xml xml_;
  std::vector<CellColumns>& sheets_;
  const SheetLimits& limits_;
  BookFacts out_;
  std::vector<std::string> hidden_styles_;
  std::string style_;
  int open_sheet_ = -1;
  long row_ = 0, rows_ = 1, next_row_ = 0, column_ = 0;
  double repeated_ = 0;
};

}  // namespace

BookFacts read_document(const char* text, std::size_t size, std::vector<CellColumns>& sheets, const SheetLimits& limits) {
  return DocumentReader(text, size, sheets, limits).read();
}

}  // namespace sheet
}  // namespace ensayo
