// SPDX-License-Identifier: MIT
/// \file
/// Raw samples to readings.
#pragma once

#include "zorilla/sense/analogue.hpp"
#include "zorilla/sense/code_table.hpp"
#include "zorilla/sense/linear_chip.hpp"
#include "zorilla/sense/sample.hpp"
#include "zorilla/sense/thermistor.hpp"
