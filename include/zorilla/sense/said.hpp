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

} // namespace zorilla
