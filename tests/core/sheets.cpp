// Tests of workbooks' values, formulas and cells, without R.
#include <cmath>
#include <limits>
#include <string>
#include <vector>

#include "../../src/core/sheet_compile.h"
#include "../../src/core/sheet_date.h"
#include "../../src/core/sheet_table.h"
#include "../../src/core/xml.h"
#include "checks.h"

using namespace ensayo;
using namespace ensayo::sheet;

static void values_keep_what_they_are() {
  Texts texts;
  const double word = texts.value("Rohr"), nothing = empty_value(), wrong = error_value(Error::missing);
  check(type_of(word) == Type::text && texts.of(word) == "Rohr" && word != word, "a text is one place, and no number");
  check(type_of(logical_value(true)) == Type::logical && type_of(nothing) == Type::empty && error_of(wrong) == Error::missing, "kinds are kept in the bits");
  check(type_of(std::nan("")) == Type::error && type_of(0.0 / 0.0 * 0) == Type::error && error_of(std::numeric_limits<double>::infinity()) == Error::number,
        "what arithmetic loses is an error");
  double number;
  check(text_as_number(" 12.5% ", number) && number == 0.125 && text_as_number("2027-03-31", number) && number == 46477 && !text_as_number("12 m", number),
        "texts that are numbers are");
  check(rounded(1.005, 2) == 1.01 && rounded(-2.5, 0) == -3 && rounded(1234.5, -2) == 1200 && cancelled(0.1 + 0.2 - 0.3, 0.1 + 0.2) == 0, "roundings as on paper");
  check(compared(3, word, texts) < 0 && compared(word, logical_value(false), texts) < 0 && compared(nothing, 0, texts) == 0, "numbers before texts before logical values");
  check(folded("ÄRGER Пруд") == "ärger пруд" && in_capitals("straße é") == "STRAßE É" && part_of_text("Größe", 2, 2) == "öß" && characters("Größe") == 5, "characters, not bytes");
}

static void days_are_those_of_the_calendar() {
  bool same = true;
  for (long day = -200000; day < 300000; day += 13) {
    long year;
    int month, of_month;
    date_of(day, year, month, of_month);
    same = same && serial_of(year, month, of_month) == day && of_month >= 1 && of_month <= days_in_month(year, month);
  }
  check(same && serial_of(1970, 1, 1) == 25569 && serial_of(2000, 2, 29) == 36585, "days and dates are one to one");
  check(months_on(serial_of(2027, 1, 31), 1) == serial_of(2027, 2, 28) && weekday_of(serial_of(2026, 11, 27)) == 4, "a month on; the day of the week");
}

static void formulas_are_read() {
  const Formula shared = read_formula("SUM($A1:B$2)*Other!C3+A:A", Dialect::office);
  check(moved_formula("SUM($A1:B$2)*Other!C3+A:A", shared, 2, 1) == "SUM($A3:C$2)*Other!D5+B:B", "references move, others stay");
  check(moved_formula("A1", read_formula("A1", Dialect::office), -1, 0) == "#REF!", "a reference beyond the edge is lost");
  check(read_formula("of:=SUM([.A1:.B2];[$'My sheet'.C3])", Dialect::document).fault.empty(), "the other language");
  for (const char* text : {"1+", "(1", "1)", "{1,2;3}", "\"a", "SUM(1 2)", "*2", ",", "A1:", "#WHAT!"}) {
    check(!read_formula(text, Dialect::office).fault.empty(), text);
  }
}

static void columns_of_tables_become_places() {
  const std::string part = "<table displayName='Items' ref='B2:E7' totalsRowCount='1'><tableColumns><tableColumn name='Item'/><tableColumn name='Unit price'/>"
                           "<tableColumn name='Qty [no.]'/><tableColumn name='Line_x000a_total'/></tableColumns></table>";
  Table table = read_office_table(part.data(), part.size());
  table.sheet = "It's";
  const auto plain = [&](const char* formula, std::int32_t row) { return without_tables(formula, {table}, row); };
  check(plain("SUM(Items[Unit price])", 9) == "SUM('It''s'!$C$3:$C$6)" && plain("items[[#This Row],[Qty '[no.']]]", 4) == "'It''s'!$D5" && plain("Items[@Item]", 2) == "'It''s'!$B3" &&
        plain("Items[@[Unit price]]", 2) == "'It''s'!$C3", "columns, and cells of a row");
  check(plain("Items[[#This Row],[Item]]", 9) == "#VALUE!" && plain("Items[#This Row]", -1) == "#REF!" && plain("Items[[Line\ntotal]]", 0) == "'It''s'!$E$3:$E$6", "a row elsewhere; a name of two lines");
  check(plain("ROWS(Items)", 0) == "ROWS('It''s'!$B$3:$E$6)" && plain("Items[#All]", 0) == "'It''s'!$B$2:$E$7" && plain("Items[[#Headers],[Item]:[Qty '[no.']]]", 0) == "'It''s'!$B$2:$D$2" &&
        plain("Items[[#Data], [#Totals], [Item]]", 0) == "'It''s'!$B$3:$B$7" && plain("Items[[#Totals],[Item]]", 0) == "'It''s'!$B$7", "parts of a table");
  for (const char* same : {"Items[None]", "Items[", "Items[[Item]", "\"Items[Item]\"", "'Items[Item]'!A1", "[1]Items!A1", "Items2[Item]", "Items(1)", "Items!A1", "Items[[Item],[Item],[Item]]"}) {
    check(plain(same, 3) == same, same);
  }
  table.totals = 0;
  check(plain("Items[[#Totals],[Item]]", 0) == "#REF!", "no row of totals");
}

