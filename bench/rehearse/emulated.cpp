// SPDX-License-Identifier: MIT
#include "bench/rehearse/emulated.hpp"

#include "bench/rehearse/avr_chip.hpp"

namespace zorilla::bench {

std::unique_ptr<EmulatedChip> emulate(const ChipFacts& facts, const std::string& folder) {
    return std::make_unique<AvrChip>(facts, folder + "/firmware.elf");
}

} // namespace zorilla::bench
