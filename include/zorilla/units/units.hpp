// SPDX-License-Identifier: MIT
/// \file
/// Quantities, literals, time, readings with their health, and three-valued truth.
#pragma once

#include "zorilla/units/decimal.hpp"
#include "zorilla/units/duty.hpp"
#include "zorilla/units/level.hpp"
#include "zorilla/units/product.hpp"
#include "zorilla/units/program_memory.hpp"
#include "zorilla/units/quantity.hpp"
#include "zorilla/units/reading.hpp"
#include "zorilla/units/temperature.hpp"
#include "zorilla/units/time.hpp"
#include "zorilla/units/truth.hpp"
