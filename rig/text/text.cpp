// SPDX-License-Identifier: MIT
#include "rig/text/kinds.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <iterator>
#include <optional>
#include <utility>

namespace zorilla::rig {

std::string_view without_blanks(std::string_view text) {
    while (!text.empty() && (text.front() == ' ' || text.front() == '\t'))
        text.remove_prefix(1);
    while (!text.empty() && (text.back() == ' ' || text.back() == '\t'))
        text.remove_suffix(1);
    return text;
}

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

namespace {

/// The unit to show instead of the first of a kind, if any.
thread_local std::array<const Unit*, kind_count> shown_units{};
const Unit* shown_unit(Kind kind) { return shown_units[static_cast<size_t>(without_minute(kind))]; }

/// Letters that are put in, left out, changed, or swapped with the one beside them. (Optimal string
/// alignment: L. Boytsov, Indexing methods for approximate dictionary searching, section 2.)
size_t edits_between(std::string_view a, std::string_view b) {
    std::vector<size_t> row(b.size() + 1), above, further;
    for (size_t j = 0; j <= b.size(); ++j)
        row[j] = j;
    for (size_t i = 1; i <= a.size(); ++i) {
        further = std::move(above);
        above = row;
        row[0] = i;
        for (size_t j = 1; j <= b.size(); ++j) {
            const size_t change = above[j - 1] + (a[i - 1] == b[j - 1] ? 0 : 1);
            row[j] = std::min({change, above[j] + 1, row[j - 1] + 1});
            if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                row[j] = std::min(row[j], further[j - 2] + 1);
        }
    }
    return row[b.size()];
}

} // namespace

std::string_view example_of(Kind kind) {
    if (!is_per_minute(kind))
        return row_of(kind).example;
    static std::string examples[kind_count];
    std::string& out = examples[static_cast<size_t>(without_minute(kind))];
    out = fmt::format("{}/min", row_of(kind).example);
    return out;
}

std::string quantity_of(Kind kind) {
    return fmt::format("{}{}", is_per_minute(kind) ? "change of " : "", row_of(kind).quantity);
}

std::string name_of(Kind kind) {
    const std::string quantity = quantity_of(kind);
    if (kind == Kind::truth)
        return quantity;
    return fmt::format("{} {}", quantity[0] == 'a' || quantity[0] == 'i' ? "an" : "a", quantity);
}

std::string_view cpp_type_of(Kind kind) { return row_of(kind).type; }
std::string_view cpp_literal_of(Kind kind) { return row_of(kind).literal; }

double in_formulas(int32_t thousandths, Kind kind) { return thousandths / row_of(kind).formula; }

std::string stored_unit_of(Kind kind) {
    for (const Unit& unit : Units())
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

ShownUnits::ShownUnits(const std::vector<std::string>& names)
    : before_(shown_units.begin(), shown_units.end()) {
    shown_units = {};
    for (const std::string& name : names)
        for (const Unit& unit : Units())
            if (unit.name == name)
                shown_units[static_cast<size_t>(unit.kind)] = &unit;
}
ShownUnits::~ShownUnits() { std::copy(before_.begin(), before_.end(), shown_units.begin()); }
bool ShownUnits::is_unit(std::string_view name) {
    return std::any_of(Units().begin(), Units().end(),
                       [name](const Unit& unit) { return unit.name == name; });
}

bool kind_of(std::string_view text, Kind& kind) {
    const std::string_view whole = without_blanks(text);
    const std::string_view unit = without_blanks(
        whole.substr(std::min(whole.find_first_not_of("+-0123456789."), whole.size())));
    for (const Unit& candidate : Units())
        if (candidate.name == unit) {
            kind = candidate.kind;
            return true;
        }
    return false;
}

/// "2 h 11 min", as spans of time are told: a larger part before a smaller. Nothing if it is not
/// so.
static std::optional<int32_t> span_of_parts(std::string_view text) {
    const size_t unit = text.find_first_not_of("0123456789. ");
    const size_t second = text.find_first_of("0123456789", std::min(unit, text.size()));
    if (second == std::string_view::npos)
        return std::nullopt;
    const QuantityText first = parse_quantity(text.substr(0, second), Kind::duration, "2 min");
    const QuantityText rest = parse_quantity(text.substr(second), Kind::duration, "2 min");
    const QuantityText one = parse_quantity(fmt::format("1 {}", text.substr(unit, second - unit)),
                                            Kind::duration, "2 min");
    const int64_t sum = int64_t{first.thousandths} + rest.thousandths;
    return first.problem.empty() && rest.problem.empty() && rest.thousandths < one.thousandths &&
                   sum <= INT32_MAX
               ? std::optional(static_cast<int32_t>(sum))
               : std::nullopt;
}

QuantityText parse_quantity(std::string_view text, Kind kind, std::string_view example) {
    const std::string_view whole = without_blanks(text);
    if (kind == Kind::duration)
        if (const auto span = span_of_parts(whole))
            return {*span, {}};
    const size_t number_size = std::min(whole.find_first_not_of("+-0123456789."), whole.size());
    const std::string_view number = whole.substr(0, number_size);
    std::string_view unit = without_blanks(whole.substr(number_size));
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
    const bool is_whole = std::any_of(Units().begin(), Units().end(),
                                      [&](const Unit& one) { return one.name == unit; });
    const bool has_minute = !is_whole && unit.size() > per_minute.size() &&
                            unit.substr(unit.size() - per_minute.size()) == per_minute;
    if (has_minute)
        unit.remove_suffix(per_minute.size());
    const Kind plain = without_minute(kind);
    const Unit* found = nullptr;
    const Unit* other = nullptr;
    std::vector<std::string> names;
    for (const Unit& candidate : Units()) {
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
            near = std::string(without_blanks(example.substr(example.find(' '))));
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

int64_t shown_thousandths(int32_t thousandths, Kind kind) {
    const Unit* unit = shown_unit(kind);
    if (unit == nullptr)
        return int64_t{thousandths};
    const double shown = shown_value(thousandths, kind) * 1000;
    for (const int64_t step : {1000, 100, 10}) {
        const int64_t rounded = std::llround(shown / static_cast<double>(step)) * step;
        const Scaled back = scale_decimal({rounded, 3, true}, unit->scale);
        if (back.fits && back.stored == thousandths)
            return rounded;
    }
    return std::llround(shown);
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
    for (const Unit& unit : Units())
        if (unit.kind == without_minute(kind) && unit.scale.zero_in_hundredths == 0 &&
            unit.scale.denominator == 1 && thousandths % unit.scale.numerator == 0 &&
            (best == nullptr || unit.scale.numerator > best->scale.numerator))
            best = &unit;
    if (best == nullptr || thousandths == 0)
        return fmt::format("{} {}", decimal_text(thousandths, 0), stored_unit_of(kind));
    return fmt::format("{} {}{}", thousandths / best->scale.numerator, best->name,
                       is_per_minute(kind) ? "/min" : "");
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

std::string with_article(Health health) {
    switch (health) {
    case Health::open_circuit: return "an open circuit";
    case Health::short_circuit: return "a short circuit";
    case Health::out_of_range: return "a reading out of its range";
    case Health::warming: return "to warm up first";
    case Health::stale: return "a stale reading";
    case Health::bad_frame: return "a bad frame";
    case Health::no_echo: return "no echo";
    case Health::too_near: return "an echo from too near";
    case Health::too_far: return "an echo from too far";
    case Health::implausible: return "an implausible reading";
    case Health::stuck: return "a stuck reading";
    case Health::ok:
    case Health::missing: break;
    }
    return "no reading";
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
