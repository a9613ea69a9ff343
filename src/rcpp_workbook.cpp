// Doors to workbooks: reading their parts, and calculating their cells.
#include <Rcpp.h>
#include <Rmath.h>

#include <memory>
#include <string>
#include <vector>

#include "core/sheet_compile.h"
#include "core/sheet_file.h"
#include "core/xml.h"

using namespace ensayo::sheet;

namespace {

SEXP utf8(const std::string& text) { return Rf_mkCharLenCE(text.data(), static_cast<int>(text.size()), CE_UTF8); }

Rcpp::CharacterVector texts_of(const std::vector<std::string>& texts) {
  Rcpp::CharacterVector out(static_cast<R_xlen_t>(texts.size()));
  for (std::size_t i = 0; i < texts.size(); ++i) out[static_cast<R_xlen_t>(i)] = utf8(texts[i]);
  return out;
}

std::vector<std::string> strings(const Rcpp::CharacterVector& texts) {
  std::vector<std::string> out;
  for (R_xlen_t i = 0; i < texts.size(); ++i) out.emplace_back(Rf_translateCharUTF8(STRING_ELT(texts, i)));
  return out;
}

const char* bytes(const Rcpp::RawVector& part) { return reinterpret_cast<const char*>(RAW(part)); }

template <class Read>
auto read_part(const Rcpp::RawVector& part, const Read& read) {
  try {
    return read(bytes(part), static_cast<std::size_t>(part.size()));
  } catch (const ensayo::XmlFault& fault) {
    Rcpp::stop(fault.what());
  }
}

Rcpp::List facts_list(const BookFacts& facts) {
  std::vector<std::string> names, parts, named, formulas;
  std::vector<int> hidden, guarded, merged, of_sheet;
  for (const SheetFacts& sheet : facts.sheets) {
    names.push_back(sheet.name);
    parts.push_back(sheet.part);
    hidden.push_back(sheet.hidden);
    guarded.push_back(sheet.is_protected);
    merged.push_back(static_cast<int>(sheet.merged));
  }
  for (const NameFacts& name : facts.names) {
    named.push_back(name.name);
    formulas.push_back(name.formula);
    of_sheet.push_back(name.sheet + 1);
  }
  return Rcpp::List::create(
    Rcpp::Named("sheets") = Rcpp::List::create(Rcpp::Named("name") = texts_of(names), Rcpp::Named("part") = texts_of(parts),
      Rcpp::Named("hidden") = Rcpp::LogicalVector(hidden.begin(), hidden.end()),
      Rcpp::Named("protected") = Rcpp::LogicalVector(guarded.begin(), guarded.end()),
      Rcpp::Named("merged") = Rcpp::IntegerVector(merged.begin(), merged.end())),
    Rcpp::Named("names") = Rcpp::List::create(Rcpp::Named("name") = texts_of(named), Rcpp::Named("sheet") = Rcpp::IntegerVector(of_sheet.begin(), of_sheet.end()),
      Rcpp::Named("formula") = texts_of(formulas)),
    Rcpp::Named("from_1904") = facts.from_1904, Rcpp::Named("iterates") = facts.iterates, Rcpp::Named("protected") = facts.is_protected,
    Rcpp::Named("external") = facts.has_external);
}

// Rows, columns and the rest count from 1 for R; a formula that is none is 0.
Rcpp::List cells_list(const CellColumns& cells) {
  const R_xlen_t n = static_cast<R_xlen_t>(cells.row.size());
  Rcpp::IntegerVector row(n), column(n), type(n), formula(n), shown(n);
  Rcpp::CharacterVector text(n);
  for (R_xlen_t i = 0; i < n; ++i) {
    const std::size_t k = static_cast<std::size_t>(i);
    row[i] = cells.row[k] + 1;
    column[i] = cells.column[k] + 1;
    type[i] = static_cast<int>(cells.type[k]);
    formula[i] = cells.formula[k] + 1;
    shown[i] = cells.shown[k];
    text[i] = utf8(cells.type[k] == Type::error ? error_text(static_cast<Error>(static_cast<int>(cells.number[k]))) : cells.text[k]);
  }
  const auto whole = [](const std::vector<std::int32_t>& x) { return Rcpp::IntegerVector(x.begin(), x.end()); };
  return Rcpp::List::create(Rcpp::Named("row") = row, Rcpp::Named("column") = column, Rcpp::Named("type") = type,
    Rcpp::Named("number") = Rcpp::NumericVector(cells.number.begin(), cells.number.end()), Rcpp::Named("text") = text,
    Rcpp::Named("shown") = shown, Rcpp::Named("formula") = formula, Rcpp::Named("down") = whole(cells.down),
    Rcpp::Named("right") = whole(cells.right), Rcpp::Named("array_rows") = whole(cells.array_rows),
    Rcpp::Named("array_columns") = whole(cells.array_columns), Rcpp::Named("formulas") = texts_of(cells.formulas),
    Rcpp::Named("notes") = texts_of(cells.notes));
}

// A book with what was compiled of it, which refers to it.
struct Calculation {
  std::unique_ptr<Book> book;
  std::unique_ptr<Compiler> compiler;
  std::unique_ptr<ensayo::Program> program;
};

std::unique_ptr<Book> read_book(const Rcpp::List& book) {
  const Rcpp::List sheets = book["sheets"], cells = book["cells"], names = book["names"];
  const std::string format = Rcpp::as<std::string>(book["format"]);
  std::unique_ptr<Book> out(new Book(strings(sheets["name"]), format == "document" ? Dialect::document : Dialect::office,
    Rcpp::as<bool>(book["from_1904"])));
  const std::vector<std::string> formulas = strings(book["formulas"]), notes = strings(book["notes"]);
  for (std::size_t i = 0; i < formulas.size(); ++i) out->add_formula(formulas[i], notes[i]);
  const std::vector<std::string> named = strings(names["name"]), named_formulas = strings(names["formula"]);
  const Rcpp::IntegerVector of_sheet = names["sheet"];
  for (std::size_t i = 0; i < named.size(); ++i) out->add_name(named[i], of_sheet[static_cast<R_xlen_t>(i)] - 1, named_formulas[i]);
  const Rcpp::IntegerVector sheet = cells["sheet"], row = cells["row"], column = cells["column"], type = cells["type"], formula = cells["formula"],
    down = cells["down"], right = cells["right"], array_rows = cells["array_rows"], array_columns = cells["array_columns"];
  const Rcpp::NumericVector number = cells["number"];
  const Rcpp::CharacterVector text = cells["text"];
  const Rcpp::IntegerVector last_row = sheets["last_row"], last_column = sheets["last_column"];
  for (R_xlen_t i = 0; i < last_row.size(); ++i) out->reach(static_cast<std::int32_t>(i), last_row[i] - 1, last_column[i] - 1);
  out->cells.reserve(static_cast<std::size_t>(row.size()));
  for (R_xlen_t i = 0; i < row.size(); ++i) {
    Cell cell;
    cell.sheet = sheet[i] - 1;
    cell.row = row[i] - 1;
    cell.column = column[i] - 1;
    switch (static_cast<Type>(type[i])) {
      case Type::number: cell.value = number[i]; break;
      case Type::logical: cell.value = logical_value(number[i] != 0); break;
      case Type::error: cell.value = error_value(static_cast<Error>(static_cast<int>(number[i]))); break;
      case Type::text: cell.value = out->setting.texts.value(Rf_translateCharUTF8(STRING_ELT(text, i))); break;
      default: cell.value = empty_value();
    }
    cell.formula = formula[i] - 1;
    cell.down = down[i];
    cell.right = right[i];
    cell.array_rows = array_rows[i];
    cell.array_columns = array_columns[i];
    out->add_cell(cell);
  }
  out->place_arrays();
  return out;
}

Rcpp::List refusals_list(const std::vector<Refusal>& refusals) {
  std::vector<int> cells;
  std::vector<std::string> why, what;
  for (const Refusal& each : refusals) {
    cells.push_back(static_cast<int>(each.cell) + 1);
    why.push_back(each.why);
    what.push_back(each.what);
  }
  return Rcpp::List::create(Rcpp::Named("cell") = Rcpp::IntegerVector(cells.begin(), cells.end()), Rcpp::Named("why") = texts_of(why),
    Rcpp::Named("what") = texts_of(what));
}

// Values of cells as R has them: a type and a number or a text for each.
struct Values {
  Rcpp::IntegerVector type;
  Rcpp::NumericVector number;
  Rcpp::CharacterVector text;
  explicit Values(R_xlen_t n) : type(n), number(n), text(n) {}
  void set(R_xlen_t i, double x, const Texts& texts) {
    const Type of = type_of(x);
    type[i] = static_cast<int>(of);
    number[i] = of == Type::number ? x : of == Type::logical || of == Type::error ? payload_of(x) : NA_REAL;
    text[i] = of == Type::text ? utf8(texts.of(x)) : of == Type::error ? utf8(error_text(error_of(x))) : R_BlankString;
  }
  Rcpp::List list() const { return Rcpp::List::create(Rcpp::Named("type") = type, Rcpp::Named("number") = number, Rcpp::Named("text") = text); }
};

// Columns of numbers, texts and logical values as cells have them.
struct Given {
  std::vector<std::vector<double>> made;
  std::vector<const double*> pointers;
  Given(const Rcpp::List& columns, Texts& texts) {
    made.reserve(static_cast<std::size_t>(columns.size()));
    for (R_xlen_t i = 0; i < columns.size(); ++i) {
      SEXP column = columns[i];
      if (TYPEOF(column) == REALSXP) {
        pointers.push_back(REAL(column));
        continue;
      }
      std::vector<double> values;
      for (R_xlen_t k = 0; k < Rf_xlength(column); ++k) {
        values.push_back(TYPEOF(column) == STRSXP ? texts.value(Rf_translateCharUTF8(STRING_ELT(column, k)))
                         : LOGICAL(column)[k] == NA_LOGICAL ? error_value(Error::missing) : logical_value(LOGICAL(column)[k] != 0));
      }
      made.push_back(std::move(values));
      pointers.push_back(made.back().data());
    }
  }
};

bool comes_from(double value, double operand) { return is_error(operand) && error_of(operand) == error_of(value); }

void set_laws() {
  ensayo::Mathematics& functions = ensayo::mathematics();
  functions.gamma_cumulative = [](double x, double shape, double scale) { return R::pgamma(x, shape, scale, 1, 0); };
  functions.gamma_quantile = [](double p, double shape, double scale) { return R::qgamma(p, shape, scale, 1, 0); };
  functions.beta_cumulative = [](double x, double a, double b) { return R::pbeta(x, a, b, 1, 0); };
  functions.beta_quantile = [](double p, double a, double b) { return R::qbeta(p, a, b, 1, 0); };
  functions.student_cumulative = [](double x, double freedom) { return R::pt(x, freedom, 1, 0); };
  functions.student_quantile = [](double p, double freedom) { return R::qt(p, freedom, 1, 0); };
}

}  // namespace

// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_office_book(Rcpp::RawVector part) { return facts_list(read_part(part, read_office_book)); }

// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_office_links(Rcpp::RawVector part) {
  std::vector<std::string> id, kind, target;
  for (const auto& link : read_part(part, read_office_links)) {
    const std::size_t tab = link.first.find('\t');
    id.push_back(link.first.substr(0, tab));
    kind.push_back(link.first.substr(tab + 1));
    target.push_back(link.second);
  }
  return Rcpp::List::create(Rcpp::Named("id") = texts_of(id), Rcpp::Named("kind") = texts_of(kind), Rcpp::Named("target") = texts_of(target));
}

// [[Rcpp::export(rng = false)]]
Rcpp::CharacterVector cpp_office_texts(Rcpp::RawVector part) { return texts_of(read_part(part, read_office_texts)); }

// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector cpp_office_styles(Rcpp::RawVector part) {
  Rcpp::IntegerVector out;
  for (Shown each : read_part(part, read_office_styles)) out.push_back(static_cast<int>(each));
  return out;
}

// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_office_sheet(Rcpp::RawVector part, Rcpp::CharacterVector texts, Rcpp::IntegerVector styles) {
  const std::vector<std::string> known = strings(texts);
  std::vector<Shown> shown;
  for (int each : styles) shown.push_back(static_cast<Shown>(each));
  SheetFacts facts;
  const CellColumns cells = read_part(part, [&](const char* text, std::size_t size) {
    return read_office_sheet(text, size, known, shown, facts, SheetLimits());
  });
  return Rcpp::List::create(Rcpp::Named("cells") = cells_list(cells), Rcpp::Named("protected") = facts.is_protected,
    Rcpp::Named("merged") = static_cast<int>(facts.merged));
}

// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_document(Rcpp::RawVector part) {
  std::vector<CellColumns> sheets;
  Rcpp::List out = facts_list(read_part(part, [&](const char* text, std::size_t size) { return read_document(text, size, sheets, SheetLimits()); }));
  Rcpp::List cells(static_cast<R_xlen_t>(sheets.size()));
  for (std::size_t i = 0; i < sheets.size(); ++i) cells[static_cast<R_xlen_t>(i)] = cells_list(sheets[i]);
  out["cells"] = cells;
  return out;
}

// Formulas that were copied so many rows down and columns to the right.
// [[Rcpp::export(rng = false)]]
Rcpp::CharacterVector cpp_moved_formulas(Rcpp::CharacterVector formulas, Rcpp::IntegerVector down, Rcpp::IntegerVector right) {
  std::vector<std::string> out = strings(formulas);
  for (std::size_t i = 0; i < out.size(); ++i) {
    const R_xlen_t k = static_cast<R_xlen_t>(i);
    if (down[k] != 0 || right[k] != 0) out[i] = moved_formula(out[i], read_formula(out[i], Dialect::office), down[k], right[k]);
  }
  return texts_of(out);
}

// [[Rcpp::export(rng = false)]]
Rcpp::CharacterVector cpp_workbook_functions() {
  std::vector<std::string> names = function_names();
  for (const char* each : {"ROW", "COLUMN", "ROWS", "COLUMNS", "TRANSPOSE", "SUBTOTAL", "SHEET", "SHEETS", "INDIRECT", "OFFSET", "LET"}) names.push_back(each);
  return texts_of(names);
}

