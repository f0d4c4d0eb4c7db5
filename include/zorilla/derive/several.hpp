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
        low_ += static_cast<uint16_t>(number);
        high_ += static_cast<int16_t>(number >> 16);
    }
    /// Divided by a number from 1 to 16, rounded down; that must fit into 32 bits. Byte by byte,
    /// each by a product that is exact for so small a divisor: a quarter of what a chip's general
    /// division takes. By a power of two it is only shifted.
    [[gnu::always_inline]] int32_t divided_by(uint8_t b) const {
        // 65,536 / b rounded up.
        ZORILLA_PROGRAM_MEMORY static constexpr int16_t inverse[] = {
            0, 0, 0, 21846, 0, 13108, 10923, 9363, 0, 7282, 6554, 5958, 5462, 5042, 4682, 4370, 0};
        if ((b & (b - 1)) == 0) {
            const uint8_t shift = b == 16 ? 4 : b == 8 ? 3 : b >> 1;
            const uint32_t rest = (static_cast<uint32_t>(high_) & (b - 1U)) << 16;
            return static_cast<int32_t>((static_cast<uint32_t>(high_ >> shift) << 16) +
                                        ((rest + low_) >> shift));
        }
        // The 40 bits of it.
        const auto upper = static_cast<uint32_t>(high_ + static_cast<int32_t>(low_ >> 16));
        uint32_t left = upper << 16 | static_cast<uint16_t>(low_);
        auto rest = static_cast<uint8_t>(upper >> 16);
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
    uint32_t low_ = 0; ///< of their lower halves
    int32_t high_ = 0; ///< and of their upper ones
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

namespace detail {

/// The mean where each of them must be healthy.
template <class Q, uint8_t N> ZORILLA_ONCE Reading<Q> mean_of_all(const Reading<Q> (&list)[N]) {
    SumOfFew sum;
    for (const Reading<Q>& one : list) {
        if (!one.ok())
            return one;
        sum.add(one.value_or(Q{}).thousandths());
    }
    sum.add(N / 2);
    return Reading<Q>::of_bounded(Q::from_thousandths(sum.divided_by(N)));
}

} // namespace detail

/// The mean of up to 16 readings.
/// \param needed  how many must be healthy; the others are left out. Default: all
template <class Q>
ZORILLA_ONCE Reading<Q> mean(const Reading<Q>* list, uint8_t count, uint8_t needed) {
    detail::SumOfFew sum;
    uint8_t healthy = 0;
    Health why = Health::ok;
    for (const Reading<Q>* one = list; one != list + count; ++one) {
        if (one->ok()) {
            sum.add(one->value_or(Q{}).thousandths());
            ++healthy;
        } else if (why == Health::ok) {
            why = one->health();
        }
    }
    if (healthy == 0 || healthy < needed)
        return Reading<Q>::without_value(why == Health::ok ? Health::missing : why);
    sum.add(healthy >> 1);
    return Reading<Q>::of_bounded(Q::from_thousandths(sum.divided_by(healthy)));
}
template <class Q, uint8_t N>
[[gnu::always_inline]] inline Reading<Q> mean(const Reading<Q> (&list)[N], uint8_t needed = N) {
    // Known where it stands, as it mostly is.
    if (__builtin_constant_p(needed) && needed == N)
        return detail::mean_of_all(list);
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
