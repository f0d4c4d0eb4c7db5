// SPDX-License-Identifier: MIT
/// \file
/// What sensors have in common that are straight between two measured codes.
#pragma once

#include "rig/sense/analogue.hpp"

namespace zorilla::rig {

/// Two codes of the converter. False if one is missing or is no code.
inline bool read_two_codes(TableReader& keys, std::string_view first, std::string_view second,
                           std::string_view what, uint8_t bits, uint16_t (&codes)[2]) {
    bool complete = true;
    const std::string_view names[] = {first, second};
    for (size_t i = 0; i < 2; ++i) {
        keys.require(names[i],
                     fmt::format("the code that was read {}", i == 0 ? what : "at the other end"),
                     i == 0 ? "620" : "210");
        const auto code = keys.whole(names[i], 0, (int64_t{1} << bits) - 1);
        complete = complete && code;
        codes[i] = static_cast<uint16_t>(code.value_or(0));
    }
    return complete;
}

/// Percent between two codes of so many bits, as a converter of perhaps fewer delivers them.
inline ForwardModel percent_forward(const uint16_t (&codes)[2], uint8_t bits,
                                    uint8_t converter_bits) {
    AnalogueModel model = points_model({{codes[0], 0.0}, {codes[1], 100.0}}, bits);
    model.bits = converter_bits;
    return model.forward();
}

} // namespace zorilla::rig
