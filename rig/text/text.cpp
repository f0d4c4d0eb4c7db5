// SPDX-License-Identifier: MIT
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <iterator>
#include <utility>

namespace zorilla::rig {

namespace {

struct Unit {
    std::string_view name;
    Kind kind;
    UnitScale scale;
};

constexpr int32_t thousand = 1000;

// Names first, other spellings after them; the first of a kind is the one to show and to suggest.
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
    {"counts", Kind::counts, {1000, 1, 0}},
    {"count", Kind::counts, {1000, 1, 0}},
};

struct KindText {
    Kind kind;
    std::string_view quantity;
    std::string_view example;
    int digits; ///< decimals of a measured value, at most
};
constexpr KindText kinds[] = {
    {Kind::temperature, "temperature", "4 degC", 3},
    {Kind::temperature_difference, "temperature difference", "2 K", 3},
    {Kind::resistance, "resistance", "10 kohm", 3},
    {Kind::duration, "duration", "2 min", 3},
    {Kind::voltage, "voltage", "5 V", 3},
    {Kind::voltage_per_kelvin, "voltage for each degree", "10 mV/K", 3},
    {Kind::percentage, "percentage", "40 %", 1},
    {Kind::percent_per_kelvin, "percentage for each degree", "0.22 %/K", 3},
    {Kind::humidity, "relative humidity", "70 %RH", 1},
    {Kind::voltage_per_humidity, "voltage for each percent of humidity", "31 mV/%RH", 3},
    {Kind::light, "illuminance", "200 lx", 1},
    {Kind::current_per_light, "current for each lux", "500 nA/lx", 3},
    {Kind::length, "length", "300 mm", 1},
    {Kind::concentration, "concentration", "25 ppm", 1},
    {Kind::turning_speed, "turning speed", "1200 rpm", 1},
    {Kind::frequency, "frequency", "50 Hz", 2},
    {Kind::absolute_humidity, "absolute humidity", "9 g/m3", 2},
    {Kind::air_flow, "flow of air", "80 m3/h", 1},
    {Kind::power, "power", "150 W", 1},
    {Kind::current, "current", "20 mA", 3},
    {Kind::heat_loss, "heat lost for each degree", "2 mW/K", 3},
    {Kind::counts, "number of counts", "512 counts", 0},
    {Kind::truth, "yes or no", "", 0},
};

bool is_per_minute(Kind kind) { return kind >= Kind::per_minute; }
Kind without_minute(Kind kind) {
    return static_cast<Kind>(static_cast<uint8_t>(kind) & ~static_cast<uint8_t>(Kind::per_minute));
}
const KindText& text_of(Kind kind) { return kinds[static_cast<size_t>(without_minute(kind))]; }

std::string_view trimmed(std::string_view text) {
    while (!text.empty() && (text.front() == ' ' || text.front() == '\t'))
        text.remove_prefix(1);
    while (!text.empty() && (text.back() == ' ' || text.back() == '\t'))
        text.remove_suffix(1);
    return text;
}

/// A decimal number without needless zeros, but with at least `decimals` places.
std::string decimal_text(int64_t thousandths, int decimals) {
    const int64_t size = thousandths < 0 ? -thousandths : thousandths;
    std::string out =
        fmt::format("{}{}.{:03}", thousandths < 0 ? "-" : "", size / 1000, size % 1000);
    int drop = 3 - decimals;
    while (drop-- > 0 && out.back() == '0')
        out.pop_back();
    if (out.back() == '.')
        out.pop_back();
    return out;
}

/// The unit to show instead of the first of a kind, if any.
std::array<const Unit*, std::size(kinds)> shown_units{};
const Unit* shown_unit(Kind kind) { return shown_units[static_cast<size_t>(without_minute(kind))]; }

size_t edits_between(std::string_view a, std::string_view b) {
    std::vector<size_t> row(b.size() + 1);
    for (size_t j = 0; j <= b.size(); ++j)
        row[j] = j;
    for (size_t i = 1; i <= a.size(); ++i) {
        size_t diagonal = row[0];
        row[0] = i;
        for (size_t j = 1; j <= b.size(); ++j) {
            const size_t change = diagonal + (a[i - 1] == b[j - 1] ? 0 : 1);
            diagonal = row[j];
            row[j] = std::min({change, row[j] + 1, row[j - 1] + 1});
        }
    }
    return row[b.size()];
}

} // namespace

