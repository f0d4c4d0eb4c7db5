// SPDX-License-Identifier: MIT
/// \file
/// One field of a trace: what a sensor delivered in a pass, or what an output was.
#pragma once

#include "rig/model/raw.hpp"

#include <charconv>
#include <cstdint>
#include <string>
#include <string_view>

namespace zorilla::bench {

/// What a field may hold.
struct FieldKind {
    rig::RawKind kind = rig::RawKind::code;
    double largest = 0;  ///< the largest possible number
    bool output = false; ///< what a device says that an output is
};

/// Whether a number is a whole one that the sensor can give; not so for a NaN.
inline bool is_raw(double value, double largest) {
    return value >= 0 && value <= largest &&
           value == static_cast<double>(static_cast<int64_t>(value));
}

/// What follows ten hexadecimal digits; `from` itself if they are not there.
inline const char* end_of_frame(const char* from, const char* end, uint64_t& bits) {
    constexpr ptrdiff_t digits = 10;
    if (end - from < digits)
        return from;
    const auto parsed = std::from_chars(from, from + digits, bits, 16);
    return parsed.ptr == from + digits ? parsed.ptr : from;
}

/// Takes a field without blanks at its ends; empty: no sample was taken; `none`: a sensor was asked
/// and did not answer. \param problem  what is wrong, if it is not understood
bool take_raw(const FieldKind& kind, std::string_view field, rig::Raw& raw, std::string& problem);

/// A field that is read as that again.
std::string field_text(rig::RawKind kind, rig::Raw raw);

} // namespace zorilla::bench
