// Tests of compiled formulas and of models that go step by step, without R.
#include <algorithm>
#include <cmath>
#include <cstring>
#include <vector>

#include "../../src/core/kernel.h"
#include "../../src/core/normal.h"
#include "../../src/core/path.h"
#include "../../src/core/occurrences.h"
#include "../../src/core/persistence.h"
#include "../../src/core/program.h"
#include "../../src/core/pursuit.h"
#include "../../src/core/steps.h"
#include "../../src/core/stream.h"
#include "checks.h"

using namespace ensayo;

static void formulas_are_calculated_once_and_failures_found() {
  Graph graph;
  const std::uint32_t a = graph.column(0, Kind::number, false), b = graph.column(1, Kind::number, true);
  const std::uint32_t two = graph.constant(2, Kind::number), three = graph.constant(3, Kind::number);
  const std::uint32_t sum = graph.make(Operation::add, Kind::number, a, b);
  check(graph.make(Operation::add, Kind::number, a, b) == sum, "what is written twice is one node");
  check(graph[graph.make(Operation::multiply, Kind::number, two, three)].value == 6, "constants are worked out");
  const std::size_t before = graph.size();
  graph.make(Operation::exponential, Kind::number, sum);  // needed by nothing
  const std::uint32_t root = graph.make(Operation::square_root, Kind::number, sum);
  const std::uint32_t scaled = graph.make(Operation::multiply, Kind::number, b, two);  // the same in all runs
  const std::uint32_t missing = graph.make(Operation::is_missing, Kind::logical, a);
  const std::uint32_t value = graph.make(Operation::unless, Kind::number, graph.make(Operation::add, Kind::number, root, scaled), missing);
  check(graph.size() > before, "nodes are added");
  const Program program(graph, {{value, missing, {{missing, 7}}}, {scaled, no_node, {}}, {sum, no_node, {}}, {sum, no_node, {}}});
  check(program.instructions() == 5, "what nothing needs, and what is the same in all runs, is not in the list");
  const std::size_t n = 3 * block_runs + 17;
  std::vector<double> column(n), single(1, 1.5);
  for (std::size_t i = 0; i < n; ++i) column[i] = static_cast<double>(i) * 0.25;
  column[5] = -20;
  column[block_runs + 1] = missing_value();
  for (unsigned threads : {1u, 3u}) {
    std::vector<std::vector<double>> out(4, std::vector<double>(n));
    std::vector<double*> to;
    for (auto& each : out) to.push_back(each.data());
    std::vector<unsigned> seen;
    program.run({column.data(), single.data()}, n, threads, to, seen);
    bool right = true;
    for (std::size_t i = 0; i < n; ++i) {
      if (i == 5 || i == block_runs + 1) continue;
      right = right && out[0][i] == std::sqrt(column[i] + 1.5) + 3 && out[1][i] == 3 && out[2][i] == column[i] + 1.5 && out[3][i] == out[2][i];
    }
    check(right, "values of a program");
    check(std::isnan(out[0][5]) && !is_missing_value(out[0][5]) && is_missing_value(out[0][block_runs + 1]), "NA and NaN are told apart");
    check(seen[0] == (some_failed | some_broken) && seen[1] == 0 && seen[2] == some_broken, "what was seen of each");
  }
  const std::vector<const double*> columns = {column.data(), single.data()};
  const Reason lost = program.explain(columns, {5}, 0)[0];
  check(!lost.by_check && lost.node == root && std::isnan(lost.value), "where a run went wrong");
  const Reason failed_run = program.explain(columns, {7, block_runs + 1}, 0)[1];
  check(failed_run.by_check && failed_run.what == 7, "which check a run met");
  // on every path the same bits
  std::vector<double> x(1000), y(1000), made(1000), first(1000);
  for (std::size_t i = 0; i < x.size(); ++i) {
    x[i] = std::sin(static_cast<double>(i) * 3.7) * std::pow(10, static_cast<double>(i % 9));
    y[i] = i % 50 == 0 ? missing_value() : std::cos(static_cast<double>(i) * 1.3);
  }
  for (Operation operation : {Operation::add, Operation::divide, Operation::less, Operation::logical_and, Operation::larger,
       Operation::modulus, Operation::power, Operation::choose}) {
    bool same = true;
    for (Path path : {Path::plain, Path::avx2, Path::avx512}) {
      if (!has_path(path)) continue;
      choose_path(path);
      std::vector<double>& to = path == Path::plain ? first : made;
      kernel_of(operation)({to.data(), x.data(), y.data(), x.data(), 0, nullptr}, x.size());
      same = same && std::memcmp(to.data(), first.data(), sizeof(double) * x.size()) == 0;
    }
    check(same, "an operation on every path");
  }
}

