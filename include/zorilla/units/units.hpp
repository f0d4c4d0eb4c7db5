// SPDX-License-Identifier: MIT
/// \file
/// Units: what all others speak in. A quantity is a number with its unit in its type, in
/// thousandths of that unit (`Temperature`, `Length`, `Duration`); what two of them differ by may
/// be another type (`TemperatureDifference`), and a point in time (`Instant`) is no span of it. A
/// `Reading` is a quantity that may be missing, and says why (`Health`); a `Truth` is yes, no or
/// unknown.
///
///     constexpr Temperature frost = 4_degC;
///     const Reading<Temperature> roost = ...;
///     if (roost.ok() && roost.value_or(frost) < frost) ...
///
/// Whole numbers throughout: nothing here rounds, allocates, throws, or needs a standard library.
#pragma once

#include "zorilla/units/decimal.hpp"
#include "zorilla/units/duty.hpp"
#include "zorilla/units/level.hpp"
#include "zorilla/units/product.hpp"
#include "zorilla/units/program_memory.hpp"
#include "zorilla/units/quantity.hpp"
#include "zorilla/units/quotient.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/temperature.hpp"
#include "zorilla/units/time.hpp"
#include "zorilla/units/truth.hpp"
