// Doors to models that go step by step.
#include <algorithm>

#include "core/steps.h"
#include "formula_reader.h"

using ensayo::StepModel;
using namespace door;

namespace {

struct CompiledSteps {
  std::vector<Given> given;
  std::unique_ptr<StepModel> model;
  std::shared_ptr<Compiled> start, lines;   // where their nodes were written
};

struct Steps {
  std::unique_ptr<Formulas> start, lines;
  std::vector<std::size_t> started;         // the lines that have a starting value
  std::vector<std::vector<double>> known;
  std::vector<SEXP> known_names;
  std::vector<StepModel::Kept> kept;
  std::size_t steps;
  std::vector<std::unique_ptr<CompiledSteps>> compiled;
};

std::vector<bool> single_columns(const std::vector<Given>& given) {
  std::vector<bool> single;
  for (const Given& each : given) single.insert(single.end(), static_cast<std::size_t>(std::max(each.steps, 1)), each.single);
  return single;
}

const CompiledSteps& compiled_for(Steps& all, const Columns& columns, R_xlen_t n) {
  for (const auto& known : all.compiled) if (is_same(known->given, columns.given, n == 1)) return *known;
  std::unique_ptr<CompiledSteps> made(new CompiledSteps);
  made->given = columns.given;
  made->start = std::make_shared<Compiled>();
  made->start->given = columns.given;
  read_formulas(*all.start, *made->start);
  Lines lines;
  lines.first = columns.pointers.size();
  for (std::size_t i = 0; i < all.lines->names.size(); ++i) lines.line[all.lines->names[i]] = i;
  for (std::size_t i = 0; i < all.known_names.size(); ++i) lines.known[all.known_names[i]] = i;
  made->lines = std::make_shared<Compiled>();
  made->lines->given = columns.given;
  read_formulas(*all.lines, *made->lines, &lines);
  std::vector<StepModel::Lag> lags;
  for (const auto& lag : lines.lags) lags.push_back({lag.first, lag.second});
  std::vector<std::size_t> series;
  for (const Given& each : columns.given) {
    if (each.steps == 0) continue;
    if (static_cast<std::size_t>(each.steps) != all.steps) throw LeftToR();
    series.push_back(each.place);
  }
  made->model.reset(new StepModel{*made->start->program, *made->lines->program, all.started, all.known, lags, all.kept, all.steps,
                                  series});
  all.compiled.push_back(std::move(made));
  return *all.compiled.back();
}

}  // namespace

// Lines in the order in which they are calculated, and starting values of some of them (`started`, from 1); values known
// for each step; of which lines nothing is kept (0), the last value (1) or all (2); and the quantities of the run that all of
// these use.
// [[Rcpp::export(rng = false)]]
SEXP cpp_step_model(Rcpp::List lines, Rcpp::CharacterVector names, Rcpp::List start, Rcpp::IntegerVector started, Rcpp::List known,
                    Rcpp::IntegerVector kept, double steps, Rcpp::CharacterVector uses) {
  Rcpp::XPtr<Steps> all(new Steps, true);
  all->lines = new_formulas(lines, names, uses);
  Rcpp::CharacterVector start_names(start.size());
  for (R_xlen_t i = 0; i < start.size(); ++i) start_names[i] = "start of " + Rcpp::as<std::string>(names[started[i] - 1]);
  all->start = new_formulas(start, start_names, uses);
  // texts of columns are compared with those of both
  number_texts(start, all->lines->texts);
  all->start->texts = all->lines->texts;
  for (int line : started) all->started.push_back(static_cast<std::size_t>(line - 1));
  const Rcpp::CharacterVector known_names = known.size() ? Rcpp::CharacterVector(known.names()) : Rcpp::CharacterVector();
  for (R_xlen_t i = 0; i < known.size(); ++i) {
    all->known.push_back(Rcpp::as<std::vector<double>>(known[i]));
    all->known_names.push_back(Rf_installTrChar(known_names[i]));
  }
  for (int each : kept) all->kept.push_back(static_cast<StepModel::Kept>(each));
  all->steps = static_cast<std::size_t>(steps);
  return all;
}

