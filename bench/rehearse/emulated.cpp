// SPDX-License-Identifier: MIT
#include "bench/rehearse/emulated.hpp"

#include "bench/rehearse/avr_chip.hpp"
#include "bench/rehearse/rp2040_chip.hpp"
#include "rig/model/chip.hpp"

namespace zorilla::bench {

std::unique_ptr<EmulatedChip> emulate(const ChipFacts& facts, const std::string& folder,
                                      const std::string& line) {
    if (facts.port_at != nullptr) {
        auto out = std::make_unique<AvrChip>(facts, folder + "/firmware.elf");
        if (const LineFacts& is = *rig::line_named(facts, line); is.number != 0)
            out->listen_to(is.number);
        return out;
    }
    return std::make_unique<Rp2040Chip>(folder + "/firmware.bin", line);
}

} // namespace zorilla::bench
