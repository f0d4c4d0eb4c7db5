// SPDX-License-Identifier: MIT
#include "bench/rehearse/emulated.hpp"

#include "bench/rehearse/avr_chip.hpp"
#include "bench/rehearse/rp2040_chip.hpp"

namespace zorilla::bench {

std::unique_ptr<EmulatedChip> emulate(const ChipFacts& facts, const std::string& folder,
                                      const std::string& line) {
    if (facts.port_at != nullptr)
        return std::make_unique<AvrChip>(facts, folder + "/firmware.elf");
    return std::make_unique<Rp2040Chip>(folder + "/firmware.bin", line);
}

} // namespace zorilla::bench
