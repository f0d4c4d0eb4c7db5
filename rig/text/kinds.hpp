// SPDX-License-Identifier: MIT
/// \file
/// The kinds of quantities, a row each: all that differs from one to another. Only for rig/text/
/// itself.
#pragma once

#include "rig/text/text.hpp"

#include <string_view>

namespace zorilla::rig {

/// A unit of a kind.
struct Unit {
    std::string_view name;
    Kind kind;
    UnitScale scale;
};

struct KindRow {
    Kind kind;
    std::string_view quantity; ///< what it is called
    std::string_view example;  ///< a plausible value
    int digits;                ///< decimals of a measured value, at most
    std::string_view type;     ///< in C++; empty if the core has none
    std::string_view literal;  ///< the unit in which thousandths are counted, in C++
    double formula;            ///< so many thousandths are one in formulas: degC, ohm, V, A, W/K
};

/// All units: names first, other spellings after them; the first of a kind is the one in which its
/// thousandths are counted, the one to show and to suggest.
struct Units {
    const Unit* begin() const;
    const Unit* end() const;
};
const KindRow& row_of(Kind kind);
constexpr size_t kind_count = 30;

constexpr bool is_per_minute(Kind kind) { return kind >= Kind::per_minute; }
constexpr Kind without_minute(Kind kind) {
    return static_cast<Kind>(static_cast<uint8_t>(kind) & ~static_cast<uint8_t>(Kind::per_minute));
}

/// A decimal number without needless zeros, but with at least `decimals` places.
std::string decimal_text(int64_t thousandths, int decimals);
/// In the unit that it is shown in; of several numbers that mean this value the roundest, as a
/// person has typed it: 89.68 degF, not 89.679.
int64_t shown_thousandths(int32_t thousandths, Kind kind);

} // namespace zorilla::rig
