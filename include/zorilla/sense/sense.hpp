// SPDX-License-Identifier: MIT
/// \file
/// Sense: from what a pin delivers (`Sample`, `Echo`, `FrameSample`, `LevelSample`) to a `Reading`.
/// A sensor is a spec, a constant that says what hangs on the pin, and a block that is made from
/// it; what cannot work does not compile. Curves become integer tables, made by the compiler, with
/// a known largest error; faults of the wire are told from values. Filters stand behind any sensor.
///
///     constexpr auto probe = thermistor(10_kohm, 3950_K).pull_up(10_kohm);
///     Thermistor<probe> roost;
///     const Reading<Temperature> now_reads = roost.read(sample);
///
/// A new one: its spec with its exact curve, derived from `AnalogueSensor` if it hangs on the
/// converter, and its block from `AnalogueTable`.
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
#include "zorilla/sense/said.hpp"
#include "zorilla/sense/sample.hpp"
#include "zorilla/sense/share.hpp"
#include "zorilla/sense/smoothing.hpp"
#include "zorilla/sense/switched.hpp"
#include "zorilla/sense/thermistor.hpp"
#include "zorilla/sense/trim.hpp"
#include "zorilla/sense/value_table.hpp"
