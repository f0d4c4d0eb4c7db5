// SPDX-License-Identifier: MIT
/// \file
/// The whole way from readings to a pin, at one moment of a replay, in sentences.
#pragma once

#include "bench/explain/explain.hpp"
#include "bench/replay.hpp"

#include <optional>
#include <string>
#include <vector>

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

/// Plays the trace up to the time asked for. \return  sentences, from what is asked down to
///     the samples; empty if the trace ends before
std::vector<std::string> explain_why(const rig::Rig& rig, TraceReader& trace, Question question);

/// The same of the present moment of a replay that goes on. \param moved  of each machine, how it
/// has come to where it is: " since 11:05: ..."  \param since  when it was last otherwise
std::vector<std::string> explain_now(const rig::RunningRig& running, const Explainer& explainer,
                                     const std::vector<std::string>& moved, Question question,
                                     int64_t now, int64_t since, const rig::Raw* raws);

} // namespace zorilla::bench
