#include "exact.h"
#include "graph.h"

#include <algorithm>
#include <cstring>

namespace ensayo {

namespace {

std::uint64_t bits_of(double x) {
  std::uint64_t bits;
  std::memcpy(&bits, &x, sizeof bits);
  return bits;
}

std::uint64_t mixed(std::uint64_t hash, std::uint64_t more) {
  hash = (hash ^ more) * 0x9e3779b97f4a7c15u;
  return hash ^ (hash >> 29);
}

std::uint64_t hash_of(const Node& node) {
  std::uint64_t hash = mixed(static_cast<std::uint64_t>(node.operation), static_cast<std::uint64_t>(node.kind));
  hash = mixed(mixed(mixed(hash, node.a), node.b), node.c);
  hash = mixed(mixed(hash, bits_of(node.value)), reinterpret_cast<std::uintptr_t>(node.table));
  return mixed(hash, reinterpret_cast<std::uintptr_t>(node.function));
}

bool same(const Node& x, const Node& y) {
  return x.operation == y.operation && x.kind == y.kind && x.a == y.a && x.b == y.b && x.c == y.c &&
         bits_of(x.value) == bits_of(y.value) && x.table == y.table && x.function == y.function;
}

}  // namespace

unsigned operands_of(const Node& node) {
  if (node.operation == Operation::constant || node.operation == Operation::column) return 0;
  return node.c != no_node ? 3 : node.b != no_node ? 2 : 1;
}

std::uint32_t Graph::shared(const Node& node) {
  const std::uint64_t hash = hash_of(node);
  const auto found = known_.equal_range(hash);
  for (auto at = found.first; at != found.second; ++at) {
    if (same(nodes_[at->second], node)) return at->second;
  }
  nodes_.push_back(node);
  const std::uint32_t id = static_cast<std::uint32_t>(nodes_.size() - 1);
  known_.emplace(hash, id);
  return id;
}

std::uint32_t Graph::constant(double value, Kind kind) {
  return shared({Operation::constant, kind, true, no_node, no_node, no_node, value, nullptr, nullptr});
}

std::uint32_t Graph::column(std::uint32_t place, Kind kind, bool single) {
  return shared({Operation::column, kind, single, place, no_node, no_node, 0, nullptr, nullptr});
}

std::uint32_t Graph::make(Operation operation, Kind kind, std::uint32_t a, std::uint32_t b, std::uint32_t c,
                          const LookupTable* table) {
  Node node = {operation, kind, true, a, b, c, 0, table, nullptr};
  const std::uint32_t operands[] = {a, b, c};
  const unsigned count = operands_of(node);
  bool fixed = true;
  double values[3] = {};
  for (unsigned i = 0; i < count; ++i) {
    node.uniform = node.uniform && nodes_[operands[i]].uniform;
    fixed = fixed && is_constant(operands[i]);
    values[i] = nodes_[operands[i]].value;
  }
  if (fixed) {
    double out;
    // what is worth a warning is left for when it is calculated
    if (kernel_of(operation)({&out, values, values + 1, values + 2, 0, table}, 1) == 0) return constant(out, kind);
  }
  return shared(node);
}

bool Graph::has_operands(const Node& node, const std::vector<std::uint32_t>& operands) const {
  return node.operation == Operation::call && node.b == operands.size() &&
         std::equal(operands.begin(), operands.end(), listed_.begin() + node.a);
}

std::uint32_t Graph::call(const Function& function, Kind kind, const std::vector<std::uint32_t>& operands) {
  const std::uint32_t count = static_cast<std::uint32_t>(operands.size());
  Node node = {Operation::call, kind, true, static_cast<std::uint32_t>(listed_.size()), count, no_node, 0, nullptr, &function};
  bool fixed = true;
  std::uint64_t hash = mixed(count, reinterpret_cast<std::uintptr_t>(&function));
  for (std::uint32_t id : operands) {
    node.uniform = node.uniform && nodes_[id].uniform;
    fixed = fixed && is_constant(id);
    hash = mixed(hash, id);
  }
  if (fixed) {
    double out;
    std::vector<const double*> values;
    for (std::uint32_t id : operands) values.push_back(&nodes_[id].value);
    const std::vector<unsigned char> single(count, 1);
    function.calculate({&out, values.data(), single.data(), count}, 1);
    return constant(out, kind);
  }
  const auto found = known_.equal_range(hash);
  for (auto at = found.first; at != found.second; ++at) {
    const Node& other = nodes_[at->second];
    if (other.function == &function && other.kind == kind && has_operands(other, operands)) return at->second;
  }
  listed_.insert(listed_.end(), operands.begin(), operands.end());
  nodes_.push_back(node);
  known_.emplace(hash, static_cast<std::uint32_t>(nodes_.size() - 1));
  return static_cast<std::uint32_t>(nodes_.size() - 1);
}

}  // namespace ensayo
