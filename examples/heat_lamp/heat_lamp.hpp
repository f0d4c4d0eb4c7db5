// SPDX-License-Identifier: MIT
// The heat lamp of a hen house: on when the roost gets cold, off when it is warm again, and off
// when the sensor's wire breaks. The same device as heat_lamp.toml.
#pragma once

#include <zorilla/zorilla.hpp>

namespace heat_lamp {

using namespace zorilla;

inline constexpr auto probe =
    thermistor(10_kohm, 3950_K).pull_up(10_kohm).bits(10).range(-30_degC, 80_degC);
inline constexpr auto frost = below(4_degC).release(6_degC);
inline constexpr auto wiring =
    relay(active_low).safe(off).min_on(2_min).min_off(5_min).longest_on(6_h);

static_assert(can_judge(probe, frost));

struct Pass {
    Reading<Temperature> roost;
    Truth cold;
    Switching lamp;
};

struct Device {
    Thermistor<probe> roost;
    Threshold<frost> cold;
    Relay<wiring> lamp;

    Pass pass(Instant now, Sample raw) {
        const auto temperature = roost.read(raw);
        const auto is_cold = cold.decide(temperature);
        return Pass{temperature, is_cold, lamp.drive(now, on_when(is_cold))};
    }
};

} // namespace heat_lamp
