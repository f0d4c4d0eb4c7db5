// SPDX-License-Identifier: MIT
/// \file
/// Truth with three values: what a device may say when it cannot know.
#pragma once

#include "zorilla/units/compiler.hpp"

#include <stdint.h>

namespace zorilla {

/// No, unknown or yes, joined by Kleene's strong logic (S. C. Kleene, Introduction to
/// Metamathematics, 1952, section 64): unknown travels unless the other side already settles it.
///
/// There is no conversion to `bool`: somebody has to say what unknown means. The operators read as
/// in a rig file: `cold and not airing`. Unlike with `bool`, both sides are always evaluated.
enum class Truth : uint8_t { no, unknown, yes };

constexpr Truth operator!(Truth a) {
    return static_cast<Truth>(static_cast<uint8_t>(Truth::yes) - static_cast<uint8_t>(a));
}
constexpr Truth operator&&(Truth a, Truth b) { return a < b ? a : b; }
constexpr Truth operator||(Truth a, Truth b) { return a < b ? b : a; }

/// `Truth::yes` or `Truth::no` from a plain bool.
constexpr Truth truth_of(bool known) { return known ? Truth::yes : Truth::no; }

} // namespace zorilla
