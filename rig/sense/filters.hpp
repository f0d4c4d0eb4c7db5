// SPDX-License-Identifier: MIT
/// \file
/// The filters that any sensor of one quantity may have in a rig file.
#pragma once

#include "rig/sense/part.hpp"

#include <zorilla/sense/trim.hpp>

namespace zorilla::rig {

/// Which filters a sensor has; those left out do nothing.
struct FilterSpec {
    Trim<AnyQuantity> trim;
    uint8_t extra_bits = 0; ///< of oversampling
    uint16_t spread = 0;
    uint8_t median = 0;
    std::optional<AnyQuantity> fastest_change; ///< in a minute
    Duration believe_after = 30_s;
    std::optional<Duration> smooth;
    Duration stuck_after{};
    Duration stale_after{};
    Duration hold{};

    bool any() const {
        return trim.is_set() || extra_bits != 0 || median != 0 || fastest_change || smooth ||
               stuck_after > Duration{} || stale_after > Duration{} || hold > Duration{};
    }
};

/// The keys of all of them, without oversampling.
std::vector<PartKey> with_filter_keys(std::vector<PartKey> own);

/// Reads the keys of oversampling, which an analogue sensor has to know before all others.
void read_oversampling(TableReader& keys, FilterSpec& out);
/// What is wrong with codes of more than 16 bits.
std::string too_many_bits(const std::string& label, int bits);
/// Reads the keys of the other filters. \param kind  what the sensor measures
void read_filters(TableReader& keys, Kind kind, FilterSpec& out);

/// Puts the filters behind a sensor of one quantity (and oversampling before it).
StartBlock with_filters(const FilterSpec& spec, StartBlock sensor);

} // namespace zorilla::rig
