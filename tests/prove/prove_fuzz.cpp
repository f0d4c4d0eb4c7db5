// SPDX-License-Identifier: MIT
// Random rigs for so many seconds, or so many of them: whether anything that was proved happens.
#include "tests/prove/random_life.hpp"

#include <chrono>
#include <cstdlib>

int main(int argc, char** argv) {
    // prove_fuzz SECONDS [FIRST-SEED]
    const double seconds = argc > 1 ? std::atof(argv[1]) : 10;
    const auto first = argc > 2 ? std::strtoull(argv[2], nullptr, 10) : 1;
    const auto begin = std::chrono::steady_clock::now();
    random_rig::Tally tally;
    uint64_t seed = first;
    while (tally.fault.empty() &&
           std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count() <
               seconds)
        random_rig::try_one(seed++, 3, 150, tally);
    fmt::print(
        "proofs: {} random rigs, {} passes; lines: {} proved, {} shown, {} may, {} open; {} of "
        "those that may happen were seen\n",
        tally.rigs, tally.passes, tally.proved, tally.broken, tally.may, tally.open,
        tally.seen_may);
    if (tally.fault.empty())
        return 0;
    fmt::print("{}\n", tally.fault);
    return 1;
}
