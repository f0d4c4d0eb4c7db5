// SPDX-License-Identifier: MIT
// What elements share, and the list of their kinds.
#include "bench/world/elements/elements.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace zorilla::bench {

const std::vector<ElementKind>& element_kinds() {
    static const std::vector<ElementKind> all = {
        weather_element(), warmth_element(), air_element(),     gas_element(),
        tank_element(),    light_element(),  turning_element(), people_element()};
    return all;
}

uint64_t stream_of(std::string_view name) {
    uint64_t out = 0;
    for (const char c : name)
        out = mixed(out, static_cast<unsigned char>(c));
    return out;
}

std::vector<Acting> actings(rig::TableReader& keys, std::string_view key, std::string_view amount,
                            rig::Kind kind, WorldScope& scope,
                            const std::vector<rig::PartKey>& more,
                            const std::function<void(rig::TableReader&, Acting&)>& each) {
    std::vector<Acting> out;
    const std::string example = fmt::format("[ {{ {} = \"{}\" }} ]", amount, rig::example_of(kind));
    const rig::Node* all = keys.find(key) == nullptr ? nullptr : keys.list(key, 1, 32, example);
    const std::string word(amount);
    for (size_t i = 0; all != nullptr && i < all->size(); ++i) {
        const rig::Node& one = (*all)[i];
        if (!one.is_table()) {
            scope.findings->add(one, fmt::format("each of \"{}\" must be a table; for example {} "
                                                 "= {}",
                                                 key, key, example));
            continue;
        }
        rig::TableReader entry(one, fmt::format("{} of {}", key, keys.label()), *scope.findings,
                               {{"by", "\"heat_lamp\""}, {word.c_str(), ""}});
        entry.allow(more);
        const auto value = entry.required_quantity(word, kind, rig::example_of(kind), "how much");
        Acting acting = scope.acting(entry);
        acting.amount = rig::in_formulas(value.value_or(0), kind);
        if (value && kind != rig::Kind::light)
            entry.expect(*value >= 0, word, "0 or above");
        if (each)
            each(entry, acting);
        entry.finish();
        out.push_back(std::move(acting));
    }
    return out;
}

namespace {

/// "07:30", "07:30:05", and "1d 11:00" of one day only.
bool parse_clock(const std::string& text, bool& daily, double& seconds) {
    int days = 0, hours = 0, minutes = 0, rest = 0, end = 0;
    daily = text.find('d') == std::string::npos;
    const char* from = text.c_str();
    if (!daily) {
        if (std::sscanf(from, "%dd%n", &days, &end) != 1 || days < 0 || days > 100'000)
            return false;
        from += end;
        end = 0;
        while (*from == ' ')
            ++from;
    }
    const bool has_seconds =
        std::sscanf(from, "%2d:%2d:%2d%n", &hours, &minutes, &rest, &end) == 3 && from[end] == 0;
    if (!has_seconds) {
        rest = end = 0;
        if (std::sscanf(from, "%2d:%2d%n", &hours, &minutes, &end) != 2 || from[end] != 0)
            return false;
    }
    if (hours < 0 || hours > 23 || minutes < 0 || minutes > 59 || rest < 0 || rest > 59)
        return false;
    seconds = ((days * 24.0 + hours) * 60 + minutes) * 60 + rest;
    return true;
}

} // namespace

std::optional<double> clock_time(rig::TableReader& keys, std::string_view key) {
    const auto text = keys.text(key, "05:00");
    bool daily = true;
    double seconds = 0;
    if (text && (!parse_clock(*text, daily, seconds) || !daily)) {
        keys.findings().add(
            *keys.table().get(key),
            fmt::format("\"{}\" must be a time of the day, such as {} = \"05:00\"", key, key));
        return std::nullopt;
    }
    return text ? std::optional(seconds) : std::nullopt;
}

const std::vector<rig::PartKey>& Schedule::keys() {
    static const std::vector<rig::PartKey> all = {
        {"at", "[\"07:30\", \"1d 11:00\"]"}, {"times_a_day", "2"}, {"for", "\"1 s\""}};
    return all;
}

void Schedule::read(rig::TableReader& keys, std::string_view usual_length) {
    const rig::Node* list =
        keys.find("at") == nullptr ? nullptr : keys.list("at", 1, 256, "[\"07:30\", \"1d 11:00\"]");
    for (size_t i = 0; list != nullptr && i < list->size(); ++i) {
        const std::string* text = (*list)[i].as_text();
        Entry entry{};
        if (text != nullptr && parse_clock(*text, entry.daily, entry.at))
            entries_.push_back(entry);
        else
            keys.findings().add((*list)[i],
                                "a time is one of every day, such as \"07:30\", or of one day, "
                                "such as \"1d 11:00\": day 0 is the first");
    }
    if (const auto often = keys.ratio("times_a_day");
        often &&
        keys.expect(*often > 0 && *often <= 1'000'000, "times_a_day", "above 0 and at most 1,000"))
        cell_ = 86'400e3 / *often;
    const auto length = keys.quantity("for", rig::Kind::duration, usual_length);
    length_ =
        length ? *length / 1000.0
               : rig::parse_quantity(usual_length, rig::Kind::duration, "1 s").thousandths / 1000.0;
    if (length)
        keys.expect(*length > 0, "for", "above 0");
    if (cell_ > 0 && length_ > cell_)
        keys.expect(false, "for", "shorter than the time from one to the next");
}

namespace {

/// How many come where one comes on average, for an even chance from 0 to 1.
int poisson_of_one(double even) {
    double share = std::exp(-1.0), sum = share;
    int out = 0;
    while (even >= sum && out < 20) {
        share /= ++out;
        sum += share;
    }
    return out;
}

} // namespace

bool Schedule::at(const Moment& moment, double& until) const {
    constexpr double day = 86'400;
    bool is = false;
    until = Element::for_ever;
    // Each of them is on from `since` = 0 to its length.
    const auto look = [&](double since, double again) {
        const bool now = since >= 0 && since < length_;
        is = is || now;
        const double next = now ? length_ - since : since < 0 ? -since : again - since;
        until = std::min(until, moment.seconds + next);
    };
    for (const Entry& entry : entries_) {
        const double since = moment.of_day - entry.at;
        if (entry.daily)
            look(since - std::floor(since / day) * day, day);
        else
            look(since, Element::for_ever);
    }
    if (cell_ <= 0)
        return is;
    // Independent of each other: in each cell of time, of which each has one on average, so many as
    // a Poisson distribution gives, anywhere in it. One may last on into the next cell.
    const auto cell = static_cast<int64_t>(moment.seconds / cell_);
    for (int64_t i = std::max<int64_t>(cell - 1, 0); i <= cell; ++i) {
        const int count = poisson_of_one(even_chance(moment.seed, stream, i));
        for (int k = 0; k < count; ++k) {
            const double place =
                even_chance(mixed(moment.seed, static_cast<uint64_t>(k) + 1), stream, i);
            look(moment.seconds - (static_cast<double>(i) + place) * cell_, Element::for_ever);
        }
    }
    // What the next cell has is looked at there.
    until = std::min(until, static_cast<double>(cell + 1) * cell_);
    return is;
}

} // namespace zorilla::bench
