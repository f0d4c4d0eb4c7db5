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
/// The `n`th of a row of normal numbers of which neighbours resemble each other: an autoregressive
/// process of the first order, with a mean of 0 and a deviation of 1. (G. Box and G. Jenkins, Time
/// Series Analysis, section 3.2.3.) \param alike  the correlation of neighbours, from 0 below 1
inline double alike_chance(uint64_t seed, uint64_t stream, int64_t n, double alike) {
    double sum = 0, weight = 1, squares = 0;
    for (int64_t k = 0; weight > 1e-3; ++k, weight *= alike) {
        sum += weight * normal_chance(seed, stream, n - k);
        squares += weight * weight;
    }
    return sum / std::sqrt(squares);
}
/// Goes smoothly from one such number to the next in each unit of `along`.
inline double smooth_chance(uint64_t seed, uint64_t stream, double along, double alike) {
    struct Last {
        uint64_t seed = 0, stream = 0;
        int64_t n = INT64_MIN;
        double alike = -1, a = 0, b = 0;
    };
    // Asked many times of one day, by a few who each have a stream of their own.
    thread_local Last lasts[16];
    Last& last = lasts[mixed(stream) % 16];
    const double whole = std::floor(along), t = along - whole;
    const auto n = static_cast<int64_t>(whole);
    if (last.n != n || last.seed != seed || last.stream != stream || last.alike != alike)
        last = {seed,
                stream,
                n,
                alike,
                alike_chance(seed, stream, n, alike),
                alike_chance(seed, stream, n + 1, alike)};
    // Both ends are flat, and the deviation in between stays 1.
    const double s = t * t * (3 - 2 * t), r = 1 - s;
    return (last.a * r + last.b * s) / std::sqrt(r * r + s * s + 2 * alike * r * s);
}

} // namespace zorilla::bench
