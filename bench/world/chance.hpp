// SPDX-License-Identifier: MIT
/// \file
/// Chance that can be asked for at any moment, and answers the same each time and everywhere.
#pragma once

#include "rig/sense/forward.hpp"

#include <cmath>
#include <cstdint>

namespace zorilla::bench {

/// Mixes numbers until none can be told from another. (S. Vigna, SplitMix64: the finalizer of
/// G. Steele, D. Lea and C. Flood, Fast splittable pseudorandom number generators, OOPSLA 2014.)
constexpr uint64_t mixed(uint64_t x) {
    x += 0x9e3779b97f4a7c15U;
    x = (x ^ (x >> 30)) * 0xbf58476d1ce4e5b9U;
    x = (x ^ (x >> 27)) * 0x94d049bb133111ebU;
    return x ^ (x >> 31);
}
constexpr uint64_t mixed(uint64_t a, uint64_t b) { return mixed(mixed(a) ^ b); }

/// From 0 to 1, for the `n`th time of a stream.
inline double even_chance(uint64_t seed, uint64_t stream, int64_t n) {
    return static_cast<double>(mixed(mixed(seed, stream), static_cast<uint64_t>(n)) >> 11) /
           9007199254740992.0;
}
/// With a mean of 0 and a deviation of 1.
inline double normal_chance(uint64_t seed, uint64_t stream, int64_t n) {
    return rig::Noise(mixed(mixed(seed, stream), static_cast<uint64_t>(n))).normal();
}
/// Goes smoothly from one normal number to the next in each unit of `along`.
inline double smooth_chance(uint64_t seed, uint64_t stream, double along) {
    const double whole = std::floor(along), t = along - whole;
    const auto n = static_cast<int64_t>(whole);
    const double a = normal_chance(seed, stream, n), b = normal_chance(seed, stream, n + 1);
    // Both ends are flat, and the deviation in between stays near 1.
    const double s = t * t * (3 - 2 * t);
    return (a * (1 - s) + b * s) / std::sqrt((1 - s) * (1 - s) + s * s);
}

} // namespace zorilla::bench