static void steps_carry_states_and_reach_back() {
  // columns: a of the run, b single, then a known value for each step, then lags
  Graph start;
  const std::uint32_t begin = start.make(Operation::multiply, Kind::number, start.column(0, Kind::number, false), start.constant(10, Kind::number));
  Program start_program(start, {{begin, no_node, {}}});
  Graph graph;
  const std::uint32_t a = graph.column(0, Kind::number, false), b = graph.column(1, Kind::number, true);
  const std::uint32_t known = graph.column(2, Kind::number, true), before = graph.column(3, Kind::number, false);
  const std::uint32_t three_ago = graph.column(4, Kind::number, false);
  const std::uint32_t level = graph.make(Operation::add, Kind::number, before, graph.make(Operation::multiply, Kind::number, b, known));
  const std::uint32_t gap = graph.make(Operation::subtract, Kind::number, level, three_ago);
  const std::uint32_t root = graph.make(Operation::square_root, Kind::number, graph.make(Operation::subtract, Kind::number, a, known));
  Program lines(graph, {{level, no_node, {}}, {gap, no_node, {}}, {root, no_node, {}}});
  const std::size_t steps = 7, n = 2 * block_runs + 3;
  std::vector<double> known_values;
  for (std::size_t t = 1; t <= steps; ++t) known_values.push_back(static_cast<double>(t));
  const StepModel model{start_program, lines, {0}, {known_values}, {{0, 1}, {0, 3}}, {StepModel::Kept::all, StepModel::Kept::all, StepModel::Kept::nothing}, steps, {}};
  std::vector<double> column(n, 50.0), single(1, 0.5);
  for (std::size_t i = 0; i < n; ++i) column[i] += static_cast<double>(i);
  column[block_runs + 2] = 4.5;  // its root is lost at step 5
  for (unsigned threads : {1u, 2u}) {
    std::vector<std::vector<double>> out(2, std::vector<double>(n * steps));
    std::vector<unsigned char> failed_runs;
    model.run({column.data(), single.data()}, {false, true}, n, threads, {out[0].data(), out[1].data()}, failed_runs);
    bool right = true;
    for (std::size_t i = 0; i < n; ++i) {
      std::vector<double> path(3, column[i] * 10);
      for (std::size_t t = 1; t <= steps; ++t) {
        path.push_back(path.back() + 0.5 * static_cast<double>(t));
        right = right && out[0][(t - 1) * n + i] == path.back() && out[1][(t - 1) * n + i] == path.back() - path[path.size() - 4];
      }
      right = right && failed_runs[i] == (i == block_runs + 2);
    }
    check(right, "states, lags and known values, step by step");
  }
  const StepModel::Place lost = model.explain({column.data(), single.data()}, {false, true}, block_runs + 2);
  check(lost.line == 2 && lost.step == 5 && !lost.reason.by_check, "the line and the step where a run failed");
}

// A series has a value at each step; of the first line the last value alone is kept.
static void steps_take_series_and_keep_last_values() {
  Graph graph;
  const std::uint32_t series = graph.column(0, Kind::number, false), before = graph.column(3, Kind::number, false);
  Graph start;
  const std::uint32_t one = start.constant(1, Kind::number);
  const Program start_program(start, {{one, no_node, {}}});
  const std::uint32_t sum = graph.make(Operation::add, Kind::number, before, series);
  const Program lines(graph, {{sum, no_node, {}}});
  const std::size_t n = block_runs + 5, steps = 3;
  std::vector<double> values(n * steps);
  for (std::size_t i = 0; i < values.size(); ++i) values[i] = static_cast<double>(i % 97);
  const StepModel model{start_program, lines, {0}, {}, {{0, 1}}, {StepModel::Kept::last}, steps, {0}};
  std::vector<double> out(n);
  std::vector<unsigned char> lost;
  model.run({&values[0], &values[n], &values[2 * n]}, {false, false, false}, n, 2, {out.data()}, lost);
  bool right = true;
  for (std::size_t i = 0; i < n; ++i) right = right && out[i] == 1 + values[i] + values[n + i] + values[2 * n + i];
  check(right, "series step by step, and the last value alone");
}

