// SPDX-License-Identifier: MIT
/// \file
/// Quantities whose kind is known only at run time, and what has readings of them.
#pragma once

#include "rig/text/text.hpp"

#include <cstdint>
#include <string>

namespace zorilla::rig {

struct AnyUnit {};
/// A number of which the kind is known only at run time; see `Source::kind`.
using AnyQuantity = Quantity<AnyUnit>;
using AnyReading = Reading<AnyQuantity>;

inline bool operator==(const AnyReading& a, const AnyReading& b) {
    return a.health() == b.health() && a.value_or({}).thousandths() == b.value_or({}).thousandths();
}

template <class Q> AnyReading any(Reading<Q> reading) {
    return reading.ok() ? AnyReading::of_bounded(
                              AnyQuantity::from_thousandths(reading.value_or(Q{}).thousandths()))
                        : AnyReading::without_value(reading.health());
}
template <class Q> Reading<Q> as(AnyReading reading) {
    return reading.ok()
               ? Reading<Q>::of_bounded(Q::from_thousandths(reading.value_or({}).thousandths()))
               : Reading<Q>::without_value(reading.health());
}

/// Something that has a reading: a sensor, one of a sensor's two quantities, or a derived quantity.
struct Source {
    std::string name;
    Kind kind = Kind::temperature;
    int32_t lowest = 0; ///< what it can deliver, in thousandths
    int32_t highest = 0;
    bool sound = true;      ///< whether its table was understood, and its numbers can be used
    bool kind_known = true; ///< whether at least it is known what it measures
};

} // namespace zorilla::rig
