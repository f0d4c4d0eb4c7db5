// SPDX-License-Identifier: MIT
/// \file
/// A quantity together with its health.
#pragma once

#include "zorilla/units/truth.hpp"

#include <stdint.h>

namespace zorilla {

/// Whether a sensor vouches for its value, and why not if it does not.
enum class Health : uint8_t {
    ok,            ///< the value may be used
    missing,       ///< no sample was taken yet, or it was lost
    open_circuit,  ///< the wire to the sensor is off or broken
    short_circuit, ///< the sensor's wires touch
    out_of_range,  ///< the sample lies outside what this sensor is declared to measure
    warming,       ///< the sensor has not been powered for long enough
    stale,         ///< the last good value is older than it may be
    bad_frame,     ///< bits arrived, but their checksum or timing is wrong
    no_echo,       ///< the ranger heard nothing come back
    too_near,      ///< the echo came from within the ranger's blind zone
    too_far,       ///< the echo came from beyond the ranger's far limit
    implausible,   ///< the value has jumped further than what is measured can
    stuck,         ///< the value has not moved for longer than a live sensor holds still
};

/// A value that can only be looked at where its health is dealt with.
///
///     const Reading<Temperature> roost = probe.read(sample);
///     if (roost.ok())
///         show(roost.value_or({}));
///
/// \tparam Q  a quantity, such as `Temperature`
template <class Q> class Reading {
  public:
    /// Missing, until something is known.
    constexpr Reading() = default;

    /// A healthy reading; out of range if the quantity has run into the end of its numbers.
    static constexpr Reading of(Q value) {
        return Reading(value, value.is_saturated() ? Health::out_of_range : Health::ok);
    }

    /// A healthy reading of a value that cannot have run into the end of its numbers, such as one
    /// from a table; saves the look at it.
    static constexpr Reading of_bounded(Q value) { return Reading(value, Health::ok); }

    /// A reading without a value. `why` must not be `Health::ok`.
    static constexpr Reading without_value(Health why) { return Reading(Q{}, why); }

    constexpr Health health() const { return health_; }
    constexpr bool ok() const { return health_ == Health::ok; }

    /// The value if healthy, else `fallback`.
    constexpr Q value_or(Q fallback) const { return ok() ? value_ : fallback; }

  private:
    constexpr Reading(Q value, Health health) : value_(value), health_(health) {}

    Q value_{};
    Health health_ = Health::missing;
};

/// A reading that a sensor has just made, and which sensor that was: whatever judges it can refuse,
/// as it is compiled, what that sensor cannot measure. Anywhere else it is a plain reading.
template <class Q, const auto& Sensor> struct Measured : Reading<Q> {
    constexpr Measured() = default;
    constexpr Measured(Reading<Q> reading) : Reading<Q>(reading) {}
};

/// The same of a sensor that is read by a table, with the code that it was read from: a decision
/// compares the code, and where nobody else needs the value, the table is not looked up at all.
template <class Q, const auto& Sensor> struct MeasuredAtCode : Measured<Q, Sensor> {
    constexpr MeasuredAtCode() = default;
    constexpr MeasuredAtCode(Reading<Q> reading, uint16_t at)
        : Measured<Q, Sensor>(reading), code(at) {}
    uint16_t code = 0; ///< where it is healthy
};

/// Whether a reading has no value. Never unknown: what cannot be measured is lost.
template <class Q> constexpr Truth lost(Reading<Q> reading) { return truth_of(!reading.ok()); }
/// The same of a contact or another input that is yes or no: whether that is not known.
constexpr Truth lost(Truth truth) { return truth_of(truth == Truth::unknown); }

} // namespace zorilla
