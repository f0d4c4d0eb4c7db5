// SPDX-License-Identifier: MIT
// The heat that a stream of air carries.
#include "rig/derive/part.hpp"

namespace zorilla::rig {

namespace {

ReadPart read_air_heat(PartReader& in, Derive& out) {
    // A flow that is known, or one that is measured.
    const Node* node = in.keys.find("flow");
    Kind written{};
    const bool named = node != nullptr && node->is_text() && !kind_of(*node->as_text(), written) &&
                       node->as_text()->find_first_of("0123456789") != 0;
    std::optional<size_t> measured;
    std::optional<int32_t> flow;
    constexpr Kind streams = Kind::air_flow;
    if (named)
        measured = in.keys.source("flow", in.rig, &streams, "how much air streams");
    else
        flow = in.keys.required_quantity("flow", Kind::air_flow, "80 m3/h",
                                         "how much air streams, or what measures it");
    constexpr Kind wanted = Kind::temperature_difference;
    const auto warmer = in.keys.source("warmer", in.rig, &wanted,
                                       "how much warmer the air leaves than it came: a derived "
                                       "difference");
    if ((!flow && !measured) || !warmer ||
        (flow && !in.keys.expect(*flow > 0 && *flow <= 100'000'000, "flow",
                                 "above 0 and up to 100,000 m3/h")))
        return {};
    out.of = {*warmer};
    if (measured)
        out.of.push_back(*measured);
    out.about = fmt::format("heat that {} of air carry", measured ? in.rig.sources[*measured].name
                                                                  : to_text(*flow, Kind::air_flow));
    out.part = derives([warmer = *warmer, measured, flow](Instant, const AnyReading* sources) {
        return any(air_heat(measured ? as<AirFlow>(sources[*measured])
                                     : Reading<AirFlow>::of(AirFlow::from_thousandths(*flow)),
                            as<TemperatureDifference>(sources[warmer])));
    });
    const int32_t most = INT32_MAX;
    return {true, {{out.name, Kind::power, -most, most}}};
}

} // namespace

DeriveKind air_heat_room() {
    return {"air_heat",
            8,
            {{"flow", "\"80 m3/h\""}, {"warmer", "\"gained\""}},
            read_air_heat,
            "",
            "",
            "air_heat({flow}, {warmer})"};
}

} // namespace zorilla::rig
