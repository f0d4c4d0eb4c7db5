// SPDX-License-Identifier: MIT
/// \file
/// A made-up hen house in winter, the source of the demo's trace.
#pragma once

#include "rig/rig_file.hpp"

#include <string>

namespace zorilla::bench {

/// Records three winter days of a hen house's roost sensor, a sample every 2 s, as a trace. The
/// heat lamp is switched by the rig itself, so that it warms the roost as it would have.
///
/// On the second morning the door is left open for two hours; in the third night the sensor's wire
/// is off for an hour. The same text every time.
///
/// The house is a single heat store (Newton's law of cooling); the sensor is computed in double
/// precision from the Beta model and the divider, apart from the core's tables.
/// \param rig  one sensor and one output: the sensor hangs in the roost, the output heats it
std::string winter_trace(const rig::Rig& rig);

} // namespace zorilla::bench