std::string_view example_of(Kind kind) {
    if (!is_per_minute(kind))
        return text_of(kind).example;
    static std::string examples[std::size(kinds)];
    std::string& out = examples[static_cast<size_t>(without_minute(kind))];
    out = fmt::format("{}/min", text_of(kind).example);
    return out;
}

std::string quantity_of(Kind kind) {
    return fmt::format("{}{}", is_per_minute(kind) ? "change of " : "", text_of(kind).quantity);
}

std::string name_of(Kind kind) {
    const std::string quantity = quantity_of(kind);
    if (kind == Kind::truth)
        return quantity;
    return fmt::format("{} {}", quantity[0] == 'a' || quantity[0] == 'i' ? "an" : "a", quantity);
}

std::string stored_unit_of(Kind kind) {
    for (const Unit& unit : units)
        if (unit.kind == without_minute(kind))
            return fmt::format("{}{}", unit.name, is_per_minute(kind) ? "/min" : "");
    return {};
}

std::string unit_of(Kind kind) {
    const Unit* shown = shown_unit(kind);
    return shown == nullptr ? stored_unit_of(kind)
                            : fmt::format("{}{}", shown->name, is_per_minute(kind) ? "/min" : "");
}

double shown_value(int32_t thousandths, Kind kind) {
    const Unit* shown = shown_unit(kind);
    // The first unit of each kind counts in thousandths.
    return shown == nullptr ? thousandths / 1000.0
                            : static_cast<double>(thousandths) * shown->scale.denominator /
                                      shown->scale.numerator +
                                  static_cast<double>(shown->scale.zero_in_hundredths) / 100.0;
}

ShownUnits::ShownUnits(const std::vector<std::string>& names) {
    for (const std::string& name : names)
        for (const Unit& unit : units)
            if (unit.name == name)
                shown_units[static_cast<size_t>(unit.kind)] = &unit;
}
ShownUnits::~ShownUnits() { shown_units = {}; }
bool ShownUnits::is_unit(std::string_view name) {
    return std::any_of(std::begin(units), std::end(units),
                       [name](const Unit& unit) { return unit.name == name; });
}

bool kind_of(std::string_view text, Kind& kind) {
    const std::string_view whole = trimmed(text);
    const std::string_view unit =
        trimmed(whole.substr(std::min(whole.find_first_not_of("+-0123456789."), whole.size())));
    for (const Unit& candidate : units)
        if (candidate.name == unit) {
            kind = candidate.kind;
            return true;
        }
    return false;
}

