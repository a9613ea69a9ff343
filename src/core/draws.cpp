#include "draws.h"

#include <algorithm>
#include <atomic>
#include <memory>
#include <mutex>

#include "correlation.h"
#include "threads.h"

namespace ensayo {

namespace {

constexpr std::size_t share = 1u << 14;  // runs that a thread takes at a time

constexpr std::size_t independent = static_cast<std::size_t>(-1);

// Some runs of columns that are drawn together: of a set, whose dependence is numbered, or of one by itself.
struct Part {
  std::vector<std::size_t> columns;
  std::size_t dependence;
  std::uint64_t first;
  std::size_t size;
  std::vector<std::vector<std::size_t>> open;  // of each column
};

// A piece of a column through its law, the piece's first place being `at`.
void invert_piece(const Inversion& law, const double* u, std::size_t size, double* x, std::size_t at, std::vector<std::size_t>& open) {
  const std::size_t known = open.size();
  law.apply(u, size, x, open);
  for (std::size_t k = known; k < open.size(); ++k) open[k] += at;
}

// A column's uniform numbers: set up when first needed, for the many tables of some designs, and let go after the last part.
struct Uniforms {
  std::once_flag once;
  std::unique_ptr<Column> column;
  std::atomic<std::size_t> parts{0};
};

// What a thread puts blocks in order with.
struct Orderer {
  std::size_t dependence = independent;
  std::unique_ptr<RankCorrelator> correlator;
};

class Drawing {
 public:
  Drawing(std::vector<DrawColumn>& columns, const std::vector<Dependence>& dependences, const Layout& layout, std::uint64_t block,
          std::uint64_t first, std::size_t count, unsigned threads);
  void run();

 private:
  bool in_blocks() const { return layout_.design == Design::latin || layout_.design == Design::midpoints; }
  void add_shares(const std::vector<std::size_t>& columns, std::size_t dependence);
  void add_blocks(const std::vector<std::size_t>& columns, std::size_t dependence);
  void draw(Part& part, std::size_t worker);
  void draw_block(Part& part, RankCorrelator& correlator);
  void draw_share(Part& part);
  const Column& uniforms_of(std::size_t column);
  void invert(Part& part, std::size_t member, std::uint64_t first, std::size_t size) const;
  double* place(std::size_t column, std::uint64_t run) const { return columns_[column].x + (run - first_); }