// The cells `outputs` of a workbook, compiled for `inputs` that columns give (`purpose` "runs"), at the values in the file
// ("values"), or each from what the file says of the cells that it refers to ("check"). The first that cannot be calculated is
// told, else what every cell that is needed is.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_compile_workbook(Rcpp::List book, Rcpp::IntegerVector inputs, Rcpp::IntegerVector outputs, std::string purpose) {
  set_laws();
  std::unique_ptr<Calculation> all(new Calculation);
  all->book = read_book(book);
  std::vector<std::uint32_t> given;
  for (int each : inputs) given.push_back(static_cast<std::uint32_t>(each) - 1);
  all->compiler.reset(new Compiler(*all->book, given, purpose == "runs" ? Purpose::runs : purpose == "values" ? Purpose::values : Purpose::check));
  Compiler& compiler = *all->compiler;
  std::vector<ensayo::Wanted> wanted;
  for (int each : outputs) {
    const std::uint32_t cell = static_cast<std::uint32_t>(each) - 1;
    if (!compiler.compile(cell)) return Rcpp::List::create(Rcpp::Named("refusal") = refusals_list({compiler.refusal()}));
    ensayo::Wanted one;
    one.value = compiler.node_of(cell);
    wanted.push_back(one);
  }
  std::vector<int> reached, varying;
  for (std::uint32_t cell = 0; cell < all->book->cells.size(); ++cell) {
    if (!compiler.is_compiled(cell)) continue;
    reached.push_back(static_cast<int>(cell) + 1);
    varying.push_back(compiler.varies(cell));
  }
  const Texts& texts = all->book->setting.texts;
  Values values(static_cast<R_xlen_t>(reached.size()));
  Rcpp::NumericVector scale(static_cast<R_xlen_t>(reached.size()));
  for (std::size_t i = 0; i < reached.size(); ++i) {
    const std::uint32_t cell = static_cast<std::uint32_t>(reached[i]) - 1;
    values.set(static_cast<R_xlen_t>(i), compiler.calculated(cell), texts);
    scale[static_cast<R_xlen_t>(i)] = compiler.scale(cell);
  }
  const Rcpp::List kept = refusals_list(compiler.kept());
  all->program.reset(new ensayo::Program(compiler.graph, wanted));
  const int instructions = static_cast<int>(all->program->instructions());
  Rcpp::LogicalVector used(inputs.size());
  for (std::uint32_t place : all->program->columns_read()) used[place] = true;
  return Rcpp::List::create(Rcpp::Named("program") = Rcpp::XPtr<Calculation>(all.release(), true),
    Rcpp::Named("reached") = Rcpp::IntegerVector(reached.begin(), reached.end()),
    Rcpp::Named("varies") = Rcpp::LogicalVector(varying.begin(), varying.end()), Rcpp::Named("values") = values.list(), Rcpp::Named("scale") = scale,
    Rcpp::Named("kept") = kept,
    Rcpp::Named("used") = used, Rcpp::Named("instructions") = instructions);
}

