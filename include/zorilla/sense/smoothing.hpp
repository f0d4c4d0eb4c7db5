// SPDX-License-Identifier: MIT
/// \file
/// Exponential smoothing, right however unevenly readings come, and on an 8-bit chip without a
/// number of 64 bits.
#pragma once

#include "zorilla/sense/powers.hpp"
#include "zorilla/units/compiler.hpp"
#include "zorilla/units/product.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/time.hpp"

#include <stdint.h>

namespace zorilla {

namespace detail {

/// The share of the way to a new value that is made in a step: `mantissa * 2^-(16 + down)`.
struct StepShare {
    uint16_t mantissa;
    uint8_t down;
};

/// 1 / constant as `mantissa * 2^exponent`, the mantissa from 2^15 up. Made where the constant is
/// known, so mostly by the compiler.
constexpr Leading rate_of(uint32_t constant) {
    int8_t bits = 0;
    for (; bits < 32 && constant >> bits != 0; ++bits) {
    }
    const uint64_t top = uint64_t{1} << (bits + 15);
    const uint64_t mantissa = (top + constant / 2) / constant;
    return mantissa > 0xffff
               ? Leading{0x8000, static_cast<int8_t>(-14 - bits)}
               : Leading{static_cast<uint16_t>(mantissa), static_cast<int8_t>(-15 - bits)};
}

/// 1 - e^-u of `u = milliseconds * rate`. Relative error below 2^-12.
///
/// Below a 32nd by the first two terms of its power series, u - u^2/2 (M. Abramowitz and I. Stegun,
/// Handbook of Mathematical Functions, 4.2.1). From there by doubling: two steps of a share s make
/// 2 (s - s^2/2), which bends in the same way.
[[gnu::always_inline]] inline StepShare share_of_step(uint32_t milliseconds, Leading rate) {
    if (milliseconds == 0)
        return {0, 0};
    const Leading time = Leading::of_positive(milliseconds);
    const Leading u = Leading::of_positive(product(time.mantissa, rate.mantissa));
    auto down = static_cast<int8_t>(-16 - u.exponent - time.exponent - rate.exponent);
    uint8_t doublings = 0;
    for (; down < 5; ++down)
        if (++doublings > 9)
            return {0xffff, 0}; // 16 constants and more
    uint16_t s = u.mantissa;
    for (bool doubles = false;; doubles = true) {
        auto bend = static_cast<uint16_t>(product(s, s) >> 16);
        for (int8_t i = down; i >= 0 && bend != 0; --i)
            bend = static_cast<uint16_t>(bend >> 1);
        s = static_cast<uint16_t>(s - bend);
        if (doubles && --down < 0) {
            down = 0;
            s = s >= 0x8000 ? uint16_t{0xffff} : static_cast<uint16_t>(s << 1);
        }
        if (doublings-- == 0)
            return {s, static_cast<uint8_t>(down)};
    }
}

/// A number in thousandths and 2^-16 of them: 48 bits, of which a chip has no type.
struct FineNumber {
    uint32_t whole;
    uint16_t fraction;

    /// \param by  at most 63
    [[gnu::always_inline]] FineNumber shifted_down(uint8_t by) const {
        FineNumber out = *this;
#if defined(__AVR__)
        // Whole bytes, and nine cycles a bit, where the compiler needs thirty.
        auto high = static_cast<uint16_t>(out.whole >> 16);
        auto low = static_cast<uint16_t>(out.whole);
        __asm__("rjmp 2f\n\t"
                "1: mov %A2, %B2\n\t"
                "mov %B2, %A1\n\t"
                "mov %A1, %B1\n\t"
                "mov %B1, %A0\n\t"
                "mov %A0, %B0\n\t"
                "clr %B0\n"
                "2: subi %3, 8\n\t"
                "brcc 1b\n\t"
                "subi %3, -8\n\t"
                "rjmp 4f\n"
                "3: lsr %B0\n\t"
                "ror %A0\n\t"
                "ror %B1\n\t"
                "ror %A1\n\t"
                "ror %B2\n\t"
                "ror %A2\n"
                "4: dec %3\n\t"
                "brpl 3b"
                : "+r"(high), "+r"(low), "+r"(out.fraction), "+d"(by));
        out.whole = uint32_t{high} << 16 | low;
#else
        const uint64_t all = (uint64_t{whole} << 16 | fraction) >> by;
        out.whole = static_cast<uint32_t>(all >> 16);
        out.fraction = static_cast<uint16_t>(all);
#endif
        return out;
    }
};

} // namespace detail

/// The memory of one smoothing, whatever its quantity: those of a device share its code.
class SmoothingState {
  public:
    constexpr explicit SmoothingState(Duration constant)
        : rate_(detail::rate_of(static_cast<uint32_t>(constant.thousandths()))) {}

