// SPDX-License-Identifier: MIT
/// \file
/// A rig as the C++ of its device, and of a firmware that wires it to an ATmega328P.
#pragma once

#include "rig/model/rig.hpp"

#include <string>
#include <string_view>
#include <vector>

namespace zorilla::rig {

/// What a rig is in C++.
struct Firmware {
    std::string device; ///< device.hpp
    std::string main;   ///< main.cpp
    /// What cannot be written as C++ yet, each with its place in the file.
    struct Gap {
        Place place;
        std::string text;
    };
    std::vector<Gap> gaps;
};

/// How the firmware around a device goes.
struct FirmwarePlan {
    Duration pass = 100_ms; ///< how often it passes
    bool sends = false;     ///< whether it sends what it has read, as a trace
};

/// \param rig   without mistakes  \param name  of its namespace: letters, digits and _
/// \param text  the rig file as it is written, for its comments
Firmware firmware_of(const Rig& rig, const std::string& name, std::string_view text,
                     const FirmwarePlan& plan = {});
/// How many characters it sends in a pass at most: a row, and the answer to a command.
size_t row_size(const Rig& rig);
/// How many milliseconds its converter takes to come round all channels; 0 where it takes none to
/// speak of.
int64_t converter_round(const Rig& rig);
/// A number that stands for what a rig says: the same for files that differ in comments
/// alone, or in what settings usually are.
uint32_t number_of(const Rig& rig);
/// The line that a device sends before its rows, without its end.
std::string header_of(const Rig& rig);

} // namespace zorilla::rig
