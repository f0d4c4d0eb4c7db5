// SPDX-License-Identifier: MIT
/// \file
/// Sensors and what is derived from them, as data.
#pragma once

#include "rig/model/raw.hpp"
#include "rig/model/source.hpp"
#include "rig/model/table.hpp"

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace zorilla::rig {

class SensePart;
class DerivePart;

/// A pin of a part, and the key that says it: "pin", "ping_pin".
struct PartPin {
    std::string key;
    std::string pin;
};

/// A sensor.
struct Sense {
    std::string name;
    Place place;
    std::string word; ///< what kind of part it is
    std::string pin;  ///< the one that is read
    std::vector<PartPin> other_pins;
    std::string about; ///< what it is, for a person
    RawKind raw = RawKind::code;
    int32_t reference = 0; ///< what full scale of the converter stands for, in mV; 0: of the supply
    int64_t largest_raw = 0;
    uint8_t extra_bits = 0; ///< that its converter makes by adding up, right after one another
    size_t source = 0;      ///< the first of its sources
    size_t sources = 1;
    std::vector<size_t> inputs;            ///< sources that correct it
    std::optional<size_t> trimmed_by;      ///< the source that is added to what it reads
    Duration every{};                      ///< how often it is read, where it is not in each pass
    Duration wakes{};                      ///< after power-up, before it is read at all
    Duration pings{};                      ///< between two pings, its own or those of others
    uint8_t median = 0;                    ///< of so many of them, where that is what it gives
    Duration notices{};                    ///< how long its line is pulled low until it answers
    bool shorted_reads_supply = false;     ///< a short circuit is one of a supply, not of two wires
    std::vector<AnyReading> by_code;       ///< where a reading depends on nothing but the code
    std::shared_ptr<const SensePart> part; ///< what its room has made of it
};

/// A quantity made from others.
struct Derive {
    std::string name;
    Place place;
    std::string word;
    std::string about;
    size_t source = 0;
    std::vector<size_t> of;
    std::shared_ptr<const DerivePart> part;
};

} // namespace zorilla::rig