  std::vector<DrawColumn>& columns_;
  const std::vector<Dependence>& dependences_;
  const Layout& layout_;
  std::uint64_t each_, block_, first_, last_;
  unsigned threads_;
  std::vector<Uniforms> uniforms_;
  std::vector<Copula> copulas_;     // of each dependence, where there are no blocks
  std::vector<Orderer> orderers_;   // of each thread, else
  std::vector<Part> parts_;
};

// What takes longest goes first.
Drawing::Drawing(std::vector<DrawColumn>& columns, const std::vector<Dependence>& dependences, const Layout& layout,
                 std::uint64_t block, std::uint64_t first, std::size_t count, unsigned threads)
    : columns_(columns), dependences_(dependences), layout_(layout), each_(layout.runs / layout.replicates), block_(block), first_(first),
      last_(first + count), threads_(threads), uniforms_(columns.size()), orderers_(threads) {
  std::vector<char> in_set(columns.size());
  for (std::size_t d = 0; d < dependences.size(); ++d) {
    for (const std::vector<std::size_t>& set : dependences[d].sets) {
      for (const std::size_t column : set) in_set[column] = 1;
      in_blocks() ? add_blocks(set, d) : add_shares(set, d);
    }
    if (!in_blocks()) copulas_.emplace_back(dependences[d].matrix, dependences[d].sets.at(0).size());
  }
  for (std::size_t j = 0; j < columns.size(); ++j) {
    if (!in_set[j]) add_shares({j}, independent);
  }
  for (const Part& part : parts_) {
    for (const std::size_t column : part.columns) ++uniforms_[column].parts;
  }
}

void Drawing::add_shares(const std::vector<std::size_t>& columns, std::size_t dependence) {
  for (std::uint64_t run = first_; run < last_; run += share) {
    const auto size = static_cast<std::size_t>(std::min<std::uint64_t>(share, last_ - run));
    parts_.push_back({columns, dependence, run, size, std::vector<std::vector<std::size_t>>(columns.size())});
  }
}

// The whole blocks that hold the runs, replicate by replicate.
void Drawing::add_blocks(const std::vector<std::size_t>& columns, std::size_t dependence) {
  const Blocks blocks(each_, block_);
  for (std::uint64_t start = first_ / each_ * each_; start < last_; start += each_) {
    const std::uint64_t from = first_ > start ? blocks.holding(first_ - start) : 0;
    for (std::uint64_t b = from; b < blocks.count && start + blocks.first(b) < last_; ++b) {
      const auto size = static_cast<std::size_t>(blocks.first(b + 1) - blocks.first(b));
      parts_.push_back({columns, dependence, start + blocks.first(b), size, std::vector<std::vector<std::size_t>>(columns.size())});
    }
  }
}

void Drawing::run() {
  share_out_to_workers(parts_.size(), threads_, [&](std::size_t k, std::size_t worker) { draw(parts_[k], worker); });
  for (Part& part : parts_) {
    for (std::size_t m = 0; m < part.columns.size(); ++m) {
      std::vector<std::size_t>& open = columns_[part.columns[m]].open;
      open.insert(open.end(), part.open[m].begin(), part.open[m].end());
    }
  }
}

void Drawing::draw(Part& part, std::size_t worker) {
  if (part.dependence == independent || !in_blocks()) {
    draw_share(part);
  } else {
    Orderer& mine = orderers_[worker];
    if (mine.dependence != part.dependence) {
      mine.dependence = part.dependence;
      mine.correlator = std::make_unique<RankCorrelator>(dependences_[part.dependence].matrix, part.columns.size());
    }
    draw_block(part, *mine.correlator);
  }
  for (const std::size_t column : part.columns) {
    if (--uniforms_[column].parts == 0) uniforms_[column].column.reset();
  }
}

const Column& Drawing::uniforms_of(std::size_t column) {
  Uniforms& uniforms = uniforms_[column];
  std::call_once(uniforms.once, [&] {
    uniforms.column = std::make_unique<Column>(columns_[column].address, layout_, first_, last_);
  });
  return *uniforms.column;
}

void Drawing::draw_share(Part& part) {
  std::vector<double*> at(part.columns.size());
  for (std::size_t done = 0; done < part.size; done += piece_size) {
    const std::uint64_t run = part.first + done;
    const std::size_t size = std::min(piece_size, part.size - done);
    for (std::size_t m = 0; m < at.size(); ++m) {
      at[m] = place(part.columns[m], run);
      uniforms_of(part.columns[m]).fill(run, size, at[m]);
    }
    if (part.dependence != independent) copulas_[part.dependence].apply(at.data(), size);
    for (std::size_t m = 0; m < at.size(); ++m) invert(part, m, run, size);
  }
}

// A block at an end of the runs may have some that are not asked for; it is put in order elsewhere.
void Drawing::draw_block(Part& part, RankCorrelator& correlator) {
  const std::uint64_t from = std::max(part.first, first_), to = std::min(part.first + part.size, last_);
  const bool whole = to - from == part.size;
  std::vector<std::vector<double>> room(whole ? 0 : part.columns.size(), std::vector<double>(part.size));
  std::vector<double*> at(part.columns.size());
  for (std::size_t m = 0; m < at.size(); ++m) {
    at[m] = whole ? place(part.columns[m], from) : room[m].data();
    uniforms_of(part.columns[m]).fill(part.first, part.size, at[m]);
  }
  correlator.reorder(at.data(), part.size, each_);
  for (std::size_t m = 0; m < at.size(); ++m) {
    if (!whole) std::copy(at[m] + (from - part.first), at[m] + (to - part.first), place(part.columns[m], from));
    for (std::uint64_t run = from; run < to; run += piece_size) {
      invert(part, m, run, static_cast<std::size_t>(std::min<std::uint64_t>(piece_size, to - run)));
    }
  }
}

void Drawing::invert(Part& part, std::size_t member, std::uint64_t first, std::size_t size) const {
  const DrawColumn& column = columns_[part.columns[member]];
  if (column.law == nullptr) return;
  double* x = place(part.columns[member], first);
  invert_piece(*column.law, x, size, x, static_cast<std::size_t>(first - first_), part.open[member]);
}

}  // namespace

void draw_columns(std::vector<DrawColumn>& columns, const std::vector<Dependence>& dependences, const Layout& layout,
                  std::uint64_t block, std::uint64_t first, std::size_t count, unsigned threads) {
  Drawing(columns, dependences, layout, block, first, count, threads).run();
}

std::vector<std::size_t> invert(const Inversion& law, const double* u, std::size_t count, double* x, unsigned threads) {
  std::vector<std::vector<std::size_t>> open((count + share - 1) / share);
  share_out(open.size(), threads, [&](std::size_t k) {
    for (std::size_t at = k * share; at < std::min(count, (k + 1) * share); at += piece_size) {
      invert_piece(law, u + at, std::min(piece_size, count - at), x + at, at, open[k]);
    }
  });
  std::vector<std::size_t> all;
  for (const auto& places : open) all.insert(all.end(), places.begin(), places.end());
  return all;
}

}  // namespace ensayo
