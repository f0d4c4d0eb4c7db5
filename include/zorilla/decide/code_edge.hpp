// SPDX-License-Identifier: MIT
/// \file
/// At which codes of a converter a decision turns. The compiler finds them in the sensor's table,
/// so that the chip compares codes: what it decides is the same, code by code, as by the values
/// that the table reads.
#pragma once

#include "zorilla/sense/analogue.hpp"

#include <stdint.h>

namespace zorilla::detail {

/// The codes at which a point is reached: those from `code` up, or those up to it.
struct CodeEdge {
    uint16_t code = 0;
    bool upwards = true;
    /// None: no code reaches it.
    bool any = false;
    [[gnu::always_inline]] constexpr bool has(uint16_t c) const {
        return any && (upwards ? c >= code : c <= code);
    }
};

/// Where `reached(value)` begins to hold, among the codes of a sensor.
template <const auto& Sensor, class Reached> constexpr CodeEdge edge_of(Reached reached) {
    using Table = AnalogueTable<Sensor>;
    const uint16_t first = Table::range.first, last = Table::range.last;
    const bool at_first = reached(Table::value_at(first)), at_last = reached(Table::value_at(last));
    if (at_first == at_last)
        return {first, true, at_first}; // all or none
    uint16_t low = first, high = last;  // it turns between them
    while (high - low > 1) {
        const auto middle = static_cast<uint16_t>((uint32_t{low} + high) / 2);
        (reached(Table::value_at(middle)) == at_first ? low : high) = middle;
    }
    return at_last ? CodeEdge{high, true, true} : CodeEdge{low, false, true};
}

/// Both points of a threshold as codes. No code both reaches the point and lets go.
struct CodePoints {
    CodeEdge reached;
    CodeEdge released;
    /// Looks at a code: whether it holds from now on.
    [[gnu::always_inline]] constexpr void follow(uint16_t code, bool& holds) const {
        if (reached.has(code))
            holds = true;
        else if (released.has(code))
            holds = false;
    }
};
template <const auto& Sensor, class Spec> constexpr CodePoints points_of(Spec spec) {
    return {edge_of<Sensor>([spec](auto value) { return spec.reached_by(value); }),
            edge_of<Sensor>([spec](auto value) { return spec.released_by(value); })};
}

} // namespace zorilla::detail
