// SPDX-License-Identifier: MIT
// Bodies that warm and cool.
#include "bench/world/elements/warmth.hpp"

#include "bench/world/elements/elements.hpp"

#include <fmt/format.h>

namespace zorilla::bench {

using rig::Kind;

void Warmth::read(rig::TableReader& keys, WorldScope& scope) {
    warmed = actings(keys, "warmed", "power", Kind::power, scope);
    cooled = actings(keys, "cooled", "power", Kind::power, scope);
    actings(
        keys, "loses", "heat", Kind::heat_loss, scope, {{"to", "\"outside\""}},
        [&](rig::TableReader& entry, Acting& heat) {
            const auto to =
                scope.look(entry, "to", Kind::temperature, true, "what it loses its heat to");
            if (!to)
                return;
            const std::string* other = entry.table().get("to")->as_text();
            losses.push_back({heat, *to, dynamic_cast<const Warmth*>(scope.element_of(*other))});
            if (losses.back().body == this) {
                losses.back().body = nullptr;
                scope.findings->add(*entry.table().get("to"),
                                    fmt::format("{} cannot lose heat to itself", name));
            }
        });
    if (const auto at = keys.quantity("start", Kind::temperature, "3 degC"))
        start = rig::in_formulas(*at, Kind::temperature);
    const auto has = keys.quantity("capacity", Kind::heat_capacity, "20 kJ/K");
    const auto settles = keys.quantity("settles_in", Kind::duration, "2 h");
    double always = 0;
    for (const Loss& loss : losses)
        always += loss.heat.always ? loss.heat.amount : 0;
    if (has && keys.expect(*has > 0, "capacity", "above 0"))
        capacity = rig::in_formulas(*has, Kind::heat_capacity);
    if (has && settles)
        keys.complain(
            fmt::format("{} says \"capacity\" and \"settles_in\", which is the same twice; "
                        "give one of them",
                        keys.label()));
    else if (settles && always > 0 && keys.expect(*settles > 0, "settles_in", "above 0"))
        capacity = always * rig::in_formulas(*settles, Kind::duration);
    else if (settles && always <= 0)
        keys.complain(fmt::format("{} cannot settle in a time while it loses no heat: give it "
                                  "loses = [ {{ to = \"outside\", heat = \"6 W/K\" }} ]",
                                  keys.label()));
    else if (keys.table().get("capacity") == nullptr && keys.table().get("settles_in") == nullptr)
        keys.complain(fmt::format("{} needs \"capacity\", the heat that warms it by a degree, or "
                                  "\"settles_in\", the time in which it has come two thirds of its "
                                  "way; for example settles_in = \"2 h\"",
                                  keys.label()));
}

void Warmth::begin(double* states, const double* values) const {
    states[state + temperature] = start ? *start
                                  : losses.empty() || losses.front().to.is_state
                                      ? 20.0
                                      : values[losses.front().to.index];
}

void Warmth::rates(const double* states, const double* values, double* rates) const {
    const double in = sum_of(warmed, values) - sum_of(cooled, values);
    rates[state + temperature] += in / capacity;
    rates[state + given] += in;
    for (const Loss& loss : losses) {
        const double watts =
            loss.heat.now(values) * (states[state + temperature] - loss.to.of(states, values));
        lose(watts, rates);
        if (loss.body != nullptr)
            loss.body->lose(-watts, rates);
    }
}

double Warmth::fastest() const {
    double out = 0;
    for (const Loss& loss : losses)
        out += loss.heat.amount;
    return out / capacity;
}

double Warmth::slowest() const {
    double least = 0; // of what is always lost
    for (const Loss& loss : losses)
        if (loss.heat.always)
            least += loss.heat.amount;
    return least > 0 ? capacity / least : 0;
}

ElementKind warmth_element() {
    return {"warmth",
            "A body that warms and cools as a whole.",
            {{"capacity", "\"20 kJ/K\""},
             {"settles_in", "\"2 h\""},
             {"start", "\"3 degC\""},
             {"loses", "[ { to = \"outside\", heat = \"6 W/K\" } ]"},
             {"warmed", "[ { by = \"heat_lamp\", power = \"60 W\" } ]"},
             {"cooled", "[ { by = \"chiller\", power = \"40 W\" } ]"}},
            [] { return std::unique_ptr<Element>(std::make_unique<Warmth>()); }};
}

} // namespace zorilla::bench
