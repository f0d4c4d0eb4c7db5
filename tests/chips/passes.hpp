// SPDX-License-Identifier: MIT
// The same passes through the heat lamp on the desk, from its rig file, and on emulated chips.
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>
#include <vector>

namespace chips {

using Bytes = std::vector<uint8_t>;

/// Packed passes (see feed.hpp): every sample of the demo's trace, then every code of the
/// converter, then random steps across the wrap of the clock, with missing samples and faults among
/// them.
Bytes passes_to_compare();

/// The number of passes in packed input.
size_t count_of(const Bytes& passes);

Bytes run_on_desk(const Bytes& passes);
Bytes run_from_rig_file(const Bytes& passes);
Bytes run_on_atmega328p(const Bytes& passes);
Bytes run_on_cortex_m0(const Bytes& passes);

/// The number of the first pass that came out differently; -1 if all are equal bit for bit.
long first_difference(const Bytes& a, const Bytes& b);

/// Where the build has put a firmware.
std::string firmware(const std::string& name);

} // namespace chips
