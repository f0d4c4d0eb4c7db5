// SPDX-License-Identifier: MIT
/// \file
/// What somebody wants to know of a device: why a part of it was as it was at some moment.
#pragma once

#include "rig/model/rig.hpp"

#include <cstddef>
#include <cstdint>
#include <string>

namespace zorilla::bench {

/// What is asked: a part of the rig, and a time of the trace.
struct Question {
    enum class About : uint8_t { drive, decide, machine, source };
    About about = About::drive;
    size_t index = 0;
    int64_t milliseconds = 0;
};

/// Reads "ventilator@1d 11:05" or "cold@30 h": the name of an output, a decision, a machine, or a
/// sensor or derived quantity. The time counts as in the timeline: days, and
/// hours:minutes or hours:minutes:seconds; or it is a duration. \throws rig::InputError  with what
/// to type instead
Question parse_question(const std::string& text, const rig::Rig& rig);

} // namespace zorilla::bench