// Scores go from step to step with the share that is kept; within a step they are as correlated as asked.
static void persistence_keeps_laws_and_correlations() {
  const std::size_t n = 200000, steps = 4;
  std::vector<std::vector<double>> u(2, std::vector<double>(n * steps));
  for (std::size_t j = 0; j < 2; ++j) {
    for (std::size_t t = 0; t < steps; ++t) fill_uniforms(Stream(j, "p", Purpose::draw, t), 0, n, &u[j][t * n]);
  }
  const double kept = 0.7, r = 0.5, size = std::sqrt(1 - kept * kept);
  const std::vector<double> begin = {1, 0, r, std::sqrt(1 - r * r)};
  std::vector<double> root = begin;
  for (double& each : root) each *= size;
  Persistence(begin, root, {kept, kept}).apply(std::vector<double*>{u[0].data(), u[1].data()}.data(), n, steps, 0, n);
  std::vector<std::vector<double>> z(2, std::vector<double>(n * steps));
  for (std::size_t j = 0; j < 2; ++j) normal_quantiles(u[j].data(), n * steps, z[j].data());
  const auto product = [&](std::size_t j, std::size_t s, std::size_t k, std::size_t t) {
    double sum = 0;
    for (std::size_t i = 0; i < n; ++i) sum += z[j][s * n + i] * z[k][t * n + i];
    return sum / static_cast<double>(n);
  };
  const double near = 4 * std::sqrt(2.0 / static_cast<double>(n));
  for (std::size_t t = 0; t < steps; ++t) {
    check(std::fabs(product(0, t, 0, t) - 1) < near && std::fabs(product(1, t, 1, t) - 1) < near, "the spread at each step");
    check(std::fabs(product(0, t, 1, t) - r) < near, "the correlation within each step");
    check(std::fabs(product(0, 0, 0, t) - std::pow(kept, static_cast<double>(t))) < near, "what is kept over the steps");
  }
}

// Each occurrence has the word of its own number, and runs do not depend on which others are drawn with them.
static void occurrences_are_drawn_by_number() {
  const std::size_t n = 5000;
  const Stream stream(3, "bursts", Purpose::occurrence);
  const UniformInversion law(0, 10);
  std::vector<double> counts(n), sum(n), again(700), largest(n), over(n), number(n);
  for (std::size_t i = 0; i < n; ++i) counts[i] = static_cast<double>(i % 7);
  std::vector<OpenSize> open;
  add_occurrences(stream, &law, Take{}, 0, n, counts.data(), sum.data(), open);
  bool right = open.empty();
  Take cut;
  cut.deductible = 2;
  cut.limit = 5;
  cut.above = 3;
  cut.what = Taken::largest;
  add_occurrences(stream, &law, cut, 0, n, counts.data(), largest.data(), open);
  cut.what = Taken::sum_above;
  add_occurrences(stream, &law, cut, 0, n, counts.data(), over.data(), open);
  cut.what = Taken::number;
  add_occurrences(stream, &law, cut, 0, n, counts.data(), number.data(), open);
  for (std::size_t i = 0; i < n; ++i) {
    double all = 0, most = 0, above = 0, left = 0;
    for (std::size_t k = 0; k < i % 7; ++k) {
      const double u = open_unit(stream.at_index(k).word(i));
      double x;
      std::vector<std::size_t> none;
      law.apply(&u, 1, &x, none);
      all += x;
      if (x <= 2) continue;
      const double kept = std::min(x - 2, 5.0);
      most = std::max(most, kept);
      above += kept > 3 ? kept : 0;
      left += 1;
    }
    right = right && sum[i] == all && largest[i] == most && over[i] == above && number[i] == left;
  }
  check(right, "occurrences by their numbers, and what is taken of them");
  add_occurrences(stream, &law, Take{}, 1333, again.size(), &counts[1333], again.data(), open);
  check(std::equal(again.begin(), again.end(), sum.begin() + 1333), "a range of runs has the same occurrences");
  std::fill(again.begin(), again.end(), 0);
  add_occurrences(stream, nullptr, Take{}, 1333, again.size(), &counts[1333], again.data(), open);
  double expected = 0;
  for (std::size_t i = 0; i < again.size(); ++i) expected += counts[1333 + i];
  check(static_cast<double>(open.size()) == expected && open[0].u == open_unit(stream.at_index(0).word(1333 + open[0].run)),
        "without a law all sizes stay open, at their numbers");
}

