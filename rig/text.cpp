// SPDX-License-Identifier: MIT
#include "rig/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

namespace zorilla::rig {

namespace {

struct Unit {
    std::string_view name;
    Kind kind;
    UnitScale scale;
};

constexpr int32_t thousand = 1000;

// Names first, other spellings after them; the first of a kind is the one to suggest.
constexpr std::array<Unit, 25> units = {{
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
    {"min", Kind::duration, {60'000, 1, 0}},
    {"s", Kind::duration, {1000, 1, 0}},
    {"ms", Kind::duration, {1, 1, 0}},
    {"h", Kind::duration, {3'600'000, 1, 0}},
    {"d", Kind::duration, {86'400'000, 1, 0}},
    {"V", Kind::voltage, {1'000'000, 1, 0}},
    {"mV", Kind::voltage, {1000, 1, 0}},
    {"mV/K", Kind::slope, {1000, 1, 0}},
    {"mV/degC", Kind::slope, {1000, 1, 0}},
    {"mV/degF", Kind::slope, {1800, 1, 0}},
}};

std::string_view name_of(Kind kind) {
    switch (kind) {
    case Kind::temperature: return "a temperature";
    case Kind::temperature_difference: return "a temperature difference";
    case Kind::resistance: return "a resistance";
    case Kind::duration: return "a duration";
    case Kind::voltage: return "a voltage";
    case Kind::slope: break;
    }
    return "a voltage for each degree";
}

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

QuantityText parse_quantity(std::string_view text, Kind kind, std::string_view example) {
    const std::string_view whole = trimmed(text);
    const size_t number_size = std::min(whole.find_first_not_of("+-0123456789."), whole.size());
    const std::string_view number = whole.substr(0, number_size);
    const std::string_view unit = trimmed(whole.substr(number_size));
    const Decimal written = parse_decimal(number.data(), number.size());

    if (unit.empty() && written.valid)
        return {0, fmt::format("\"{}\" has no unit; write for example \"{}\"", text, example)};
    if (!written.valid)
        return {0, fmt::format("\"{}\" is not a number with a unit; write for example \"{}\"", text,
                               example)};

    const Unit* found = nullptr;
    const Unit* other = nullptr;
    std::vector<std::string> names;
    for (const Unit& candidate : units) {
        if (candidate.kind == kind)
            names.emplace_back(candidate.name);
        if (candidate.name != unit)
            continue;
        if (candidate.kind == kind)
            found = &candidate;
        else if (other == nullptr)
            other = &candidate;
    }
    if (found == nullptr && other != nullptr)
        return {0, fmt::format("\"{}\" is {}, but here {} is needed; write for example \"{}\"",
                               text, name_of(other->kind), name_of(kind), example)};
    if (found == nullptr) {
        std::string near = nearest(unit, names);
        if (near.empty())
            near = std::string(trimmed(example.substr(example.find(' '))));
        return {0, fmt::format("\"{}\": there is no unit \"{}\" for {}; did you mean \"{} {}\"?",
                               text, unit, name_of(kind), number, near)};
    }
    const Scaled scaled = scale_decimal(written, found->scale);
    if (!scaled.fits)
        return {0, fmt::format("\"{}\" is too large to be {}; write for example \"{}\"", text,
                               name_of(kind), example)};
    return {scaled.stored, {}};
}

std::string to_text(Temperature t, int decimals) {
    return decimal_text(t.thousandths(), decimals) + " degC";
}

std::string to_text(Resistance r) {
    const int32_t ohms = r.thousandths();
    if (ohms % 100 != 0 || ohms < 1000)
        return fmt::format("{} ohm", ohms);
    return decimal_text(ohms, 0) + " kohm";
}

std::string to_text(TemperatureDifference d) { return decimal_text(d.thousandths(), 0) + " K"; }

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
    case Health::out_of_range: break;
    }
    return "out of range";
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
