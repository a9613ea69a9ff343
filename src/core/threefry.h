// The counter-based generator under every draw: Threefry-4x64 with 20 rounds.
// Salmon, Moraes, Dror and Shaw (2011), "Parallel random numbers: as easy as 1, 2, 3", SC'11.
#ifndef ENSAYO_CORE_THREEFRY_H
#define ENSAYO_CORE_THREEFRY_H

#include <array>
#include <cstddef>
#include <cstdint>

namespace ensayo {

using Block = std::array<std::uint64_t, 4>;

// A pure function: the same key and counter give the same four words on every machine.
Block threefry(const Block& key, const Block& counter);

// A group is eight blocks, whose counters differ in their first word: 8 g, 8 g + 1, ... for group g. Its 32 words lie in
// the order that wide registers fill at once: word w of block b at 8 w + b.
constexpr std::size_t group_size = 32;

// `groups` groups from group `first` on; `rest` is a counter whose first word is not looked at.
void threefry_groups(const Block& key, const Block& rest, std::uint64_t first, std::size_t groups, std::uint64_t* out);

}  // namespace ensayo

#endif
