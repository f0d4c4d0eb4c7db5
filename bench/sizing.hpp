// SPDX-License-Identifier: MIT
/// \file
/// Which standard parts to take around a sensor or an output. Ohm, volt, ampere, watt throughout.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace zorilla::bench {

/// A series of preferred numbers for resistors (IEC 60063).
enum class Series { e12 = 12, e24 = 24, e96 = 96 };

/// All values of a series from one bound to the other, both included, upwards.
std::vector<double> standard_values(Series series, double from, double to);
/// The least value of the series that is at least this; the greatest that is at most this.
double standard_from(Series series, double ohms);
double standard_up_to(Series series, double ohms);

/// What is to be measured with a divider.
struct DividerTask {
    std::function<double(double)> ohms; ///< of the sensor at a value
    double from = 0, to = 0;            ///< the values at both ends of interest
    std::optional<double> point;        ///< where it matters most
    double supply = 5;
    int bits = 10;
    Series series = Series::e24;
    std::vector<double> have;        ///< resistors to compare with
    bool sensor_to_ground = true;    ///< the resistor goes to the supply then
    double watts_per_kelvin = 0.002; ///< what the sensor loses to still air
};

/// What one resistor makes of it.
struct DividerChoice {
    double pull = 0;
    double code_from = 0, code_to = 0; ///< not rounded
    double counts_per_unit = 0;        ///< at the point, or in the middle of the range
    double amperes = 0;                ///< at most
    double sensor_watts = 0;           ///< at most
    double warming = 0;                ///< of the sensor by its own current, in K

    double span() const { return code_to > code_from ? code_to - code_from : code_from - code_to; }
};

/// The choice of one resistor.
DividerChoice divider_choice(const DividerTask& task, double pull);
/// The middle of the range in which resolution is told: `point`, or where the resistance is the
/// geometric mean of both ends.
double point_of(const DividerTask& task);

/// What was chosen, and its neighbours in the series.
struct DividerResult {
    std::vector<DividerChoice> choices; ///< upwards in resistance
    size_t best = 0;                    ///< in `choices`
    std::vector<size_t> ranking;        ///< the three best, the best first
    std::vector<DividerChoice> have;    ///< what the resistors to compare with make of it
};

/// The resistor with the widest span; or, with a point, the one that resolves best there.
/// \throws rig::InputError  if the numbers cannot be right
DividerResult size_divider(const DividerTask& task);

/// The codes against the value for the best three.
void draw_divider(const std::string& path, const DividerTask& task, const DividerResult& result,
                  const std::string& title, const std::string& axis, bool logarithmic);

/// An LED on a pin.
struct LedTask {
    double supply = 5;
    double forward = 2;
    double amperes = 0.01;
    double pin_limit = 0.02;
    Series series = Series::e12;
};
struct LedResult {
    double ohms = 0;
    double amperes = 0;
    double resistor_watts = 0;
    bool pin_bears_it = true;
    bool lights = true;  ///< whether the supply is above the forward voltage at all
    bool settled = true; ///< whether enough is left over the resistor to set the current
};
LedResult size_led(const LedTask& task);

enum class LoadKind { relay, solenoid, motor, buzzer, lamp, heater };
/// Whether it makes a voltage of its own when it is switched off.
bool is_inductive(LoadKind kind);

/// Something that hangs on a pin or behind it.
struct LoadTask {
    LoadKind kind = LoadKind::relay;
    double amperes = 0.08;
    double supply = 5;      ///< of the load
    double pin_voltage = 5; ///< of the pin when it is high
    double pin_limit = 0.02;
};
enum class LoadWay { pin, transistor, mosfet };
struct LoadResult {
    LoadWay way = LoadWay::pin;
    double base_ohms = 0; ///< with a transistor
    double base_amperes = 0;
    bool diode = false;
    double diode_amperes = 0, diode_volts = 0; ///< what it must bear
};
LoadResult size_load(const LoadTask& task);

/// What a contact may switch for long, of what is printed on it.
double contact_share(LoadKind kind);

/// "3.3 kohm", "47 ohm", "1 Mohm": a resistance as it is printed on a bag, to three digits.
std::string ohms_text(double ohms);
/// "12.5 mA", "1.2 A", "80 uA".
std::string amperes_text(double amperes);
/// "250 mW", "1.5 W".
std::string watts_text(double watts);

} // namespace zorilla::bench
