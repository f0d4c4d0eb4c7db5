// SPDX-License-Identifier: MIT
/// \file
/// Decide: from readings to truths, stages and duties. A decision is a spec, a constant with its
/// points, and a block that remembers on which side of them it is. The point where it lets go is
/// always said: that gap is the hysteresis. A reading without health makes *unknown*, and that
/// travels on. Truths may have to last, be counted, be acted on for a time, or move a machine.
///
///     constexpr auto frost = below(4_degC).release(6_degC);
///     Threshold<frost> cold;
///     const Truth is_cold = cold.decide(roost.read(sample));
#pragma once

#include "zorilla/decide/attempts.hpp"
#include "zorilla/decide/by_code.hpp"
#include "zorilla/decide/curve.hpp"
#include "zorilla/decide/ladder.hpp"
#include "zorilla/decide/lasting.hpp"
#include "zorilla/decide/machine.hpp"
#include "zorilla/decide/threshold.hpp"
#include "zorilla/decide/window.hpp"