// Values of the outputs in n runs: numbers; where they are something else, or an error, their types.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_run_workbook(SEXP program, Rcpp::List columns, double n, int threads) {
  Calculation& all = *Rcpp::XPtr<Calculation>(program);
  const R_xlen_t runs = static_cast<R_xlen_t>(n);
  const Given given(columns, all.book->setting.texts);
  const std::vector<const double*>& from = given.pointers;
  const std::size_t count = all.program->wanted().size();
  Rcpp::List out(static_cast<R_xlen_t>(count));
  std::vector<double*> to;
  for (std::size_t k = 0; k < count; ++k) {
    SEXP column = Rf_allocVector(REALSXP, runs);
    out[static_cast<R_xlen_t>(k)] = column;
    to.push_back(REAL(column));
  }
  std::vector<unsigned> seen;
  const bool alone = all.compiler->on_one_thread();
  all.program->run(from, static_cast<std::size_t>(runs), alone ? 1 : static_cast<unsigned>(std::max(threads, 1)), to, seen);
  const Texts& texts = all.book->setting.texts;
  for (std::size_t k = 0; k < count; ++k) {
    if (!(seen[k] & ensayo::some_broken)) continue;
    Values values(runs);
    for (R_xlen_t i = 0; i < runs; ++i) values.set(i, to[k][i], texts);
    out[static_cast<R_xlen_t>(k)] = values.list();
  }
  return out;
}

// Of some runs in which an output is an error, the cell in which it came up, and which it is.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_explain_workbook(SEXP program, Rcpp::List columns, int output, Rcpp::IntegerVector runs) {
  Calculation& all = *Rcpp::XPtr<Calculation>(program);
  const Given given(columns, all.book->setting.texts);
  const std::vector<const double*>& from = given.pointers;
  std::vector<std::size_t> places;
  for (int run : runs) places.push_back(static_cast<std::size_t>(run - 1));
  Rcpp::IntegerVector cell(runs.size());
  Rcpp::CharacterVector error(runs.size());
  const auto reasons = all.program->explain(from, places, static_cast<std::size_t>(output - 1), comes_from);
  for (std::size_t i = 0; i < reasons.size(); ++i) {
    const std::vector<std::uint32_t>& origins = all.compiler->origins();
    const std::uint32_t node = reasons[i].node;
    cell[static_cast<R_xlen_t>(i)] = node < origins.size() ? static_cast<int>(origins[node]) + 1 : 0;
    error[static_cast<R_xlen_t>(i)] = error_text(error_of(reasons[i].value));
  }
  return Rcpp::List::create(Rcpp::Named("cell") = cell, Rcpp::Named("error") = error);
}

// For each cell, how many formulas refer to it.
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector cpp_workbook_uses(Rcpp::List book) {
  const std::unique_ptr<Book> all = read_book(book);
  const std::vector<int> uses = cell_uses(*all);
  return Rcpp::IntegerVector(uses.begin(), uses.end());
}

// Which cells can be calculated: at the values in the file, or (`vary`) whatever the numbers are that stand in cells themselves.
// [[Rcpp::export(rng = false)]]
Rcpp::LogicalVector cpp_calculated_cells(Rcpp::List book, Rcpp::IntegerVector cells, bool vary) {
  set_laws();
  const std::unique_ptr<Book> all = read_book(book);
  std::vector<std::uint32_t> numbers;
  for (std::uint32_t cell = 0; vary && cell < all->cells.size(); ++cell) {
    const Cell& one = all->cells[cell];
    if (one.formula < 0 && one.master == no_cell && type_of(one.value) == Type::number) numbers.push_back(cell);
  }
  Compiler compiler(*all, numbers, vary ? Purpose::runs : Purpose::values);
  Rcpp::LogicalVector out(cells.size());
  for (R_xlen_t i = 0; i < cells.size(); ++i) out[i] = compiler.compile(static_cast<std::uint32_t>(cells[i]) - 1);
  return out;
}
