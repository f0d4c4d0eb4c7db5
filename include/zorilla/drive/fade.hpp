// SPDX-License-Identifier: MIT
/// \file
/// Duties that may change only so fast: a lamp that fades, a motor that ramps, a servo that turns.
#pragma once

#include "zorilla/units/duty.hpp"
#include "zorilla/units/product.hpp"
#include "zorilla/units/quotient.hpp"
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
    /// apart. Cost: one quotient of eight bits while it is on its way.
    /// \param full_swing  what it takes from nothing to full, up to 25 min; 0: it jumps
    [[gnu::always_inline]] constexpr Duty pass(Duration full_swing, Instant now, Duty wanted) {
        if (value_ == wanted || full_swing == Duration{}) {
            stand(now, wanted);
        } else {
            const auto swing = static_cast<uint32_t>(full_swing.thousandths());
            go(now, wanted, swing, static_cast<uint16_t>(swing / 255),
               static_cast<uint8_t>(swing % 255));
        }
        return value_;
    }

    /// The longest swing that 32 bits can tell.
    static constexpr Duration longest_swing = 25_min;

  private:
    /// Outputs share it. \param each, rest  the time of a swing by 255, worked out by the compiler
    ZORILLA_SHARED constexpr void go(Instant now, Duty wanted, uint32_t swing, uint16_t each,
                                     uint8_t rest) {
        const uint8_t have = value_.of_255(), want = wanted.of_255();
        const auto gap = static_cast<uint8_t>(have < want ? want - have : have - want);
        // 255ths that the time since the last step is good for; what is left over is kept.
        const auto spent = static_cast<uint32_t>((now - stepped_).thousandths());
        const uint8_t steps =
            spent >= swing ? uint8_t{255} : detail::byte_quotient(spent * 255, swing);
        if (gap <= steps) {
            stand(now, wanted);
        } else if (steps > 0) {
            value_ =
                Duty::from_255ths(static_cast<uint8_t>(have < want ? have + steps : have - steps));
            // Rounded up; (x + 1 + x / 256) / 256 is x / 255, of x up to 65,534.
            const auto up = static_cast<uint16_t>(steps * uint16_t{rest} + 254U);
            const auto parts = static_cast<uint16_t>((up + 1U + (up >> 8)) >> 8);
            stepped_ = stepped_ + Duration::from_thousandths(static_cast<int32_t>(
                                      detail::product(uint16_t{steps}, each) + parts));
        }
    }

    Instant stepped_{};
    Duty value_{};
};

/// The same of a part that is driven from its first pass on: its way begins with that, whatever
/// time it is then. RAM: six bytes.
class FadeFromStart {
  public:
    constexpr Duty value() const { return state_.value(); }
    /// As `FadeState::pass`.
    [[gnu::always_inline]] constexpr Duty pass(Duration full_swing, Instant now, Duty wanted) {
        if (!begun_)
            state_.stand(now, Duty{});
        begun_ = true;
        return state_.pass(full_swing, now, wanted);
    }

  private:
    FadeState state_{};
    bool begun_ = false;
};

/// The same of a part that does at once what it is asked for. RAM: one byte.
class NoFade {
  public:
    constexpr Duty value() const { return value_; }
    [[gnu::always_inline]] constexpr Duty pass(Duration, Instant, Duty wanted) {
        return value_ = wanted;
    }

  private:
    Duty value_{};
};

} // namespace zorilla
