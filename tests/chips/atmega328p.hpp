// SPDX-License-Identifier: MIT
// The emulated chip, as tests call it.
#pragma once

#include "bench/rehearse/atmega328p.hpp"

namespace chips {

using zorilla::bench::Atmega328p;
using zorilla::bench::Size;
using zorilla::bench::size_of;

} // namespace chips