QuantityText parse_quantity(std::string_view text, Kind kind, std::string_view example) {
    const std::string_view whole = trimmed(text);
    const size_t number_size = std::min(whole.find_first_not_of("+-0123456789."), whole.size());
    const std::string_view number = whole.substr(0, number_size);
    std::string_view unit = trimmed(whole.substr(number_size));
    const Decimal written = parse_decimal(number.data(), number.size());

    // What people write otherwise.
    if (const size_t comma = whole.find(','); comma != std::string_view::npos) {
        std::string pointed(whole);
        pointed[comma] = '.';
        const QuantityText read = pointed.find(',') == std::string::npos
                                      ? parse_quantity(pointed, kind, example)
                                      : QuantityText{0, "no"};
        if (read.problem.empty())
            return {0, fmt::format("\"{}\" has a comma in its number; write \"{}\", with a point",
                                   text, pointed)};
    }
    if (unit.empty() && written.valid)
        return {0, fmt::format("\"{}\" has no unit; write for example \"{}\"", text, example)};
    if (!written.valid)
        return {0, fmt::format("\"{}\" is not a number with a unit; write for example \"{}\"", text,
                               example)};

    constexpr std::string_view per_minute = "/min";
    const bool has_minute = unit.size() > per_minute.size() &&
                            unit.substr(unit.size() - per_minute.size()) == per_minute;
    if (has_minute)
        unit.remove_suffix(per_minute.size());
    const Kind plain = without_minute(kind);
    const Unit* found = nullptr;
    const Unit* other = nullptr;
    std::vector<std::string> names;
    for (const Unit& candidate : units) {
        if (candidate.kind == plain)
            names.push_back(fmt::format("{}{}", candidate.name, is_per_minute(kind) ? "/min" : ""));
        if (candidate.name != unit)
            continue;
        if (candidate.kind == plain && has_minute == is_per_minute(kind))
            found = &candidate;
        else if (other == nullptr)
            other = &candidate;
    }
    if (found == nullptr && other != nullptr)
        return {0, fmt::format("\"{}\" is {}, but here {} is needed; write for example \"{}\"",
                               text, name_of(has_minute ? per_minute_of(other->kind) : other->kind),
                               name_of(kind), example)};
    if (found == nullptr) {
        constexpr std::pair<std::string_view, std::string_view> usual[] = {
            {"C", "degC"},     {"c", "degC"},      {"celsius", "degC"}, {"F", "degF"},
            {"f", "degF"},     {"sec", "s"},       {"secs", "s"},       {"seconds", "s"},
            {"minute", "min"}, {"minutes", "min"}, {"mins", "min"},     {"m", "min"},
            {"hour", "h"},     {"hours", "h"},     {"hr", "h"},         {"day", "d"},
            {"days", "d"},     {"k", "kohm"},      {"R", "ohm"},        {"ohms", "ohm"},
            {"lux", "lx"},     {"percent", "%"},   {"RH", "%RH"},       {"RPM", "rpm"},
            {"hz", "Hz"},      {"msec", "ms"},     {"volt", "V"},       {"volts", "V"}};
        for (const auto& [word, meant] : usual)
            if (unit == word && std::find(names.begin(), names.end(), meant) != names.end())
                return {0, fmt::format(
                               "\"{}\": there is no unit \"{}\" for {}; did you mean \"{} {}\"?",
                               text, unit, name_of(kind), number, meant)};
        std::string near = nearest(fmt::format("{}{}", unit, has_minute ? per_minute : ""), names);
        if (near.empty())
            near = std::string(trimmed(example.substr(example.find(' '))));
        return {0,
                fmt::format("\"{}\": there is no unit \"{}{}\" for {}; did you mean \"{} {}\"?",
                            text, unit, has_minute ? per_minute : "", name_of(kind), number, near)};
    }
    const Scaled scaled = scale_decimal(written, found->scale);
    if (!scaled.fits)
        return {0, fmt::format("\"{}\" is too large to be {}; write for example \"{}\"", text,
                               name_of(kind), example)};
    if (scaled.stored == 0 && found->scale.zero_in_hundredths == 0 &&
        number.find_first_of("123456789") != std::string_view::npos)
        return {0,
                fmt::format("\"{}\" is less than a thousandth, the finest that can be told of {}; "
                            "write for example \"{}\"",
                            text, name_of(kind), example)};
    if (kind == Kind::temperature && scaled.stored < -273'150)
        return {0, fmt::format("\"{}\" lies below absolute zero; write for example \"{}\"", text,
                               example)};
    return {scaled.stored, {}};
}

static int64_t shown_thousandths(int32_t thousandths, Kind kind) {
    return shown_unit(kind) == nullptr ? int64_t{thousandths}
                                       : std::llround(shown_value(thousandths, kind) * 1000);
}

std::string to_text(int32_t thousandths, Kind kind, int decimals) {
    if (kind == Kind::truth)
        return thousandths != 0 ? "yes" : "no";
    return fmt::format("{} {}", decimal_text(shown_thousandths(thousandths, kind), decimals),
                       unit_of(kind));
}

std::string exact_text(int32_t thousandths, Kind kind) {
    // The largest unit that leaves a whole number; else the one in which thousandths are counted.
    const Unit* best = nullptr;
    for (const Unit& unit : units)
        if (unit.kind == without_minute(kind) && unit.scale.zero_in_hundredths == 0 &&
            unit.scale.denominator == 1 && thousandths % unit.scale.numerator == 0 &&
            (best == nullptr || unit.scale.numerator > best->scale.numerator))
            best = &unit;
    if (best == nullptr || thousandths == 0)
        return fmt::format("{} {}", decimal_text(thousandths, 0), stored_unit_of(kind));
    return fmt::format("{} {}{}", thousandths / best->scale.numerator, best->name,
                       is_per_minute(kind) ? "/min" : "");
}

std::string reading_text(int32_t thousandths, Kind kind) {
    const int digits = text_of(kind).digits;
    if (digits == 3 || kind == Kind::truth)
        return to_text(thousandths, kind, digits);
    // Large values with fewer decimals than small ones.
    const int64_t value = shown_thousandths(thousandths, kind);
    const int64_t size = value < 0 ? -value : value;
    const int shown = size >= 1'000'000 ? 0 : digits;
    const int64_t step = shown == 0 ? 1000 : shown == 1 ? 100 : 10;
    const int64_t rounded = divide_rounded(value, step) * step;
    return fmt::format("{} {}", decimal_text(rounded, shown), unit_of(kind));
}

std::string to_text(Resistance r) {
    const int32_t ohms = r.thousandths();
    if (ohms % 100 != 0 || ohms < 1000)
        return fmt::format("{} ohm", ohms);
    return decimal_text(ohms, 0) + " kohm";
}

std::string span_to_text(int64_t milliseconds) {
    struct Part {
        int64_t size;
        std::string_view name;
    };
    constexpr std::array<Part, 4> parts = {
        {{86'400'000, "d"}, {3'600'000, "h"}, {60'000, "min"}, {1000, "s"}}};
    std::string out;
    int64_t left = milliseconds;
    for (const Part& part : parts) {
        if (left >= part.size)
            out += fmt::format("{}{} {}", out.empty() ? "" : " ", left / part.size, part.name);
        left %= part.size;
    }
    if (left != 0 || out.empty())
        out += fmt::format("{}{} {}", out.empty() ? "" : " ", left, milliseconds == 0 ? "s" : "ms");
    return out;
}

std::string time_to_text(int64_t milliseconds) {
    const bool negative = milliseconds < 0;
    const int64_t size = negative ? -milliseconds : milliseconds;
    const int64_t seconds = size / 1000;
    std::string out = fmt::format("{}{}d {:02}:{:02}:{:02}", negative ? "-" : "", seconds / 86'400,
                                  seconds / 3600 % 24, seconds / 60 % 60, seconds % 60);
    if (size % 1000 != 0)
        out += fmt::format(".{:03}", size % 1000);
    return out;
}

std::string_view to_text(Health health) {
    switch (health) {
    case Health::ok: return "ok";
    case Health::missing: return "missing";
    case Health::open_circuit: return "open circuit";
    case Health::short_circuit: return "short circuit";
    case Health::out_of_range: return "out of range";
    case Health::warming: return "warming up";
    case Health::stale: return "stale";
    case Health::bad_frame: return "bad frame";
    case Health::no_echo: return "no echo";
    case Health::too_near: return "too near";
    case Health::too_far: return "too far";
    case Health::implausible: return "implausible";
    case Health::stuck: break;
    }
    return "stuck";
}

std::string_view to_text(Truth truth) {
    switch (truth) {
    case Truth::no: return "no";
    case Truth::yes: return "yes";
    case Truth::unknown: break;
    }
    return "unknown";
}

std::string_view to_text(OnOff value) { return value == on ? "on" : "off"; }

std::string count_to_text(uint64_t count) {
    std::string out = std::to_string(count);
    for (size_t at = out.size(); at > 3; at -= 3)
        out.insert(at - 3, ",");
    return out;
}

std::string nearest(std::string_view word, const std::vector<std::string>& candidates) {
    std::string best;
    size_t least = std::max<size_t>(1, word.size() / 3) + 1;
    for (const std::string& candidate : candidates) {
        const size_t edits = edits_between(word, candidate);
        if (edits < least) {
            least = edits;
            best = candidate;
        }
    }
    return best;
}

std::string suggestion(std::string_view word, const std::vector<std::string>& candidates) {
    const std::string near = nearest(word, candidates);
    return near.empty() ? std::string() : fmt::format("; did you mean \"{}\"?", near);
}

} // namespace zorilla::rig
