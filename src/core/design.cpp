#include "design.h"

#include <algorithm>

#include "latin.h"
#include "sobol.h"

namespace ensayo {

namespace {

class RandomMargin {
 public:
  explicit RandomMargin(const Stream& draws) : draws_(draws) {}
  void fill(std::uint64_t first, std::size_t count, double* out) const { fill_uniforms(draws_, first, count, out); }

 private:
  Stream draws_;
};

// Gives one of the core's margins the common face.
template <class Part>
class Faced : public Margin {
 public:
  template <class... Arguments>
  explicit Faced(const Arguments&... arguments) : part_(arguments...) {}
  void fill(std::uint64_t first, std::size_t count, double* out) const override { part_.fill(first, count, out); }

 private:
  Part part_;
};

std::unique_ptr<Margin> make_margin(const Address& a, Design design, std::uint64_t runs, std::uint64_t replicate) {
  auto stream = [&](Purpose purpose) { return Stream(a.seed, a.stream, purpose, a.index, replicate); };
  switch (design) {
    case Design::latin:
    case Design::midpoints:
      return std::make_unique<Faced<LatinMargin>>(stream(Purpose::draw), stream(Purpose::permutation), runs,
                                                  design == Design::latin ? Place::jittered : Place::middle);
    case Design::sobol:
      return std::make_unique<Faced<SobolMargin>>(a.dimension.polynomial, a.dimension.initial,
                                                  stream(Purpose::scramble));
    default: return std::make_unique<Faced<RandomMargin>>(stream(Purpose::draw));
  }
}

}  // namespace

// Independent runs need no replicates: they are numbered through, and more of them extend what is there.
Column::Column(const Address& address, const Layout& layout, std::uint64_t first, std::uint64_t last)
    : each_(layout.design == Design::random ? layout.runs : layout.runs / layout.replicates),
      first_replicate_(first / each_) {
  for (std::uint64_t r = first_replicate_; r * each_ < last; ++r) {
    margins_.push_back(make_margin(address, layout.design, each_, r));
  }
}

void Column::fill(std::uint64_t first, std::size_t count, double* out) const {
  while (count > 0) {
    const std::uint64_t replicate = first / each_, at = first % each_;
    const std::size_t size = static_cast<std::size_t>(std::min<std::uint64_t>(count, each_ - at));
    margins_[replicate - first_replicate_]->fill(at, size, out);
    first += size;
    out += size;
    count -= size;
  }
}

}  // namespace ensayo
