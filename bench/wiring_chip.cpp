// SPDX-License-Identifier: MIT
// Data sheet of the ATmega328P, chapters 8.3 (crystal), 11.6 (reset) and 24.5 (converter); the
// others' alike.
#include "bench/wiring_chip.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <string_view>

namespace zorilla::bench {

namespace {

constexpr const char* to_reset = "10 kohm to 5 V; a button from there to ground restarts it";
constexpr const char* to_supply = "5 V, and 100 nF from there to ground, close to the chip";
constexpr const char* to_crystal = "a crystal of 16 MHz to leg {}, and 22 pF to ground";
constexpr const char* from_crystal = "the crystal's other leg, and 22 pF to ground";

/// What is put on the leg of the converter's reference, in mV; 0: nothing.
int32_t reference_of(const rig::Rig& rig) {
    for (const rig::Sense& sense : rig.senses)
        if (rig.chip_facts()->reference_of(sense.reference) == Reference::external)
            return sense.reference;
    return 0;
}

std::vector<FixedWire> fixed_of(const rig::Rig& rig) {
    const std::string_view chip = rig.chip;
    const int32_t given = reference_of(rig);
    const std::string reference =
        given != 0 ? fmt::format("{}, and 100 nF to ground", rig::volts_of(given))
                   : std::string("100 nF to ground, and nothing else");
    if (chip == "atmega328p")
        return {{1, "reset", to_reset},
                {7, "supply", to_supply},
                {8, "ground", "ground"},
                {9, "crystal", fmt::format(fmt::runtime(to_crystal), 10)},
                {10, "crystal", from_crystal},
                {20, "converter's supply", "5 V, and 100 nF from there to ground"},
                {21, "reference", reference},
                {22, "ground", "ground"}};
    if (chip == "atmega2560")
        return {{10, "supply", to_supply},
                {11, "ground", "ground"},
                {30, "reset", to_reset},
                {31, "supply", to_supply},
                {32, "ground", "ground"},
                {33, "crystal", fmt::format(fmt::runtime(to_crystal), 34)},
                {34, "crystal", from_crystal},
                {61, "supply", to_supply},
                {62, "ground", "ground"},
                {80, "supply", to_supply},
                {81, "ground", "ground"},
                {98, "reference", reference},
                {99, "ground", "ground"},
                {100, "converter's supply", "5 V, and 100 nF from there to ground"}};
    if (chip == "attiny85") {
        std::vector<FixedWire> out = {
            {1, "reset", to_reset}, {4, "ground", "ground"}, {8, "supply", to_supply}};
        if (given != 0) // else it is a pin like any other
            out.push_back({5, "reference", reference});
        return out;
    }
    return {};
}

} // namespace

ChipWires wires_of(const rig::Rig& rig) {
    const ChipFacts& chip = *rig.chip_facts();
    ChipWires out{{}, fixed_of(rig)};
    out.about =
        out.fixed.empty()
            ? fmt::format("A board with an {}, which has beside it all that the chip itself needs; "
                          "it runs at {}, and no pin bears more. Legs are those of the chip; a "
                          "board says GP0, or 0, where its data sheet says GPIO0.",
                          chip.title, rig::volts_of(chip.supply))
            : fmt::format("An {} with {} legs, at {} and {} MHz{}; leg 1 is {}, and they count "
                          "counterclockwise.",
                          chip.title, chip.legs, rig::volts_of(chip.supply), chip.hertz / 1'000'000,
                          chip.legs == 8 ? " of its own" : "",
                          chip.legs > 28 ? "at the dot" : "left of the notch");
    const LineFacts& line = *rig::line_named(chip, rig.line);
    const std::string adapter = fmt::format("a USB adapter of {}", rig::volts_of(chip.supply));
    if (line.receives != nullptr)
        out.fixed.push_back({rig::pin_named(chip, line.receives)->leg, "receives",
                             fmt::format("the sending wire of {}, and the adapter's ground to "
                                         "ground",
                                         adapter)});
    if (line.sends != nullptr)
        out.fixed.push_back(
            {rig::pin_named(chip, line.sends)->leg, "sends",
             line.receives != nullptr
                 ? std::string("the receiving wire of the USB adapter")
                 : fmt::format("the receiving wire of {}, and the adapter's ground to ground",
                               adapter)});
    return out;
}

} // namespace zorilla::bench
