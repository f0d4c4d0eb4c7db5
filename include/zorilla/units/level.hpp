// SPDX-License-Identifier: MIT
/// \file
/// The two levels of a pin.
#pragma once

#include "zorilla/units/compiler.hpp"

#include <stdint.h>

namespace zorilla {

/// The level of a pin.
enum class Level : uint8_t { low, high };

inline constexpr Level active_low = Level::low;
inline constexpr Level active_high = Level::high;

} // namespace zorilla
