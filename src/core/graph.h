// What formulas calculate, as a graph: each thing once, however often it is written, constants worked out beforehand.
#ifndef ENSAYO_CORE_GRAPH_H
#define ENSAYO_CORE_GRAPH_H

#include <cstdint>
#include <unordered_map>
#include <vector>

#include "operations.h"

namespace ensayo {

enum class Kind : std::uint8_t { logical, whole, number, text };

constexpr std::uint32_t no_node = 0xffffffff;

struct Node {
  Operation operation;
  Kind kind;
  bool uniform;               // the same in all runs
  std::uint32_t a, b, c;      // operands, or no_node; of a column its place in `a`; of a call see `function`
  double value;               // of a constant
  const LookupTable* table;   // not owned
  const Function* function;   // of a call, not owned: its operands are `b` of the graph's list, from `a` on
};

// How many operands an operation has that is no call.
unsigned operands_of(const Node& node);

class Graph {
 public:
  std::uint32_t constant(double value, Kind kind);
  std::uint32_t column(std::uint32_t place, Kind kind, bool single);
  // An operation on nodes that are there; what it gives for constants is a constant.
  std::uint32_t make(Operation operation, Kind kind, std::uint32_t a, std::uint32_t b = no_node,
                     std::uint32_t c = no_node, const LookupTable* table = nullptr);
  // A function of as many nodes as it takes; its call on constants is a constant.
  std::uint32_t call(const Function& function, Kind kind, const std::vector<std::uint32_t>& operands);
  const Node& operator[](std::uint32_t id) const { return nodes_[id]; }
  // What each operand of a node is given to, with its number.
  template <class Use>
  void each_operand(const Node& node, const Use& use) const {
    if (node.operation == Operation::call) {
      for (std::uint32_t k = 0; k < node.b; ++k) use(k, listed_[node.a + k]);
    } else {
      const std::uint32_t operands[] = {node.a, node.b, node.c};
      for (std::uint32_t k = 0; k < operands_of(node); ++k) use(k, operands[k]);
    }
  }
  std::size_t size() const { return nodes_.size(); }
  bool is_constant(std::uint32_t id) const { return nodes_[id].operation == Operation::constant; }

 private:
  std::uint32_t shared(const Node& node);
  bool has_operands(const Node& node, const std::vector<std::uint32_t>& operands) const;
  std::vector<Node> nodes_;
  std::vector<std::uint32_t> listed_;   // operands of calls
  std::unordered_multimap<std::uint64_t, std::uint32_t> known_;
};

}  // namespace ensayo

#endif
