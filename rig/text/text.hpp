// SPDX-License-Identifier: MIT
/// \file
/// Quantities as text, in and out, and words close to other words.
#pragma once

#include <zorilla/drive/claim.hpp>
#include <zorilla/units/units.hpp>

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::rig {

struct Unit;

/// What kind of quantity a number is.
enum class Kind : uint8_t {
    temperature,
    temperature_difference,
    resistance,
    duration,
    voltage,
    voltage_per_kelvin,
    percentage,
    percent_per_kelvin,
    humidity,
    voltage_per_humidity,
    light,
    current_per_light,
    length,
    concentration,
    turning_speed,
    frequency,
    absolute_humidity,
    air_flow,
    power,
    current,
    heat_loss, ///< power for each degree that it warms by
    counts,    ///< codes of a converter as they are
    heat_capacity,
    volume,
    water_flow,
    vapour, ///< water that evaporates, by its weight
    gas_flow,
    area,
    evaporation,     ///< by how much a level sinks
    truth,           ///< yes (1,000 thousandths) or no
    per_minute = 64, ///< added to one of the others: its change in a minute
};

constexpr Kind per_minute_of(Kind kind) {
    return static_cast<Kind>(static_cast<uint8_t>(kind) | static_cast<uint8_t>(Kind::per_minute));
}
/// What two values of a kind differ by.
constexpr Kind difference_of(Kind kind) {
    return kind == Kind::temperature ? Kind::temperature_difference : kind;
}

/// A quantity read from text, or a sentence that says what is wrong and what to write instead.
struct QuantityText {
    int32_t thousandths = 0;
    std::string problem; ///< empty if the text was understood
};

/// Reads texts such as "4 degC", "39 degF", "10 kohm", "2 min", "3950 K". The value is rounded to
/// thousandths exactly as a literal of the C++ core is.
/// \param example  what to show where the text cannot be understood, such as "4 degC"
QuantityText parse_quantity(std::string_view text, Kind kind, std::string_view example);

/// Which kind the unit of a text belongs to, if any: "25 cm" is a length.
bool kind_of(std::string_view text, Kind& kind);

/// A plausible value of a kind, such as "4 degC", for messages.
std::string_view example_of(Kind kind);
/// "a temperature", "a relative humidity".
std::string name_of(Kind kind);
/// The unit in which values are shown: "degC", "%RH", "mm", "K/min".
std::string unit_of(Kind kind);
/// "temperature", "light": what an axis is called.
std::string quantity_of(Kind kind);

/// What a kind is called in C++, "Temperature", and the literal of the unit in which thousandths
/// are counted, "degC"; empty if the core has none.
std::string_view cpp_type_of(Kind kind);
std::string_view cpp_literal_of(Kind kind);

/// A value as formulas take it: degC, ohm, V, A, s, W/K, and otherwise the unit in which it is
/// shown.
double in_formulas(int32_t thousandths, Kind kind);

/// The unit in which thousandths are counted, whatever is shown: that of files.
std::string stored_unit_of(Kind kind);
/// A value as it is shown, for a figure.
double shown_value(int32_t thousandths, Kind kind);

/// While this lives, values are shown in these units ("degF") where they fit, instead of the first
/// of their kind. What they mean stays the same. \param units  those not known are left out
class ShownUnits {
  public:
    explicit ShownUnits(const std::vector<std::string>& units);
    ~ShownUnits();
    ShownUnits(const ShownUnits&) = delete;
    ShownUnits& operator=(const ShownUnits&) = delete;
    /// Whether there is such a unit.
    static bool is_unit(std::string_view name);

  private:
    std::vector<const Unit*> before_; ///< what was shown until then, and is again afterwards
};

/// "4.25 degC"; the thousandths are cut to the digits needed, at least `decimals` of them.
std::string to_text(int32_t thousandths, Kind kind, int decimals = 0);
/// The same to the last thousandth and in a unit that is always understood, for a file.
std::string exact_text(int32_t thousandths, Kind kind);
/// A measured value, with as many digits as make sense: "3.921 degC", "61.5 %RH", "1,204 lx".
std::string reading_text(int32_t thousandths, Kind kind);
/// The same with as many decimals as it takes to show it on the side of each point that it is on.
std::string reading_text(int32_t thousandths, Kind kind, const std::vector<int32_t>& points);
/// "10 kohm", "330 ohm".
std::string to_text(Resistance r);
/// "2 min 30 s", "1 d 3 h", "250 ms", for any whole number of milliseconds.
std::string span_to_text(int64_t milliseconds);
inline std::string span_to_text(Duration time) { return span_to_text(time.thousandths()); }
/// "1d 06:30:05", with ".250" behind it where there are thousandths.
std::string time_to_text(int64_t milliseconds);

/// "open circuit" and the like.
std::string_view to_text(Health health);
/// What a sensor has that is not healthy: "an open circuit".
std::string with_article(Health health);
/// "yes", "no", "unknown".
std::string_view to_text(Truth truth);
/// "on", "off".
std::string_view to_text(OnOff value);

/// "1,234,567".
std::string count_to_text(uint64_t count);

/// Without the blanks and tabs at its ends.
std::string_view without_blanks(std::string_view text);

/// The candidate that a mistyped word is closest to; empty if none is close.
std::string nearest(std::string_view word, const std::vector<std::string>& candidates);

/// "; did you mean "sense"?", or nothing.
std::string suggestion(std::string_view word, const std::vector<std::string>& candidates);

} // namespace zorilla::rig
