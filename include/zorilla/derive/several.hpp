// SPDX-License-Identifier: MIT
/// \file
/// One value of several sensors: mean, least and most.
#pragma once

#include "zorilla/sense/powers.hpp"
#include "zorilla/units/program_memory.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/temperature.hpp"

#include <stdint.h>

namespace zorilla {

namespace detail {

/// A sum of up to 16 numbers, which may leave 32 bits.
class SumOfFew {
  public:
    [[gnu::always_inline]] constexpr void add(int32_t number) {
        const auto wide = static_cast<uint32_t>(number);
        low_ += wide;
        if (low_ < wide)
            ++high_;
        if (number < 0)
            --high_;
    }
    /// Divided by a number from 1 to 16, rounded down; that must fit into 32 bits. Byte by byte,
    /// each by a product that is exact for so small a divisor: a quarter of what a chip's general
    /// division takes. By a power of two it is only shifted.
    [[gnu::always_inline]] int32_t divided_by(uint8_t b) const {
        // 65,536 / b rounded up.
        ZORILLA_PROGRAM_MEMORY static constexpr int16_t inverse[] = {
            0, 0, 0, 21846, 0, 13108, 10923, 9363, 0, 7282, 6554, 5958, 5462, 5042, 4682, 4370, 0};
        uint32_t left = low_;
        uint8_t rest = high_;
        if ((b & (b - 1)) == 0) {
            for (; b > 1; b = static_cast<uint8_t>(b >> 1)) {
                left = left >> 1 | uint32_t{rest} << 31;
                rest = static_cast<uint8_t>(rest >> 1);
            }
            return static_cast<int32_t>(left);
        }
        // ~a is -a - 1, and floor(a / b) is ~(~a / b).
        const bool below = (rest & 0x80U) != 0;
        if (below) {
            left = ~left;
            rest = static_cast<uint8_t>(~rest);
        }
        const auto factor = static_cast<uint16_t>(load_entry(&inverse[b]));
        uint32_t out = 0;
        for (uint8_t i = 0; i < 4; ++i) {
            const auto part = static_cast<uint16_t>(uint16_t{rest} << 8 | top_byte(left));
            const auto digit = static_cast<uint8_t>(product(part, factor) >> 16);
            rest = static_cast<uint8_t>(part - digit * uint16_t{b});
            out = out << 8 | digit;
            left <<= 8;
        }
        return below ? static_cast<int32_t>(~out) : static_cast<int32_t>(out);
    }

  private:
    uint32_t low_ = 0;
    uint8_t high_ = 0; ///< of a number of 40 bits
};

/// Joins the healthy ones of up to 16 readings, if there are at least `needed` of them; otherwise
/// the health of the first that is not.
template <class Q, class Join>
[[gnu::always_inline]] inline Reading<Q> joined(const Reading<Q>* readings, uint8_t count,
                                                uint8_t needed, Join join) {
    uint8_t healthy = 0;
    Health why = Health::missing;
    bool faulty = false;
    for (uint8_t i = 0; i < count; ++i) {
        if (readings[i].ok()) {
            ++healthy;
        } else if (!faulty) {
            faulty = true;
            why = readings[i].health();
        }
    }
    if (healthy < needed || healthy == 0)
        return Reading<Q>::without_value(why);
    return Reading<Q>::of_bounded(Q::from_thousandths(join(healthy)));
}

} // namespace detail

/// The mean of up to 16 readings.
/// \param needed  how many must be healthy; the others are left out. Default: all
template <class Q>
ZORILLA_ONCE Reading<Q> mean(const Reading<Q>* list, uint8_t count, uint8_t needed) {
    detail::SumOfFew sum;
    uint8_t healthy = 0;
    Health why = Health::ok;
    for (uint8_t i = 0; i < count; ++i) {
        if (list[i].ok()) {
            sum.add(list[i].value_or(Q{}).thousandths());
            ++healthy;
        } else if (why == Health::ok) {
            why = list[i].health();
        }
    }
    if (healthy == 0 || healthy < needed)
        return Reading<Q>::without_value(why == Health::ok ? Health::missing : why);
    sum.add(healthy >> 1);
    return Reading<Q>::of_bounded(Q::from_thousandths(sum.divided_by(healthy)));
}
template <class Q, uint8_t N> Reading<Q> mean(const Reading<Q> (&list)[N], uint8_t needed = N) {
    return mean(list, N, needed);
}

/// The least of several readings, with the same rule.
template <class Q> Reading<Q> least(const Reading<Q>* list, uint8_t count, uint8_t needed) {
    return detail::joined(list, count, needed, [&](uint8_t) {
        int32_t out = detail::largest_int32;
        for (uint8_t i = 0; i < count; ++i)
            if (list[i].ok() && list[i].value_or(Q{}).thousandths() < out)
                out = list[i].value_or(Q{}).thousandths();
        return out;
    });
}
template <class Q, uint8_t N> Reading<Q> least(const Reading<Q> (&list)[N], uint8_t needed = N) {
    return least(list, N, needed);
}

/// The most of several readings, with the same rule.
template <class Q> Reading<Q> most(const Reading<Q>* list, uint8_t count, uint8_t needed) {
    return detail::joined(list, count, needed, [&](uint8_t) {
        int32_t out = detail::smallest_int32;
        for (uint8_t i = 0; i < count; ++i)
            if (list[i].ok() && list[i].value_or(Q{}).thousandths() > out)
                out = list[i].value_or(Q{}).thousandths();
        return out;
    });
}
template <class Q, uint8_t N> Reading<Q> most(const Reading<Q> (&list)[N], uint8_t needed = N) {
    return most(list, N, needed);
}

} // namespace zorilla
