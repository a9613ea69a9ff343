// The door to tables of workbooks.
#include <Rcpp.h>

#include <string>
#include <vector>

#include "core/sheet_table.h"

// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_office_table(Rcpp::RawVector part) {
  const ensayo::sheet::Table table = ensayo::sheet::read_office_table(reinterpret_cast<const char*>(RAW(part)), static_cast<std::size_t>(part.size()));
  Rcpp::CharacterVector columns;
  for (const std::string& name : table.columns) columns.push_back(Rcpp::String(name, CE_UTF8));
  return Rcpp::List::create(Rcpp::Named("name") = Rcpp::String(table.name, CE_UTF8), Rcpp::Named("place") = Rcpp::IntegerVector::create(table.row, table.column, table.to_row, table.to_column),
    Rcpp::Named("headings") = table.headings, Rcpp::Named("totals") = table.totals, Rcpp::Named("columns") = columns);
}

// Formulas with places instead of columns' names. `rows`: where they stand, counted from 0; `tables`: what cpp_office_table() gave, with
// the `sheet` that each is on.
// [[Rcpp::export(rng = false)]]
Rcpp::CharacterVector cpp_without_tables(Rcpp::CharacterVector formulas, Rcpp::IntegerVector rows, Rcpp::List tables) {
  std::vector<ensayo::sheet::Table> all;
  for (R_xlen_t i = 0; i < tables.size(); ++i) {
    const Rcpp::List from = tables[i];
    const Rcpp::IntegerVector place = from["place"];
    ensayo::sheet::Table table;
    table.name = Rcpp::as<std::string>(from["name"]);
    table.sheet = Rcpp::as<std::string>(from["sheet"]);
    table.row = place[0];
    table.column = place[1];
    table.to_row = place[2];
    table.to_column = place[3];
    table.headings = Rcpp::as<int>(from["headings"]);
    table.totals = Rcpp::as<int>(from["totals"]);
    table.columns = Rcpp::as<std::vector<std::string>>(from["columns"]);
    all.push_back(table);
  }
  Rcpp::CharacterVector out(formulas.size());
  for (R_xlen_t i = 0; i < formulas.size(); ++i) out[i] = Rcpp::String(ensayo::sheet::without_tables(Rcpp::as<std::string>(formulas[i]), all, rows[i]), CE_UTF8);
  return out;
}
