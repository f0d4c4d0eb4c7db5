// SPDX-License-Identifier: MIT
// The emulated chip, as tests call it.
#pragma once

#include "bench/rehearse/avr_chip.hpp"

namespace chips {

using Atmega328p = zorilla::bench::AvrChip;
using zorilla::bench::Size;
using zorilla::bench::size_of;

} // namespace chips
