// A graph of formulas as a list of instructions over blocks of runs.
#ifndef ENSAYO_CORE_PROGRAM_H
#define ENSAYO_CORE_PROGRAM_H

#include <cstdint>
#include <vector>

#include "graph.h"

namespace ensayo {

// Something that makes a run fail on its way: where `node` is not 0. `what` and `source` are for whoever put it there.
struct Check {
  std::uint32_t node;
  unsigned what;
};

// A quantity that is wanted. A run in which one of its checks is met has no value.
struct Wanted {
  std::uint32_t value;                  // NA where a check is met
  std::uint32_t failed = no_node;       // whether one is
  std::vector<Check> checks;            // in the order in which a run comes by them
};

// What was seen of a wanted quantity over all runs; bits.
constexpr unsigned some_failed = 1, some_broken = 2;

// Why a run has no value: the first check that was met, or the node in which it went wrong, whose operands were good.
struct Reason {
  bool by_check;
  unsigned what;
  std::uint32_t node;
  double value;                         // of the node
};

// Whether an operand's value is what a node's lost value comes from.
typedef bool (*Leads)(double value, double operand);
bool is_lost_behind(double value, double operand);

// Runs in a block: their values stay in the cache from one instruction to the next.
constexpr std::size_t block_runs = 512;

// Whether all of n values are finite.
bool all_finite(const double* x, std::size_t n);

class Program {
 public:
  Program(Graph graph, std::vector<Wanted> wanted);
  const Graph& graph() const { return graph_; }
  const std::vector<Wanted>& wanted() const { return wanted_; }
  std::size_t instructions() const { return list_.size(); }
  // The places of columns that are read at all.
  const std::vector<std::uint32_t>& columns_read() const { return column_places_; }
  // The wanted quantities of n runs. `columns` has a pointer for each place; single ones point to one value. Tells what was
  // seen of each (`seen`), and gives back what is worth a warning.
  unsigned run(const std::vector<const double*>& columns, std::size_t n, unsigned threads,
               const std::vector<double*>& out, std::vector<unsigned>& seen) const;
  // Runs in a block of run(): fewer where a block of all that is kept on the way would not stay in the cache.
  std::size_t block() const;
  // Why each of some runs has no value of a wanted quantity.
  std::vector<Reason> explain(const std::vector<const double*>& columns, const std::vector<std::size_t>& runs,
                              std::size_t wanted, Leads leads = is_lost_behind) const;

 private:
  struct Instruction {
    Kernel kernel;
    const LookupTable* table;
    const Function* function;     // of a call: `b` arguments, of those of all calls from `a` on
    std::uint32_t out, a, b, c;   // places of pointers
    std::uint32_t single;
  };

 public:
  // What one thread works in: the program for up to block_runs runs at a time.
  class Worker {
   public:
    // For blocks of up to so many runs.
    explicit Worker(const Program& program, std::size_t block = block_runs);
    Worker(Worker&&) = default;
    Worker(const Worker&) = delete;
    // Wanted quantities of n runs into `out`; `columns` points to the first of the runs, or to the one value of single ones.
    void calculate(const double* const* columns, std::size_t n, double* const* out);
    // Whether a run failed on its way, of what was calculated last; `single` where that is the same for all. NULL without
    // checks.
    const double* failed(std::size_t wanted, bool& single) const;
    unsigned warnings = 0;

   private:
    void follow(const std::vector<Instruction>& list, std::size_t n);
    const Program& program_;
    std::vector<double> uniforms_, registers_;
    std::vector<double*> pointers_;
    std::vector<const double*> values_;        // of a call
  };

 private:
  Instruction instruction(std::uint32_t id, std::uint32_t out);
  void number_nodes();
  std::vector<std::uint32_t> nodes_behind(const Wanted& wanted) const;
  Reason reason_of(const Wanted& wanted, const std::vector<double>& values, Leads leads) const;

  Graph graph_;
  std::vector<Wanted> wanted_;
  std::vector<bool> needed_;
  std::vector<std::uint32_t> place_;         // of each node, among the pointers
  std::vector<Instruction> once_, list_;     // for all runs at once, and for each block
  std::vector<std::uint32_t> direct_;        // nodes that are calculated where they are wanted, by wanted quantity
  std::vector<std::uint32_t> argument_places_;
  std::vector<unsigned char> argument_single_;
  std::uint32_t uniforms_ = 0, registers_ = 0, columns_ = 0, pointers_ = 0;
  std::vector<std::uint32_t> column_places_, column_nodes_;
};

}  // namespace ensayo

#endif
