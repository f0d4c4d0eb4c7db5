// SPDX-License-Identifier: MIT
/// \file
/// What a rig will take of its chip, before anything is compiled: worked out from what each block
/// was measured to cost.
#pragma once

#include "rig/model/rig.hpp"

#include <map>
#include <string>
#include <vector>

namespace zorilla::bench {

/// Of an ATmega328P at 16 MHz: bytes of flash, of RAM and of stack, and cycles of the longest pass.
struct Cost {
    double flash = 0, ram = 0, stack = 0, cycles = 0;
    Cost& operator+=(const Cost& other) {
        flash += other.flash;
        ram += other.ram;
        stack += other.stack;
        cycles += other.cycles;
        return *this;
    }
};

/// A block of the core, or another thing that a firmware pays for: the first in a firmware brings
/// the code that all of its kind share.
struct BlockCost {
    const char* block;
    Cost first;
    Cost further;
};
/// As ./dev budget has measured them; the first is what every firmware has.
extern const std::vector<BlockCost> block_costs;
/// As a share of each figure: of 100 rigs that had no part in the costs, 95 are as near.
extern const Cost within;

/// Which blocks a part of a rig is made of, and how many.
struct PartBlocks {
    std::string part;
    std::map<std::string, int> blocks;
};
std::vector<PartBlocks> blocks_of(const rig::Rig& rig);

/// An estimate: within 15 % of what is built, over all examples.
struct Budget {
    Cost all;
    std::vector<std::pair<std::string, Cost>> parts; ///< what costs most flash first
    std::vector<std::string> unknown;                ///< blocks of which no cost is known
};
Budget budget_of(const rig::Rig& rig);

} // namespace zorilla::bench
