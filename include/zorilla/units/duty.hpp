// SPDX-License-Identifier: MIT
/// \file
/// How much of its time, or of its power, an output is on; and which stage of several.
#pragma once

#include "zorilla/units/compiler.hpp"

#include "zorilla/units/quantity.hpp"

#include <stdint.h>

namespace zorilla {

/// A duty in 255ths, as an 8-bit timer takes it: exact on every chip, one byte.
///
///     constexpr Duty half = 50_percent;
class Duty {
  public:
    /// Nothing.
    constexpr Duty() = default;
    /// The nearest 255th; what lies outside 0 to 100 % is cut, and in a constant does not compile.
    constexpr Duty(Percentage share) : of_255_(from(share.thousandths())) {}

    static constexpr Duty from_255ths(uint8_t n) {
        Duty out;
        out.of_255_ = n;
        return out;
    }
    constexpr uint8_t of_255() const { return of_255_; }
    /// In percent, to a thousandth.
    constexpr Percentage share() const {
        return Percentage::from_thousandths((int32_t{of_255_} * 100'000 + 127) / 255);
    }

    friend constexpr bool operator==(Duty a, Duty b) { return a.of_255_ == b.of_255_; }
    friend constexpr bool operator!=(Duty a, Duty b) { return !(a == b); }
    friend constexpr bool operator<(Duty a, Duty b) { return a.of_255_ < b.of_255_; }
    friend constexpr bool operator>(Duty a, Duty b) { return b < a; }
    friend constexpr bool operator<=(Duty a, Duty b) { return !(b < a); }
    friend constexpr bool operator>=(Duty a, Duty b) { return !(a < b); }

  private:
    static constexpr uint8_t from(int32_t thousandths) {
        if (thousandths < 0 || thousandths > 100'000) {
            if (__builtin_is_constant_evaluated())
                detail::overflow_in_a_constant();
            return thousandths < 0 ? uint8_t{0} : uint8_t{255};
        }
        return static_cast<uint8_t>((static_cast<uint32_t>(thousandths) * 255 + 50'000) / 100'000);
    }

    uint8_t of_255_ = 0;
};

/// One of several stages, counted from 0: none.
class Stage {
  public:
    constexpr Stage() = default;
    constexpr explicit Stage(uint8_t number) : number_(number) {}
    constexpr uint8_t number() const { return number_; }
    friend constexpr bool operator==(Stage a, Stage b) { return a.number_ == b.number_; }
    friend constexpr bool operator!=(Stage a, Stage b) { return !(a == b); }

  private:
    uint8_t number_ = 0;
};

} // namespace zorilla