static void pursuit_takes_what_explains() {
  const std::size_t n = 60;
  std::vector<double> columns(4 * n), y(n);
  for (std::size_t i = 0; i < n; ++i) {
    const double t = static_cast<double>(i) / n;
    columns[i] = t;
    columns[n + i] = std::sin(9 * t);
    columns[2 * n + i] = 2 * std::sin(9 * t) + 5;  // says the same as the one before
    columns[3 * n + i] = 7;                        // says nothing
    y[i] = 3 * std::sin(9 * t) + 0.1 * t;
  }
  const Pursuit all = pursue(columns.data(), n, 4, y.data(), std::vector<char>(n, 0), 4);
  check(all.taken.size() == 2 && (all.taken[0] == 1 || all.taken[0] == 2) && all.taken[1] == 0, "columns that say something, once");
  std::vector<char> held(n, 0);
  for (std::size_t i = 0; i < n; i += 5) held[i] = 1;
  const Pursuit part = pursue(columns.data(), n, 4, y.data(), held, 4);
  check(part.held_out.size() == part.taken.size() + 1 && part.held_out.back() < 1e-20 && part.held_out[0] > 1, "what is held out is foretold");
  check(pursue(columns.data(), 0, 0, y.data(), std::vector<char>(), 4).taken.empty(), "of nothing nothing is taken");
}

static void kernels_agree_with_each_other() {
  const std::vector<double> x = {0, 1, 3, 0.5, -1, 2}, lengths = {1, 2};
  std::vector<double> k(9), sums(3), alone(3), near(3), slopes(2), up(9), down(9);
  matern(x.data(), 3, x.data(), 3, 2, lengths.data(), k.data());
  check(k[0] == 1 && k[1] == k[3] && k[1] > k[2] && k[2] > 0, "a kernel is one at no distance, and falls");
  const std::vector<double> weights = {1, -2, 0.5};
  matern_sums(x.data(), 3, x.data(), 3, 2, lengths.data(), weights.data(), 2, sums.data());
  check(std::abs(sums[1] - (k[1] - 2 * k[4] + 0.5 * k[7])) < 1e-15, "sums are those of the kernel");
  nearest(x.data(), 3, x.data(), 3, 2, lengths.data(), true, 1, near.data());
  check(std::abs(near[0] - std::sqrt(1 + 0.75 * 0.75)) < 1e-15, "the nearest other point");
  const std::vector<double> all(9, 1.0);
  matern_slopes(x.data(), 3, 2, lengths.data(), all.data(), slopes.data());
  for (std::size_t at = 0; at < 2; ++at) {
    std::vector<double> more = lengths, less = lengths;
    more[at] *= std::exp(1e-5);
    less[at] *= std::exp(-1e-5);
    matern(x.data(), 3, x.data(), 3, 2, more.data(), up.data());
    matern(x.data(), 3, x.data(), 3, 2, less.data(), down.data());
    double difference = 0;
    for (std::size_t i = 0; i < 9; ++i) difference += up[i] - down[i];
    check(std::abs(difference / 2e-5 - slopes[at]) < 1e-8, "slopes along lengths");
  }
}

void check_models() {
  pursuit_takes_what_explains();
  kernels_agree_with_each_other();
  occurrences_are_drawn_by_number();
  formulas_are_calculated_once_and_failures_found();
  steps_carry_states_and_reach_back();
  steps_take_series_and_keep_last_values();
  persistence_keeps_laws_and_correlations();
}
