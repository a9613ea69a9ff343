#include "exact.h"
#include "program.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <cstring>

#include "threads.h"

namespace ensayo {

namespace {

bool is_leaf(const Node& node) { return node.operation == Operation::constant || node.operation == Operation::column; }

// From so many operations on a run's values on, threads are worth starting.
constexpr double worth_threads = 1e6;

// Values that stay in the cache of a core, and the fewest runs that are worth a block.
constexpr std::size_t cached_values = 100000, least_block = 64;

}  // namespace

// Told by exponents: all ones where a value is not finite. Adding one to such an exponent sets the sign bit.
bool all_finite(const double* x, std::size_t n) {
  constexpr std::uint64_t exponent = 0x7ff0000000000000, one = 0x0010000000000000;
  std::uint64_t seen[4] = {}, bits[4];
  std::size_t i = 0;
  for (; i + 4 <= n; i += 4) {
    std::memcpy(bits, x + i, sizeof bits);
    for (unsigned k = 0; k < 4; ++k) seen[k] |= (bits[k] & exponent) + one;
  }
  for (; i < n; ++i) {
    std::memcpy(bits, x + i, sizeof bits[0]);
    seen[0] |= (bits[0] & exponent) + one;
  }
  return (seen[0] | seen[1] | seen[2] | seen[3]) >> 63 == 0;
}

bool is_lost_behind(double, double operand) { return !std::isfinite(operand); }

// Pointers stand in this order: values that are the same in all runs, registers, columns, and wanted quantities that are
// calculated where they go.
Program::Program(Graph graph, std::vector<Wanted> wanted) : graph_(std::move(graph)), wanted_(std::move(wanted)) {
  number_nodes();
  for (std::uint32_t id = 0; id < graph_.size(); ++id) {
    const Node& node = graph_[id];
    if (!needed_[id] || is_leaf(node)) continue;
    (node.uniform ? once_ : list_).push_back(instruction(id, place_[id]));
  }
}

void Program::number_nodes() {
  const std::size_t count = graph_.size();
  needed_.assign(count, false);
  // the last node that reads each; what is wanted is read at the end of a block
  std::vector<std::uint32_t> last(count, 0);
  direct_.assign(wanted_.size(), no_node);
  std::vector<bool> is_direct(count, false);
  for (std::size_t k = 0; k < wanted_.size(); ++k) {
    const std::uint32_t value = wanted_[k].value;
    const Node& node = graph_[value];
    if (!node.uniform && !is_leaf(node) && !is_direct[value]) {
      is_direct[value] = true;
      direct_[k] = value;
    }
    for (std::uint32_t id : {value, wanted_[k].failed}) {
      if (id == no_node) continue;
      needed_[id] = true;
      last[id] = no_node;
    }
  }
  for (std::size_t at = count; at-- > 0;) {
    if (!needed_[at]) continue;
    const Node& node = graph_[static_cast<std::uint32_t>(at)];
    graph_.each_operand(node, [&](std::uint32_t, std::uint32_t operand) {
      needed_[operand] = true;
      last[operand] = std::max(last[operand], static_cast<std::uint32_t>(at));
    });
  }
  place_.assign(count, no_node);
  std::vector<std::uint32_t> free;
  std::vector<std::vector<std::uint32_t>> ending(count);
  std::vector<std::uint32_t> in_register;
  for (std::uint32_t id = 0; id < count; ++id) {
    if (!needed_[id]) continue;
    const Node& node = graph_[id];
    if (node.uniform && node.operation != Operation::column) {
      place_[id] = uniforms_++;
    } else if (node.operation == Operation::column) {
      column_nodes_.push_back(id);
      column_places_.push_back(node.a);
    } else if (!is_direct[id]) {
      if (free.empty()) {
        place_[id] = registers_++;
      } else {
        place_[id] = free.back();
        free.pop_back();
      }
      in_register.push_back(id);
      if (last[id] != no_node) ending[last[id]].push_back(id);
    }
    // given back after the node has its own, so that no instruction writes what it reads
    for (std::uint32_t done : ending[id]) free.push_back(place_[done]);
  }
  for (std::uint32_t id : in_register) place_[id] += uniforms_;
  columns_ = uniforms_ + registers_;
  for (std::size_t j = 0; j < column_nodes_.size(); ++j) place_[column_nodes_[j]] = columns_ + static_cast<std::uint32_t>(j);
  pointers_ = columns_ + static_cast<std::uint32_t>(column_nodes_.size());
  for (std::size_t k = 0; k < direct_.size(); ++k) {
    if (direct_[k] != no_node) place_[direct_[k]] = pointers_ + static_cast<std::uint32_t>(k);
  }
}

Program::Instruction Program::instruction(std::uint32_t id, std::uint32_t out) {
  const Node& node = graph_[id];
  if (node.operation == Operation::call) {
    const std::uint32_t first = static_cast<std::uint32_t>(argument_places_.size());
    graph_.each_operand(node, [&](std::uint32_t, std::uint32_t operand) {
      argument_places_.push_back(place_[operand]);
      argument_single_.push_back(graph_[operand].uniform);
    });
    return {nullptr, nullptr, node.function, out, first, node.b, 0, 0};
  }
  std::uint32_t places[3] = {};
  unsigned single = 0;
  graph_.each_operand(node, [&](std::uint32_t i, std::uint32_t operand) {
    places[i] = place_[operand];
    if (graph_[operand].uniform) single |= 1u << i;
  });
  return {kernel_of(node.operation), node.table, nullptr, out, places[0], places[1], places[2], node.uniform ? 0 : single};
}

std::size_t Program::block() const {
  std::size_t block = block_runs;
  while (block > least_block && block * registers_ > cached_values) block /= 2;
  return block;
}

Program::Worker::Worker(const Program& program, std::size_t block)
    : program_(program), uniforms_(program.uniforms_), registers_(program.registers_ * block),
      pointers_(program.pointers_ + program.wanted_.size()) {
  for (std::uint32_t id = 0; id < program.graph_.size(); ++id) {
    if (program.needed_[id] && program.graph_.is_constant(id)) uniforms_[program.place_[id]] = program.graph_[id].value;
  }
  for (std::size_t i = 0; i < program.uniforms_; ++i) pointers_[i] = &uniforms_[i];
  for (std::size_t i = 0; i < program.registers_; ++i) pointers_[program.uniforms_ + i] = &registers_[i * block];
}

void Program::Worker::follow(const std::vector<Instruction>& list, std::size_t n) {
  for (const Instruction& each : list) {
    if (each.function) {
      values_.resize(std::max<std::size_t>(values_.size(), each.b));
      for (std::uint32_t k = 0; k < each.b; ++k) values_[k] = pointers_[program_.argument_places_[each.a + k]];
      each.function->calculate({pointers_[each.out], values_.data(), program_.argument_single_.data() + each.a, each.b}, n);
      continue;
    }
    warnings |= each.kernel({pointers_[each.out], pointers_[each.a], pointers_[each.b], pointers_[each.c], each.single,
      each.table}, n);
  }
}

void Program::Worker::calculate(const double* const* columns, std::size_t n, double* const* out) {
  for (std::size_t j = 0; j < program_.column_nodes_.size(); ++j) {
    pointers_[program_.columns_ + j] = const_cast<double*>(columns[program_.column_places_[j]]);
  }
  const std::size_t count = program_.wanted_.size();
  for (std::size_t w = 0; w < count; ++w) pointers_[program_.pointers_ + w] = out[w];
  follow(program_.once_, 1);
  follow(program_.list_, n);
  for (std::size_t w = 0; w < count; ++w) {
    if (program_.direct_[w] != no_node) continue;
    const std::uint32_t value = program_.wanted_[w].value;
    const double* from = pointers_[program_.place_[value]];
    if (program_.graph_[value].uniform) std::fill(out[w], out[w] + n, *from);
    else std::copy(from, from + n, out[w]);
  }
}

const double* Program::Worker::failed(std::size_t wanted, bool& single) const {
  const std::uint32_t node = program_.wanted_[wanted].failed;
  if (node == no_node) return nullptr;
  single = program_.graph_[node].uniform;
  return pointers_[program_.place_[node]];
}

unsigned Program::run(const std::vector<const double*>& columns, std::size_t n, unsigned threads,
                      const std::vector<double*>& out, std::vector<unsigned>& seen) const {
  const std::size_t size_of_block = block(), blocks = (n + size_of_block - 1) / size_of_block, count = wanted_.size();
  if (static_cast<double>(n) * static_cast<double>(list_.size()) < worth_threads) threads = 1;
  threads = static_cast<unsigned>(std::max<std::size_t>(1, std::min<std::size_t>(threads, blocks)));
  std::vector<std::size_t> moves(columns.size(), 0);
  for (std::size_t j = 0; j < column_nodes_.size(); ++j) {
    if (!graph_[column_nodes_[j]].uniform) moves[column_places_[j]] = 1;
  }
  std::vector<Worker> workers;
  workers.reserve(threads);
  for (unsigned i = 0; i < threads; ++i) workers.emplace_back(*this, size_of_block);
  std::vector<std::vector<unsigned>> found(threads, std::vector<unsigned>(count, 0));
  const auto one_block = [&](std::size_t k, std::size_t worker, std::vector<const double*>& from, std::vector<double*>& to) {
    const std::size_t first = k * size_of_block, size = std::min(size_of_block, n - first);
    for (std::size_t j = 0; j < columns.size(); ++j) from[j] = columns[j] + moves[j] * first;
    for (std::size_t w = 0; w < count; ++w) to[w] = out[w] + first;
    workers[worker].calculate(from.data(), size, to.data());
    for (std::size_t w = 0; w < count; ++w) {
      unsigned& now = found[worker][w];
      if (!all_finite(to[w], size)) now |= some_broken;
      if (now & some_failed) continue;
      bool single = false;
      const double* failed = workers[worker].failed(w, single);
      if (failed && std::any_of(failed, failed + (single ? 1 : size), [](double x) { return x != 0; })) now |= some_failed;
    }
  };
  // a few blocks at a time, so that sharing them out costs nothing
  const std::size_t together = 8;
  share_out_to_workers((blocks + together - 1) / together, threads, [&](std::size_t k, std::size_t worker) {
    std::vector<const double*> from(columns.size());
    std::vector<double*> to(count);
    for (std::size_t i = k * together; i < std::min(blocks, (k + 1) * together); ++i) one_block(i, worker, from, to);
  });
  seen.assign(count, 0);
  unsigned warnings = 0;
  for (std::size_t i = 0; i < threads; ++i) {
    for (std::size_t w = 0; w < count; ++w) seen[w] |= found[i][w];
    warnings |= workers[i].warnings;
  }
  return warnings;
}

// What a wanted quantity and its checks are calculated from, in order.
std::vector<std::uint32_t> Program::nodes_behind(const Wanted& wanted) const {
  std::vector<bool> needed(graph_.size(), false);
  needed[wanted.value] = true;
  for (const Check& check : wanted.checks) needed[check.node] = true;
  std::vector<std::uint32_t> behind;
  for (std::uint32_t id = static_cast<std::uint32_t>(graph_.size()); id-- > 0;) {
    if (!needed[id]) continue;
    behind.push_back(id);
    graph_.each_operand(graph_[id], [&](std::uint32_t, std::uint32_t operand) { needed[operand] = true; });
  }
  std::reverse(behind.begin(), behind.end());
  return behind;
}

std::vector<Reason> Program::explain(const std::vector<const double*>& columns, const std::vector<std::size_t>& runs,
                                     std::size_t wanted, Leads leads) const {
  const std::vector<std::uint32_t> behind = nodes_behind(wanted_[wanted]);
  std::vector<double> values(graph_.size());
  std::vector<Reason> reasons;
  for (std::size_t run : runs) {
    for (std::uint32_t id : behind) {
      const Node& node = graph_[id];
      if (node.operation == Operation::constant) values[id] = node.value;
      else if (node.operation == Operation::column) values[id] = columns[node.a][node.uniform ? 0 : run];
      else if (node.operation == Operation::call) {
        std::vector<const double*> operands;
        graph_.each_operand(node, [&](std::uint32_t, std::uint32_t operand) { operands.push_back(&values[operand]); });
        const std::vector<unsigned char> single(operands.size(), 1);
        node.function->calculate({&values[id], operands.data(), single.data(), operands.size()}, 1);
      } else {
        const auto at = [&](std::uint32_t operand) { return operand == no_node ? nullptr : &values[operand]; };
        kernel_of(node.operation)({&values[id], at(node.a), at(node.b), at(node.c), 0, node.table}, 1);
      }
    }
    reasons.push_back(reason_of(wanted_[wanted], values, leads));
  }
  return reasons;
}

// From the lost value back to the node whose operands were good.
Reason Program::reason_of(const Wanted& wanted, const std::vector<double>& values, Leads leads) const {
  for (const Check& check : wanted.checks) {
    if (values[check.node] != 0) return {true, check.what, check.node, values[check.node]};
  }
  std::uint32_t at = wanted.value;
  for (;;) {
    const Node& node = graph_[at];
    std::uint32_t worse = no_node;
    graph_.each_operand(node, [&](std::uint32_t k, std::uint32_t operand) {
      // of a choice the branch that is taken
      if (node.operation == Operation::choose && k > 0 && (values[node.a] != 0) != (k == 1)) return;
      if (worse == no_node && leads(values[at], values[operand])) worse = operand;
    });
    if (worse == no_node) return {false, 0, at, values[at]};
    at = worse;
  }
}

}  // namespace ensayo
