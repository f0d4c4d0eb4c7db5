// SPDX-License-Identifier: MIT
/// \file
/// A made-up hen house in winter, the source of the demo's trace.
#pragma once

#include "bench/live/serving.hpp"
#include "rig/rig_file.hpp"

#include <memory>
#include <string>

namespace zorilla::bench {

/// Records three winter days of a hen house, a row every 5 s, as a trace. The outputs are switched
/// by the rig itself, so that the lamp warms the roost, the valve fills the barrel, and the
/// ventilator clears the air, as they would have. The same text every time.
///
/// - On the second morning the door is left open for two hours, and at eleven somebody presses the
///   air button.
/// - On the second afternoon a hen perches on the barrel, too near for the ranger.
/// - In the third night the roost's wire is off for an hour; the alarm is hushed at half past
/// eight.
/// - On the third afternoon the plug of the humidity sensor is loose for six minutes.
/// - Now and then a frame of the humidity sensor is damaged on its way, or gets lost.
///
/// The house is a single heat store (Newton's law of cooling); the sensors are the forward models.
/// \param rig  sensors called roost, yard_light, barrel, litter and ammonia, and the buttons
/// air_button and
///     hush_button, are recorded, and the
///     outputs heat_lamp, water_valve and ventilator act, as far as the rig has them
std::string hen_house_trace(const rig::Rig& rig);

/// The same house around a device that runs, a pass every 5 s: its outputs act, and what has
/// happened in those three days happens. It goes on when the device begins anew. \param rig  as
/// above; must outlive it  \param hours  since midnight of the first day
std::unique_ptr<Surroundings> hen_house(const rig::Rig& rig, double hours);

} // namespace zorilla::bench
