// The counter-based generator under every draw: Threefry-4x64 with 20 rounds.
// Salmon, Moraes, Dror and Shaw (2011), "Parallel random numbers: as easy as 1, 2, 3", SC'11.
#ifndef ENSAYO_CORE_THREEFRY_H
#define ENSAYO_CORE_THREEFRY_H

#include <array>
#include <cstdint>

namespace ensayo {

using Block = std::array<std::uint64_t, 4>;

// A pure function: the same key and counter give the same four words on every machine.
Block threefry(const Block& key, const Block& counter);

}  // namespace ensayo

#endif
