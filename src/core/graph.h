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
  std::uint32_t a, b, c;      // operands, or no_node; of a column its place in `a`
  double value;               // of a constant
  const LookupTable* table;   // not owned
};

class Graph {
 public:
  std::uint32_t constant(double value, Kind kind);
  std::uint32_t column(std::uint32_t place, Kind kind, bool single);
  // An operation on nodes that are there; what it gives for constants is a constant.
  std::uint32_t make(Operation operation, Kind kind, std::uint32_t a, std::uint32_t b = no_node,
                     std::uint32_t c = no_node, const LookupTable* table = nullptr);
  const Node& operator[](std::uint32_t id) const { return nodes_[id]; }
  std::size_t size() const { return nodes_.size(); }
  bool is_constant(std::uint32_t id) const { return nodes_[id].operation == Operation::constant; }

 private:
  std::uint32_t shared(const Node& node);
  std::vector<Node> nodes_;
  std::unordered_multimap<std::uint64_t, std::uint32_t> known_;
};

// How many operands an operation has.
unsigned operands_of(const Node& node);

}  // namespace ensayo

#endif
