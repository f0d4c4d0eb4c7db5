// SPDX-License-Identifier: MIT
/// \file
/// Duties that may change only so fast: a lamp that fades, a motor that ramps, a servo that turns.
#pragma once

#include "zorilla/units/duty.hpp"
#include "zorilla/units/time.hpp"

#include <stdint.h>

namespace zorilla {

/// The memory of one duty on its way. RAM: five bytes.
class FadeState {
  public:
    constexpr Duty value() const { return value_; }
    /// Stands at a value from now on.
    constexpr void stand(Instant now, Duty value) {
        value_ = value;
        stepped_ = now;
    }

    /// One pass: as near to what is wanted as it may be by now. Passes must be less than 24 days
    /// apart. Cost: one division of 32 bits while it is on its way.
    /// \param full_swing  what it takes from nothing to full, up to 25 min; 0: it jumps
    [[gnu::always_inline]] constexpr Duty pass(Duration full_swing, Instant now, Duty wanted) {
        const uint8_t have = value_.of_255(), want = wanted.of_255();
        const auto gap = static_cast<uint8_t>(have < want ? want - have : have - want);
        if (gap == 0 || full_swing == Duration{}) {
            stand(now, wanted);
            return value_;
        }
        // 255ths that the time since the last step is good for; what is left over is kept.
        const auto whole = static_cast<uint32_t>(full_swing.thousandths());
        const auto spent = static_cast<uint32_t>((now - stepped_).thousandths());
        const uint32_t steps = spent >= whole ? 255 : spent * 255 / whole;
        if (gap <= steps) {
            stand(now, wanted);
        } else if (steps > 0) {
            const auto by = static_cast<uint8_t>(steps);
            value_ = Duty::from_255ths(static_cast<uint8_t>(have < want ? have + by : have - by));
            stepped_ = stepped_ + Duration::from_thousandths(
                                      static_cast<int32_t>((steps * whole + 254) / 255));
        }
        return value_;
    }

    /// The longest swing that 32 bits can tell.
    static constexpr Duration longest_swing = 25_min;

  private:
    Instant stepped_{};
    Duty value_{};
};

} // namespace zorilla
