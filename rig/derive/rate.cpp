// SPDX-License-Identifier: MIT
// How fast a reading changes.
#include "rig/derive/part.hpp"

namespace zorilla::rig {

namespace {

ReadPart read_rate(PartReader& in, Derive& out) {
    const auto of = in.keys.source("of", in.rig, nullptr, "the quantity whose change is wanted");
    const auto window = in.keys.required_quantity("window", Kind::duration, "5 min",
                                                  "the time over which the change is taken");
    if (!of || !window)
        return {};
    const Source& source = in.rig.sources[*of];
    if (!in.keys.expect(*window >= 8, "window", "at 8 ms or more") ||
        !in.keys.expect(source.kind != Kind::truth && source.kind < Kind::per_minute, "of",
                        "with a quantity, not with yes or no, nor with a rate"))
        return {};
    out.of = {*of};
    out.about = fmt::format("change of {} over {}", source.name, span_to_text(*window));
    out.part =
        derives([of = *of, state = RateOfChange<AnyQuantity>(Duration::from_thousandths(*window))](
                    Instant now, const AnyReading* sources) mutable {
            return any(state.pass(now, sources[of]));
        });
    const int32_t most = INT32_MAX;
    return {true, {{out.name, per_minute_of(difference_of(source.kind)), -most, most}}};
}

} // namespace

DeriveKind rate_room() {
    return {"rate",
            4,
            {{"of", "\"roost\""}, {"window", "\"5 min\""}},
            read_rate,
            "RateOfChange<{type}>",
            "{window}",
            "{self}.pass(now, {of})"};
}

} // namespace zorilla::rig
