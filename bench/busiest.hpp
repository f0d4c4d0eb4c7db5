// SPDX-License-Identifier: MIT
/// \file
/// Where in a trace most comes about.
#pragma once

#include "rig/model/rig.hpp"

#include <cstdint>
#include <string>

namespace zorilla::bench {

/// Where the span of a trace begins in which a rig does the most that is different: claims that
/// decide, sets of outputs that are on together, sensors and outputs that change. The first of
/// several; the trace's begin if it is no longer than that. Milliseconds, in tenths of the span.
int64_t busiest_of(const rig::Rig& rig, const std::string& trace, int64_t span);

} // namespace zorilla::bench