// The lines that are kept, of n runs, in a matrix where all steps are; which runs failed; what is worth a warning. NULL where a quantity is of a
// kind that the lines cannot calculate with.
// [[Rcpp::export(rng = false)]]
SEXP cpp_run_steps(SEXP model, Rcpp::List columns, double n, int threads) {
  Steps& all = *Rcpp::XPtr<Steps>(model);
  const R_xlen_t runs = static_cast<R_xlen_t>(n);
  try {
    const Columns given(columns, runs, all.lines->texts);
    const CompiledSteps& compiled = compiled_for(all, given, runs);
    Rcpp::List values(static_cast<R_xlen_t>(all.kept.size()) - std::count(all.kept.begin(), all.kept.end(), StepModel::Kept::nothing));
    std::vector<double*> out;
    for (const StepModel::Kept kept : all.kept) {
      if (kept == StepModel::Kept::nothing) continue;
      const auto place = static_cast<R_xlen_t>(out.size());
      values[place] = kept == StepModel::Kept::all ? Rf_allocMatrix(REALSXP, static_cast<int>(runs), static_cast<int>(all.steps))
                                                   : Rf_allocVector(REALSXP, runs);
      out.push_back(REAL(values[place]));
    }
    std::vector<unsigned char> failed;
    const unsigned warnings = compiled.model->run(given.pointers, single_columns(given.given), static_cast<std::size_t>(runs),
      static_cast<unsigned>(std::max(threads, 1)), out, failed);
    std::vector<int> which;
    for (R_xlen_t i = 0; i < runs; ++i) {
      if (!failed[static_cast<std::size_t>(i)]) continue;
      which.push_back(static_cast<int>(i + 1));
      for (R_xlen_t k = 0; k < values.size(); ++k) {
        for (R_xlen_t at = i; at < Rf_xlength(values[k]); at += runs) REAL(values[k])[at] = NA_REAL;
      }
    }
    return Rcpp::List::create(Rcpp::Named("values") = values, Rcpp::Named("failed") = which,
      Rcpp::Named("warnings") = static_cast<int>(warnings));
  } catch (const LeftToR&) {
    return R_NilValue;
  }
}

// Where runs failed: the line, the step (0 for its starting value), and as cpp_explain_formulas() has it the fault, or the value
// and the expression.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_explain_steps(SEXP model, Rcpp::List columns, double n, Rcpp::IntegerVector runs) {
  Steps& all = *Rcpp::XPtr<Steps>(model);
  const Columns given(columns, static_cast<R_xlen_t>(n), all.lines->texts);
  const CompiledSteps& compiled = compiled_for(all, given, static_cast<R_xlen_t>(n));
  const std::vector<bool> single = single_columns(given.given);
  Rcpp::IntegerVector line(runs.size()), step(runs.size()), fault(runs.size());
  Rcpp::NumericVector value(runs.size());
  Rcpp::List expressions(runs.size());
  for (R_xlen_t i = 0; i < runs.size(); ++i) {
    const StepModel::Place place = compiled.model->explain(given.pointers, single, static_cast<std::size_t>(runs[i] - 1));
    line[i] = static_cast<int>(place.line) + 1;
    step[i] = static_cast<int>(place.step);
    fault[i] = place.reason.by_check ? static_cast<int>(place.reason.what) : 0;
    value[i] = place.reason.value;
    const auto& sources = (place.step == 0 ? compiled.start : compiled.lines)->sources;
    const auto source = sources.find(place.reason.node);
    if (source != sources.end()) expressions[i] = source->second.first;
  }
  return Rcpp::List::create(Rcpp::Named("line") = line, Rcpp::Named("step") = step, Rcpp::Named("fault") = fault,
    Rcpp::Named("value") = value, Rcpp::Named("expressions") = expressions);
}
