// SPDX-License-Identifier: MIT
// What the feeding firmwares and the tests send each other: a pass in, what came of it out.
#pragma once

#include "examples/heat_lamp/heat_lamp.hpp"

#include <stdint.h>

namespace feed {

constexpr uint8_t pass_in_size = 7;  // time, 4 bytes; code, 2; whether it was taken, 1
constexpr uint8_t pass_out_size = 8; // value, 4 bytes; health, truth, cause, output level

inline void pack_in(uint8_t* out, zorilla::Instant now, zorilla::Sample sample) {
    for (uint8_t i = 0; i < 4; ++i)
        out[i] = static_cast<uint8_t>(now.milliseconds() >> 8 * i);
    out[4] = static_cast<uint8_t>(sample.code());
    out[5] = static_cast<uint8_t>(sample.code() >> 8);
    out[6] = sample.taken();
}

inline zorilla::Instant time_of(const uint8_t* in) {
    uint32_t milliseconds = 0;
    for (uint8_t i = 4; i-- > 0;)
        milliseconds = milliseconds << 8 | in[i];
    return zorilla::Instant(milliseconds);
}

inline zorilla::Sample sample_of(const uint8_t* in) {
    const auto code = static_cast<uint16_t>(in[4] | static_cast<unsigned>(in[5]) << 8);
    return in[6] != 0 ? zorilla::Sample(code) : zorilla::Sample();
}

inline void pack_out(uint8_t* out, zorilla::Reading<zorilla::Temperature> reading,
                     zorilla::Truth truth, zorilla::Switching switching, zorilla::Level level) {
    const auto value = static_cast<uint32_t>(reading.value_or({}).thousandths());
    for (uint8_t i = 0; i < 4; ++i)
        out[i] = static_cast<uint8_t>(value >> 8 * i);
    out[4] = static_cast<uint8_t>(reading.health());
    out[5] = static_cast<uint8_t>(truth);
    out[6] = static_cast<uint8_t>(switching.cause);
    out[7] = static_cast<uint8_t>(level);
}

/// One pass of the device as a firmware or the desk does it.
inline void run(heat_lamp::Device& device, const uint8_t* in, uint8_t* out) {
    const heat_lamp::Pass pass = device.pass(time_of(in), sample_of(in));
    pack_out(out, pass.roost, pass.cold, pass.lamp, device.lamp.level());
}

} // namespace feed
