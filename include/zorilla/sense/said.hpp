// SPDX-License-Identifier: MIT
/// \file
/// What somebody says over the serial line, as readings. It is a raw input like any other: it
/// stands in the trace, and conditions and curves can name it. `LineInput` (board/line.hpp) takes
/// it down.
#pragma once

#include "zorilla/sense/sample.hpp"
#include "zorilla/sense/switched.hpp"
#include "zorilla/units/quantity.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/truth.hpp"

namespace zorilla {

/// Yes while the level is high.
constexpr Truth said_truth(LevelSample sample) {
    return sample.taken() ? truth_of(sample.level() == Level::high) : Truth::unknown;
}

/// The largest code of what is said as a share: tenths of a percent.
inline constexpr uint16_t said_full = 1000;
/// 0 to 100 %, from a code of tenths of a percent; missing while nobody says anything.
constexpr Reading<Percentage> said_share(Sample sample) {
    using Out = Reading<Percentage>;
    if (!sample.taken())
        return Out::without_value(Health::missing);
    return sample.code() > said_full
               ? Out::without_value(Health::out_of_range)
               : Out::of(Percentage::from_thousandths(int32_t{sample.code()} * 100));
}

/// A value that is set over the line and kept: from one end to the other in steps.
///
///     constexpr auto warm_at = setting(4_degC, 12_degC, 6_degC);
///     const Reading<Temperature> is = said_setting<Temperature>(warm_at, sample);
struct SettingSpec {
    int32_t from = 0, to = 0; ///< thousandths
    int32_t step = 1;         ///< the same
    uint16_t usual = 0;       ///< the code of the value that it has until it is set

    constexpr uint16_t last() const { return static_cast<uint16_t>((to - from) / step); }
    /// Of a code; one that is too large is that of the last.
    constexpr int32_t value(uint16_t code) const {
        return from + int32_t{code > last() ? last() : code} * step;
    }
    /// The code of a value between both ends: the nearest.
    constexpr uint16_t code(int32_t thousandths) const {
        // At most 2'000'000'000 apart: without a sign that fits.
        const auto width = static_cast<uint32_t>(step);
        const uint32_t above = static_cast<uint32_t>(thousandths) - static_cast<uint32_t>(from);
        const uint32_t nearest = (above + width / 2) / width;
        return nearest > last() ? last() : static_cast<uint16_t>(nearest);
    }
    constexpr bool is_possible() const { return from < to && usual <= last(); }
};
namespace detail {
/// The finest step, 1, 2, 5, 10 ... thousandths, of which at most 65,000 are so many.
constexpr int32_t setting_step(int64_t span) {
    int64_t step = 1;
    for (uint8_t i = 0; span / step > 65'000; ++i)
        step = i % 3 == 1 ? step / 2 * 5 : step * 2;
    return static_cast<int32_t>(step);
}
} // namespace detail
/// \param usual  what it is until it is set
constexpr SettingSpec setting_between(int32_t from, int32_t to, int32_t usual) {
    // What cannot be becomes a spec that is not possible.
    if (from >= to || usual < from || usual > to || int64_t{to} - from > 2'000'000'000)
        return {0, 0, 1, 1};
    SettingSpec out{from, to, detail::setting_step(int64_t{to} - from), 0};
    out.usual = out.code(usual);
    return out;
}
template <class Q> constexpr SettingSpec setting(Q from, Q to, Q usual) {
    return setting_between(from.thousandths(), to.thousandths(), usual.thousandths());
}
/// What it is set to; where nothing was said, what it usually is.
template <class Q> constexpr Reading<Q> said_setting(const SettingSpec& spec, Sample sample) {
    return Reading<Q>::of(
        Q::from_thousandths(spec.value(sample.taken() ? sample.code() : spec.usual)));
}

} // namespace zorilla