    /// Begins anew with the next value.
    constexpr void stop() { running_ = false; }

    /// Goes its share of the way to a value. \return  where it is then
    ZORILLA_SHARED int32_t pass(Instant now, int32_t value) {
        const auto target = static_cast<uint32_t>(value);
        const auto time = static_cast<uint32_t>((now - since_).thousandths());
        since_ = now;
        if (!running_) {
            running_ = true;
            at_ = {target, 0};
            return value;
        }
        if (time != step_) {
            step_ = time;
            share_ = detail::share_of_step(time, rate_);
        }
        const bool up = value > static_cast<int32_t>(at_.whole);
        detail::FineNumber way{at_.whole - target, at_.fraction};
        if (up) {
            way.whole = ~way.whole + (way.fraction == 0 ? 1U : 0U);
            way.fraction = static_cast<uint16_t>(0U - way.fraction);
        }
        // Its upper 32 bits that are not all 0; 16 bits of a share deserve no more.
        uint8_t down = share_.down;
        if (way.whole <= 0xffff) {
            way.whole = way.whole << 16 | way.fraction;
            down = static_cast<uint8_t>(down + 16);
        }
        const uint32_t low = detail::product(static_cast<uint16_t>(way.whole), share_.mantissa);
        way.whole =
            detail::product(static_cast<uint16_t>(way.whole >> 16), share_.mantissa) + (low >> 16);
        way.fraction = 0;
        way = way.shifted_down(down);
        if (up) {
            at_.fraction = static_cast<uint16_t>(at_.fraction + way.fraction);
            at_.whole += way.whole + (at_.fraction < way.fraction ? 1U : 0U);
        } else {
            at_.whole -= way.whole + (at_.fraction < way.fraction ? 1U : 0U);
            at_.fraction = static_cast<uint16_t>(at_.fraction - way.fraction);
        }
        return static_cast<int32_t>(at_.whole + (at_.fraction >> 15));
    }

  private:
    detail::Leading rate_;
    detail::StepShare share_{};
    detail::FineNumber at_{};
    Instant since_{};
    uint32_t step_ = 0; ///< of the share
    bool running_ = false;
};

/// Exponential smoothing with a time constant: after a step, 63 % of the way are made in that time,
/// however often, and however evenly, readings come. RAM: 21 bytes.
///
///     Smoothing<Temperature> calm(30_s);
///     const auto roost = calm.pass(now, probe.read(sample));
///
/// Cost on the ATmega328P: printed by `./dev metal`; less while passes come evenly, since the share
/// of the last step is kept.
template <class Q> class Smoothing {
  public:
    /// \param constant  1 ms to 24 days
    constexpr explicit Smoothing(Duration constant) : state_(constant) {}

    [[gnu::always_inline]] Reading<Q> pass(Instant now, Reading<Q> reading) {
        if (!reading.ok()) {
            state_.stop();
            return reading;
        }
        return Reading<Q>::of_bounded(
            Q::from_thousandths(state_.pass(now, reading.value_or(Q{}).thousandths())));
    }

  private:
    SmoothingState state_;
};

} // namespace zorilla
