// SPDX-License-Identifier: MIT
/// \file
/// Voltage dividers: a resistor and a resistive sensor, with the pin between them.
#pragma once

#include "zorilla/units/logarithm.hpp"
#include "zorilla/units/quantity.hpp"

#include <stdint.h>

namespace zorilla {

/// A resistor and a resistive sensor between supply and ground, read in the middle.
struct Divider {
    Resistance pull{};
    bool sensor_to_ground = true; ///< the resistor then goes to the supply
    Voltage supply{};             ///< 0: the converter's reference, whatever that is
    Voltage reference{};

    static constexpr Resistance largest_resistance = 10'000_kohm;

    constexpr bool is_possible() const { return pull >= 1_ohm && pull <= largest_resistance; }
    /// Whether supply and reference are both left out, or both given and possible.
    constexpr bool voltages_are_possible() const {
        if (supply == Voltage{} && reference == Voltage{})
            return true;
        return supply >= 1_V && supply <= 24_V && reference >= 0.5_V && reference <= 10_V;
    }
    constexpr uint32_t supply_parts() const {
        return supply == Voltage{} ? 1 : static_cast<uint32_t>(supply.thousandths()) / 1000;
    }
    constexpr uint32_t reference_parts() const {
        return reference == Voltage{} ? 1 : static_cast<uint32_t>(reference.thousandths()) / 1000;
    }

    /// The largest code that the pin can reach: less than full scale where the reference is higher
    /// than the supply.
    constexpr uint16_t top_code(uint16_t full_scale) const {
        const uint64_t at_supply = (uint64_t{full_scale} + 1) * supply_parts() / reference_parts();
        return at_supply > full_scale ? full_scale : static_cast<uint16_t>(at_supply - 1);
    }

    /// ln of the sensor's resistance in ohm, in units of 2^-30, at a code of a converter with so
    /// many codes. Codes of a bare wire count as their neighbours.
    constexpr int64_t log_of_resistance(uint16_t code, uint32_t codes) const {
        const uint64_t whole = uint64_t{codes} * supply_parts();
        uint64_t below = uint64_t{code} * reference_parts();
        if (below == 0)
            below = 1;
        if (below >= whole)
            below = whole - 1;
        // Within 32 bits: scaled down together where the products are larger.
        uint64_t above = whole - below;
        while ((below | above) > 0xffff'ffff) {
            below = (below + 1) >> 1;
            above = (above + 1) >> 1;
        }
        const int64_t ratio = detail::natural_log(static_cast<uint32_t>(below)) -
                              detail::natural_log(static_cast<uint32_t>(above));
        return (sensor_to_ground ? ratio : -ratio) +
               detail::natural_log(static_cast<uint32_t>(pull.thousandths()));
    }
};

/// The methods that say how a sensor hangs in its divider.
/// \tparam Spec  the sensor's spec, derived from this, which befriends it and holds `divider_`
template <class Spec> class InDivider {
  public:
    /// A resistor from the pin to the supply, the sensor from the pin to ground.
    constexpr Spec pull_up(Resistance r) const { return with_pull(r, true); }
    /// A resistor from the pin to ground, the sensor from the pin to the supply.
    constexpr Spec pull_down(Resistance r) const { return with_pull(r, false); }

    /// Where the divider is not supplied by the converter's reference: both voltages, to the
    /// millivolt. Supply 1 to 24 V (never more than the pin bears), reference 0.5 to 10 V.
    constexpr Spec supplied(Voltage supply, Voltage reference) const {
        Spec out = static_cast<const Spec&>(*this);
        out.divider_.supply = supply;
        out.divider_.reference = reference;
        return out;
    }

  private:
    constexpr Spec with_pull(Resistance r, bool sensor_to_ground) const {
        Spec out = static_cast<const Spec&>(*this);
        out.divider_.pull = r;
        out.divider_.sensor_to_ground = sensor_to_ground;
        return out;
    }
};

} // namespace zorilla
