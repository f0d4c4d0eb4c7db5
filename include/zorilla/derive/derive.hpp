// SPDX-License-Identifier: MIT
/// \file
/// Derive: readings made of readings: of air (dew point, heat index, water in the air, the heat
/// that it carries), differences and changes, several sensors as one. What is not healthy passes
/// its health on.
///
///     const Reading<Temperature> dew = dew_point(air.temperature, air.humidity);
#pragma once

#include "zorilla/derive/air.hpp"
#include "zorilla/derive/change.hpp"
#include "zorilla/derive/several.hpp"
