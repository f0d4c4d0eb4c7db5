// SPDX-License-Identifier: MIT
/// \file
/// Raw samples to readings.
#pragma once

#include "zorilla/sense/analogue.hpp"
#include "zorilla/sense/clean_air.hpp"
#include "zorilla/sense/climate.hpp"
#include "zorilla/sense/code_table.hpp"
#include "zorilla/sense/divider.hpp"
#include "zorilla/sense/filters.hpp"
#include "zorilla/sense/gas.hpp"
#include "zorilla/sense/gas_climate.hpp"
#include "zorilla/sense/humidity_chip.hpp"
#include "zorilla/sense/humidity_frame.hpp"
#include "zorilla/sense/linear_chip.hpp"
#include "zorilla/sense/moisture.hpp"
#include "zorilla/sense/photoresistor.hpp"
#include "zorilla/sense/phototransistor.hpp"
#include "zorilla/sense/powers.hpp"
#include "zorilla/sense/pulses.hpp"
#include "zorilla/sense/ranger.hpp"
#include "zorilla/sense/sample.hpp"
#include "zorilla/sense/share.hpp"
#include "zorilla/sense/switched.hpp"
#include "zorilla/sense/thermistor.hpp"
#include "zorilla/sense/trim.hpp"
#include "zorilla/sense/value_table.hpp"