static void tags_are_read_or_refused() {
  const std::string good = "<a x='1&amp;2'><b/>t&#x20AC;<!-- no --><![CDATA[<c>]]></a>";
  Xml xml(good.data(), good.size());
  check(xml.next() == Xml::Event::open && xml.attribute("x") == "1&2" && xml.next() == Xml::Event::open && xml.next() == Xml::Event::close &&
        xml.next() == Xml::Event::close && xml.text() == "t€<c>" && xml.next() == Xml::Event::end, "tags, attributes and text");
  const std::string list = "<?xml version='1.0'?><x:a><!-- <b/> --><x:b><c/></x:b><c x='>'/></x:a>";
  const std::vector<XmlElement> found = xml_elements(list.data(), list.size(), {"b", "c"});
  check(found.size() == 3 && found[0].name == "x:b" && found[0].depth == 2 && found[0].within == 0 && found[1].within == 1 && found[2].within == 0 &&
        list.substr(found[0].close, found[0].closed - found[0].close) == "</x:b>" && list.substr(found[2].open, found[2].opened - found[2].open) == "<c x='>'/>" &&
        found[2].close == found[2].open, "elements and where they stand");
  for (const std::string& bad : {std::string("<!DOCTYPE a><a/>"), std::string("<a>"), std::string("</a>"), std::string("<a>&b;</a>"), std::string("<a"),
                                 std::string("<a>&#0;</a>"), std::string("<a>\0</a>", 8)}) {
    bool refused = false;
    try {
      Xml other(bad.data(), bad.size());
      while (other.next() != Xml::Event::end) {}
    } catch (const XmlFault&) {
      refused = true;
    }
    check(refused, bad.c_str());
  }
}

// A1 is the input; A2 = A1 * 2 where above 3, else an error; A3 adds both to a sum of 1,000 cells behind it.
static void cells_are_calculated_in_blocks() {
  Book book({"One"}, Dialect::office, false);
  book.add_formula("IF(A1>3,A1*2,NA())", "");
  book.add_formula("SUM(A4:A1003)+IFERROR(A2,-1)", "");
  book.add_formula("A1+ROW()", "");
  for (int row = 0; row < 1003; ++row) {
    Cell cell;
    cell.sheet = cell.column = 0;
    cell.row = row;
    cell.value = row;
    cell.formula = row == 1 ? 0 : row == 2 ? 1 : row > 2 ? 2 : -1;
    book.add_cell(cell);
  }
  Compiler compiler(book, {0}, Purpose::runs);
  check(compiler.compile(1) && compiler.compile(2), "cells compile");
  Wanted first, second;
  first.value = compiler.node_of(1);
  second.value = compiler.node_of(2);
  const Program program(compiler.graph, {first, second});
  std::vector<double> input, a(2000), b(2000);
  for (int i = 0; i < 2000; ++i) input.push_back(i % 7);
  std::vector<unsigned> seen;
  program.run({input.data()}, 2000, 2, {a.data(), b.data()}, seen);
  bool right = true;
  for (int i = 0; i < 2000; ++i) {
    const double x = i % 7, sum = 1000 * x + (4.0 + 1003) / 2 * 1000;
    right = right && (x > 3 ? a[i] == 2 * x : is_error(a[i]) && error_of(a[i]) == Error::missing) && b[i] == sum + (x > 3 ? 2 * x : -1);
  }
  check(right, "every run has its own values, errors among them");
}

void check_sheets() {
  values_keep_what_they_are();
  days_are_those_of_the_calendar();
  formulas_are_read();
  columns_of_tables_become_places();
  tags_are_read_or_refused();
  cells_are_calculated_in_blocks();
}
