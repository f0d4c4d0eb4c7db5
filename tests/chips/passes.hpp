// SPDX-License-Identifier: MIT
// The same inputs on the desk, from a rig file, and on emulated chips.
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>
#include <vector>

namespace chips {

using Bytes = std::vector<uint8_t>;

/// Packed inputs and how large one is, and one output.
struct Fed {
    std::string firmware; ///< which firmwares they are for: "feed" or "bank"
    size_t in_size;
    size_t out_size;
    Bytes inputs;

    size_t count() const { return inputs.size() / in_size; }
};

/// For the heat lamp (see feed.hpp): every sample of the demo's trace, then every code of the
/// converter, then random steps across the wrap of the clock, with missing samples and faults among
/// them.
Fed heat_lamp_passes();
/// For every conversion (see bank.hpp): its whole raw range, or at least 20,000 inputs with the
/// ends among them.
Fed conversions();

Bytes run_on_desk(const Fed& fed);
/// The heat lamp's passes only.
Bytes run_from_rig_file(const Fed& fed);
Bytes run_on_atmega328p(const Fed& fed);
/// \param core  "m0" or "m3"
Bytes run_on_cortex(const Fed& fed, const std::string& core);

/// The number of the first pass that came out differently; -1 if all are equal bit for bit.
long first_difference(const Fed& fed, const Bytes& a, const Bytes& b);

/// Inputs as the ATmega328P's firmware takes them: each behind a byte that says that it comes.
Bytes announced(const Fed& fed);

/// Where the build has put a firmware.
std::string firmware(const std::string& name);

} // namespace chips
