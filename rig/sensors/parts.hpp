// SPDX-License-Identifier: MIT
/// \file
/// A function for each kind of sensor: reads its keys, says what is wrong with them, and wires it.
#pragma once

#include "rig/table_reader.hpp"

namespace zorilla::rig {

ReadPart read_thermistor(PartReader& in, Sense& out);
ReadPart read_linear_chip(PartReader& in, Sense& out);
ReadPart read_photoresistor(PartReader& in, Sense& out);
ReadPart read_phototransistor(PartReader& in, Sense& out);
ReadPart read_share(PartReader& in, Sense& out);
ReadPart read_humidity_chip(PartReader& in, Sense& out);
ReadPart read_humidity_frame(PartReader& in, Sense& out);
ReadPart read_ranger(PartReader& in, Sense& out);
ReadPart read_gas_sensor(PartReader& in, Sense& out);
ReadPart read_moisture_probe(PartReader& in, Sense& out);
ReadPart read_digital_input(PartReader& in, Sense& out);
ReadPart read_analogue_level(PartReader& in, Sense& out);
ReadPart read_pulse_counter(PartReader& in, Sense& out);
ReadPart read_value_table(PartReader& in, Sense& out);
ReadPart read_raw(PartReader& in, Sense& out);

} // namespace zorilla::rig
