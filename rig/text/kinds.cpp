// SPDX-License-Identifier: MIT
#include "rig/text/kinds.hpp"

#include <iterator>

namespace zorilla::rig {

namespace {

constexpr int32_t thousand = 1000;

constexpr Unit units[] = {
    {"degC", Kind::temperature, {thousand, 1, 0}},
    {"degF", Kind::temperature, {5 * thousand, 9, 3200}},
    {"K", Kind::temperature, {thousand, 1, 27315}},
    {"°C", Kind::temperature, {thousand, 1, 0}},
    {"°F", Kind::temperature, {5 * thousand, 9, 3200}},
    {"K", Kind::temperature_difference, {thousand, 1, 0}},
    {"degC", Kind::temperature_difference, {thousand, 1, 0}},
    {"degF", Kind::temperature_difference, {5 * thousand, 9, 0}},
    {"°C", Kind::temperature_difference, {thousand, 1, 0}},
    {"°F", Kind::temperature_difference, {5 * thousand, 9, 0}},
    {"kohm", Kind::resistance, {1000, 1, 0}},
    {"ohm", Kind::resistance, {1, 1, 0}},
    {"Mohm", Kind::resistance, {1'000'000, 1, 0}},
    {"Ω", Kind::resistance, {1, 1, 0}},
    {"kΩ", Kind::resistance, {1000, 1, 0}},
    {"s", Kind::duration, {1000, 1, 0}},
    {"min", Kind::duration, {60'000, 1, 0}},
    {"ms", Kind::duration, {1, 1, 0}},
    {"h", Kind::duration, {3'600'000, 1, 0}},
    {"d", Kind::duration, {86'400'000, 1, 0}},
    {"mV", Kind::voltage, {1000, 1, 0}},
    {"V", Kind::voltage, {1'000'000, 1, 0}},
    {"mV/K", Kind::voltage_per_kelvin, {1000, 1, 0}},
    {"mV/degC", Kind::voltage_per_kelvin, {1000, 1, 0}},
    {"mV/degF", Kind::voltage_per_kelvin, {1800, 1, 0}},
    {"%", Kind::percentage, {1000, 1, 0}},
    {"%/K", Kind::percent_per_kelvin, {1000, 1, 0}},
    {"%RH", Kind::humidity, {1000, 1, 0}},
    {"%", Kind::humidity, {1000, 1, 0}},
    {"mV/%RH", Kind::voltage_per_humidity, {1000, 1, 0}},
    {"mV/%", Kind::voltage_per_humidity, {1000, 1, 0}},
    {"lx", Kind::light, {1000, 1, 0}},
    {"klx", Kind::light, {1'000'000, 1, 0}},
    {"nA/lx", Kind::current_per_light, {1000, 1, 0}},
    {"uA/lx", Kind::current_per_light, {1'000'000, 1, 0}},
    {"mm", Kind::length, {1000, 1, 0}},
    {"cm", Kind::length, {10'000, 1, 0}},
    {"m", Kind::length, {1'000'000, 1, 0}},
    {"ppm", Kind::concentration, {1000, 1, 0}},
    {"rpm", Kind::turning_speed, {1000, 1, 0}},
    {"Hz", Kind::frequency, {1000, 1, 0}},
    {"kHz", Kind::frequency, {1'000'000, 1, 0}},
    {"g/m3", Kind::absolute_humidity, {1000, 1, 0}},
    {"m3/h", Kind::air_flow, {1000, 1, 0}},
    {"W", Kind::power, {1000, 1, 0}},
    {"kW", Kind::power, {1'000'000, 1, 0}},
    {"mW", Kind::power, {1, 1, 0}},
    {"mA", Kind::current, {1000, 1, 0}},
    {"A", Kind::current, {1'000'000, 1, 0}},
    {"uA", Kind::current, {1, 1, 0}},
    {"mW/K", Kind::heat_loss, {1000, 1, 0}},
    {"W/K", Kind::heat_loss, {1'000'000, 1, 0}},
    {"kJ/K", Kind::heat_capacity, {1000, 1, 0}},
    {"J/K", Kind::heat_capacity, {1, 1, 0}},
    {"l", Kind::volume, {1000, 1, 0}},
    {"ml", Kind::volume, {1, 1, 0}},
    {"m3", Kind::volume, {1'000'000, 1, 0}},
    {"l/h", Kind::water_flow, {1000, 1, 0}},
    {"l/min", Kind::water_flow, {60'000, 1, 0}},
    {"l/d", Kind::water_flow, {125, 3, 0}},
    {"ml/min", Kind::water_flow, {60, 1, 0}},
    {"g/h", Kind::vapour, {1000, 1, 0}},
    {"kg/d", Kind::vapour, {125'000, 3, 0}},
    {"ml/h", Kind::gas_flow, {1000, 1, 0}},
    {"l/d", Kind::gas_flow, {125'000, 3, 0}},
    {"cm2", Kind::area, {1000, 1, 0}},
    {"m2", Kind::area, {10'000'000, 1, 0}},
    {"mm/d", Kind::evaporation, {1000, 1, 0}},
    {"counts", Kind::counts, {1000, 1, 0}},
    {"count", Kind::counts, {1000, 1, 0}},
};

constexpr KindRow rows[] = {
    {Kind::temperature, "temperature", "4 degC", 3, "Temperature", "degC", 1e3},
    {Kind::temperature_difference, "temperature difference", "2 K", 3, "TemperatureDifference", "K",
     1e3},
    {Kind::resistance, "resistance", "10 kohm", 3, "Resistance", "kohm", 1},
    {Kind::duration, "duration", "2 min", 3, "Duration", "s", 1e3},
    {Kind::voltage, "voltage", "5 V", 3, "Voltage", "mV", 1e6},
    {Kind::voltage_per_kelvin, "voltage for each degree", "10 mV/K", 3, "VoltagePerKelvin",
     "mV_per_K", 1e3},
    {Kind::percentage, "percentage", "40 %", 1, "Percentage", "percent", 1e3},
    {Kind::percent_per_kelvin, "percentage for each degree", "0.22 %/K", 3, "PercentPerKelvin",
     "percent_per_K", 1e3},
    {Kind::humidity, "relative humidity", "70 %RH", 1, "RelativeHumidity", "percent_RH", 1e3},
    {Kind::voltage_per_humidity, "voltage for each percent of humidity", "31 mV/%RH", 3,
     "VoltagePerPercent", "mV_per_percent", 1e3},
    {Kind::light, "illuminance", "200 lx", 1, "Illuminance", "lx", 1e3},
    {Kind::current_per_light, "current for each lux", "500 nA/lx", 3, "CurrentPerLux", "nA_per_lx",
     1e3},
    {Kind::length, "length", "300 mm", 1, "Length", "mm", 1e3},
    {Kind::concentration, "concentration", "25 ppm", 1, "Concentration", "ppm", 1e3},
    {Kind::turning_speed, "turning speed", "1200 rpm", 1, "TurningSpeed", "rpm", 1e3},
    {Kind::frequency, "frequency", "50 Hz", 2, "Frequency", "Hz", 1e3},
    {Kind::absolute_humidity, "absolute humidity", "9 g/m3", 2, "AbsoluteHumidity", "g_per_m3",
     1e3},
    {Kind::air_flow, "flow of air", "80 m3/h", 1, "AirFlow", "m3_per_h", 1e3},
    {Kind::power, "power", "150 W", 1, "Power", "W", 1e3},
    {Kind::current, "current", "20 mA", 3, "", "", 1e6},
    {Kind::heat_loss, "heat lost for each degree", "2 mW/K", 3, "", "", 1e6},
    {Kind::counts, "number of counts", "512 counts", 0, "Counts", "counts", 1e3},
    {Kind::heat_capacity, "heat capacity", "20 kJ/K", 3, "", "", 1},
    {Kind::volume, "volume", "12 l", 3, "", "", 1e3},
    {Kind::water_flow, "flow of water", "30 l/h", 3, "", "", 1e3},
    {Kind::vapour, "flow of vapour", "40 g/h", 3, "", "", 1e3},
    {Kind::gas_flow, "flow of gas", "200 ml/h", 3, "", "", 1e3},
    {Kind::area, "area", "2400 cm2", 3, "", "", 1e3},
    {Kind::evaporation, "evaporation", "3 mm/d", 3, "", "", 1e3},
    {Kind::truth, "yes or no", "", 0, "Truth", "", 1e3},
};
static_assert(std::size(rows) == kind_count);
constexpr bool are_in_order() {
    for (size_t i = 0; i < kind_count; ++i)
        if (rows[i].kind != static_cast<Kind>(i))
            return false;
    return true;
}
static_assert(are_in_order(), "a row for each kind, in the order of the kinds");

} // namespace

const Unit* Units::begin() const { return std::begin(units); }
const Unit* Units::end() const { return std::end(units); }

const KindRow& row_of(Kind kind) { return rows[static_cast<size_t>(without_minute(kind))]; }

} // namespace zorilla::rig
