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

/// `a / b` rounded down, for a `b` of 1 to 16: byte by byte, each by a product that is exact for so
/// small a divisor. A quarter of what a chip's general division takes.
[[gnu::always_inline]] inline int32_t divide_small(int32_t a, uint8_t b) {
    // 65,536 / b rounded up; powers of two are only shifted.
    ZORILLA_PROGRAM_MEMORY static constexpr int16_t inverse[] = {
        0, 0, 0, 21846, 0, 13108, 10923, 9363, 0, 7282, 6554, 5958, 5462, 5042, 4682, 4370, 0};
    if ((b & (b - 1)) == 0) {
        for (; b > 1; b = static_cast<uint8_t>(b >> 1))
            a >>= 1;
        return a;
    }
    // ~a is -a - 1, and floor(a / b) is ~(~a / b).
    const bool below = a < 0;
    auto left = below ? ~static_cast<uint32_t>(a) : static_cast<uint32_t>(a);
    const auto factor = static_cast<uint16_t>(load_entry(&inverse[b]));
    uint32_t out = 0;
    uint16_t rest = 0;
    for (uint8_t i = 0; i < 4; ++i) {
        const auto part = static_cast<uint16_t>(rest << 8 | static_cast<uint8_t>(left >> 24));
        const auto digit = static_cast<uint8_t>(product(part, factor) >> 16);
        rest = static_cast<uint16_t>(part - static_cast<uint16_t>(digit * uint16_t{b}));
        out = out << 8 | digit;
        left <<= 8;
    }
    return below ? static_cast<int32_t>(~out) : static_cast<int32_t>(out);
}

/// The same where it is rarely needed, or needed twice.
ZORILLA_SHARED inline int32_t divide_small_at_leisure(int32_t a, uint8_t b) {
    return divide_small(a, b);
}

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

/// The mean of readings whose sum may leave 32 bits.
template <class Q> int32_t mean_of_halves(const Reading<Q>* list, uint8_t count, uint8_t healthy) {
    int32_t high = 0;
    int32_t low = 0;
    for (uint8_t i = 0; i < count; ++i)
        if (list[i].ok()) {
            const int32_t value = list[i].value_or(Q{}).thousandths();
            high += static_cast<int16_t>(value >> 16);
            low += static_cast<uint16_t>(value);
        }
    const int32_t part = divide_small_at_leisure(high, healthy);
    const auto rest = static_cast<uint8_t>(high - part * healthy);
    low += (int32_t{rest} << 16) + (healthy >> 1);
    return static_cast<int32_t>(static_cast<uint32_t>(part) << 16) +
           divide_small_at_leisure(low, healthy);
}

} // namespace detail

/// The mean of up to 16 readings.
/// \param needed  how many must be healthy; the others are left out. Default: all
template <class Q> Reading<Q> mean(const Reading<Q>* list, uint8_t count, uint8_t needed) {
    uint32_t sum = 0;
    uint8_t healthy = 0;
    Health why = Health::ok;
    bool fits = true; // the sum of sixteen such stays within 32 bits, as nearly all do
    for (uint8_t i = 0; i < count; ++i) {
        if (list[i].ok()) {
            const auto value = static_cast<uint32_t>(list[i].value_or(Q{}).thousandths());
            fits = fits && detail::top_byte(value + 0x0800'0000) < 0x10;
            sum += value;
            ++healthy;
        } else if (why == Health::ok) {
            why = list[i].health();
        }
    }
    if (healthy == 0 || healthy < needed)
        return Reading<Q>::without_value(why == Health::ok ? Health::missing : why);
    return Reading<Q>::of_bounded(Q::from_thousandths(
        fits ? detail::divide_small(static_cast<int32_t>(sum) + (healthy >> 1), healthy)
             : detail::mean_of_halves(list, count, healthy)));
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
