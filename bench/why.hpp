// SPDX-License-Identifier: MIT
/// \file
/// The whole way from readings to a pin, at one moment of a replay, in sentences.
#pragma once

#include "bench/explain/explain.hpp"
#include "bench/question.hpp"
#include "bench/replay.hpp"

#include <optional>
#include <string>
#include <vector>

namespace zorilla::bench {

/// Plays the trace up to the time asked for. \return  sentences, from what is asked down to
///     the samples; empty if the trace ends before
std::vector<std::string> explain_why(const rig::Rig& rig, TraceReader& trace, Question question);

/// The same of the present moment of a replay that goes on. \param moved  of each machine, how it
/// has come to where it is: " since 11:05: ..."  \param since  when it was last otherwise
std::vector<std::string> explain_now(const rig::RunningRig& running, const Explainer& explainer,
                                     const std::vector<std::string>& moved, Question question,
                                     int64_t now, int64_t since, const rig::Raw* raws);

} // namespace zorilla::bench
