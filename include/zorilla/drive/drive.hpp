// SPDX-License-Identifier: MIT
/// \file
/// Drive: from truths to what a pin must be. An output is handed its claims in order: the first
/// that is yes wins, one that is unknown sends it to its safe value, and where none holds it rests.
/// Behind the claims stand the guards of the part: least times on and off, a longest time, a
/// warning, a ramp, a kick, what to do with a motor that stands.
///
///     constexpr auto wiring = relay(active_low).safe(off).min_on(2_min).min_off(5_min);
///     Relay<wiring> lamp;
///     lamp.drive(now, on_when(is_cold));
///     lamp.level(); // of the pin
#pragma once

#include "zorilla/drive/claim.hpp"
#include "zorilla/drive/fade.hpp"
#include "zorilla/drive/fan.hpp"
#include "zorilla/drive/hand.hpp"
#include "zorilla/drive/led.hpp"
#include "zorilla/drive/output.hpp"
#include "zorilla/drive/relay.hpp"
#include "zorilla/drive/round.hpp"
