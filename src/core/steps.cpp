#include "exact.h"
#include "steps.h"

#include <algorithm>
#include <cmath>
#include <memory>

#include "threads.h"

namespace ensayo {

// Up to block_runs runs on their way through the steps. Of each line the values of as many steps are at hand as lags reach
// back, and those of the step itself: a ring of blocks.
class StepModel::Path {
 public:
  explicit Path(const StepModel& model)
      : model_(model), start_(model.start), lines_(model.lines), depth_(model.kept.size(), 1), first_(model.kept.size()) {
    for (const Lag& lag : model.lags) depth_[lag.line] = std::max(depth_[lag.line], lag.steps + 1);
    std::size_t blocks = 0;
    for (std::size_t line = 0; line < depth_.size(); ++line) {
      first_[line] = blocks;
      blocks += depth_[line];
    }
    values_.assign(blocks * block_runs, 0);
    to_.resize(depth_.size());
  }

  double* at(std::size_t line, std::size_t step) {
    return &values_[(first_[line] + step % depth_[line]) * block_runs];
  }

  // Puts the starting values wherever a lag may reach before the first step.
  void begin(const std::vector<const double*>& columns, std::size_t n) {
    given_ = columns;
    from_ = columns;
    from_.resize(columns.size() + model_.known.size() + model_.lags.size());
    run_columns_ = columns.size();
    std::vector<double*> to;
    for (std::size_t line : model_.started) to.push_back(at(line, 0));
    start_.calculate(columns.data(), n, to.data());
    for (std::size_t line : model_.started) {
      for (std::size_t back = 1; back < depth_[line]; ++back) std::copy(at(line, 0), at(line, 0) + n, at(line, back));
    }
  }

  // Step 1, 2, ...; the values of lines stand at at(line, step) then.
  void step(std::size_t step, std::size_t n) {
    for (std::size_t first : model_.series) from_[first] = given_[first + step - 1];
    for (std::size_t k = 0; k < model_.known.size(); ++k) from_[run_columns_ + k] = &model_.known[k][step - 1];
    for (std::size_t k = 0; k < model_.lags.size(); ++k) {
      const Lag& lag = model_.lags[k];
      from_[run_columns_ + model_.known.size() + k] = at(lag.line, step + depth_[lag.line] - lag.steps);
    }
    for (std::size_t line = 0; line < to_.size(); ++line) to_[line] = at(line, step);
    lines_.calculate(from_.data(), n, to_.data());
  }

  // Marks the runs of which a value that was just calculated is none.
  void mark(Program::Worker& worker, const std::vector<double*>& values, std::size_t n, unsigned char* failed) const {
    for (std::size_t w = 0; w < values.size(); ++w) {
      if (!all_finite(values[w], n)) {
        for (std::size_t i = 0; i < n; ++i) failed[i] |= !std::isfinite(values[w][i]);
      }
      bool single = false;
      const double* met = worker.failed(w, single);
      if (met) for (std::size_t i = 0; i < n; ++i) failed[i] |= met[single ? 0 : i] != 0;
    }
  }

  const StepModel& model_;
  Program::Worker start_, lines_;
  std::vector<double*> to_;
  std::vector<const double*> from_;

 private:
  std::vector<std::size_t> depth_, first_;
  std::vector<double> values_;
  std::vector<const double*> given_;
  std::size_t run_columns_ = 0;
};

unsigned StepModel::run(const std::vector<const double*>& columns, const std::vector<bool>& single, std::size_t n,
                        unsigned threads, const std::vector<double*>& out, std::vector<unsigned char>& failed) const {
  const std::size_t blocks = (n + block_runs - 1) / block_runs;
  threads = static_cast<unsigned>(std::max<std::size_t>(1, std::min<std::size_t>(threads, blocks)));
  std::vector<std::unique_ptr<Path>> paths;
  for (unsigned i = 0; i < threads; ++i) paths.emplace_back(new Path(*this));
  failed.assign(n, 0);
  share_out_to_workers(blocks, threads, [&](std::size_t k, std::size_t worker) {
    Path& path = *paths[worker];
    const std::size_t first = k * block_runs, size = std::min(block_runs, n - first);
    std::vector<const double*> from(columns.size());
    for (std::size_t j = 0; j < columns.size(); ++j) from[j] = columns[j] + (single[j] ? 0 : first);
    path.begin(from, size);
    std::vector<double*> begun;
    for (std::size_t line : started) begun.push_back(path.at(line, 0));
    path.mark(path.start_, begun, size, &failed[first]);
    for (std::size_t step = 1; step <= steps; ++step) {
      path.step(step, size);
      path.mark(path.lines_, path.to_, size, &failed[first]);
      std::size_t wanted = 0;
      for (std::size_t line = 0; line < kept.size(); ++line) {
        if (kept[line] == Kept::nothing) continue;
        double* to = out[wanted++] + first;
        if (kept[line] == Kept::all) to += (step - 1) * n;
        else if (step < steps) continue;
        std::copy(path.to_[line], path.to_[line] + size, to);
      }
    }
  });
  unsigned warnings = 0;
  for (const auto& path : paths) warnings |= path->start_.warnings | path->lines_.warnings;
  return warnings;
}

StepModel::Place StepModel::explain(const std::vector<const double*>& columns, const std::vector<bool>& single,
                                    std::size_t i) const {
  Path path(*this);
  std::vector<const double*> from(columns.size());
  for (std::size_t j = 0; j < columns.size(); ++j) from[j] = columns[j] + (single[j] ? 0 : i);
  path.begin(from, 1);
  std::vector<double*> begun;
  for (std::size_t line : started) begun.push_back(path.at(line, 0));
  const auto first_of = [&](Program::Worker& worker, const std::vector<double*>& values) {
    for (std::size_t w = 0; w < values.size(); ++w) {
      bool same = false;
      const double* met = worker.failed(w, same);
      if (!std::isfinite(*values[w]) || (met && *met != 0)) return w;
    }
    return values.size();
  };
  std::size_t w = first_of(path.start_, begun);
  if (w < begun.size()) return {started[w], 0, start.explain(from, {0}, w)[0]};
  for (std::size_t step = 1; step <= steps; ++step) {
    path.step(step, 1);
    w = first_of(path.lines_, path.to_);
    if (w < path.to_.size()) return {w, step, lines.explain(path.from_, {0}, w)[0]};
  }
  return {kept.size(), steps, {}};
}

}  // namespace ensayo
