// SPDX-License-Identifier: MIT
// Edges of something that turns or swings.
#include "rig/sense/common.hpp"

namespace zorilla::rig {

namespace {

/// What counts its edges, or the time between two, delivers for a rate.
template <class Q> ForwardModel forward(const PulseRateSpec<Q>& spec, bool by_period) {
    // Edges in a second at a rate of 1; a frequency has one cycle a second.
    const double edges = spec.edges_per_turn() / (std::is_same_v<Q, Frequency> ? 1.0 : 60.0);
    return [edges, by_period, counted = 0.0](const Surroundings& around, Noise&, Fault fault,
                                             Raw) mutable {
        if (fault == Fault::dropped)
            return Raw();
        const bool still = fault == Fault::open || fault == Fault::stuck || fault == Fault::shorted;
        const double rate = still ? 0 : edges * around.value * (fault == Fault::ringing ? 3 : 1);
        if (by_period)
            return rate > 0 ? Raw(static_cast<int64_t>(std::llround(1e6 / rate))) : Raw();
        counted += rate * around.seconds;
        return Raw(static_cast<int64_t>(counted));
    };
}

template <class Q>
ReadPart read_rate(PartReader& in, Kind kind, PulseRateSpec<Q> spec, Sense& out) {
    TableReader& keys = in.keys;
    FilterSpec filters;
    const auto method = keys.choice("method", {"window", "period"});
    const bool by_period = method == "period";
    if (const auto window = keys.quantity("window", Kind::duration, "1 s")) {
        spec = spec.by_window(of<Duration>(window));
        if (by_period)
            keys.expect(false, "window", "with method = \"window\" only; drop it");
    }
    if (by_period)
        spec = spec.by_period();
    if (const auto still = keys.quantity("still_after", Kind::duration, "2 s"))
        spec = spec.still_after(of<Duration>(still));
    if (const auto fastest = keys.quantity("fastest", kind, example_of(kind)))
        spec = spec.fastest(of<Q>(fastest));
    const auto shortest = keys.quantity("shortest", Kind::duration, "1 ms");
    read_filters(keys, kind, filters);
    keys.expect(spec.window() >= 100_ms && spec.window() <= 60_s, "window",
                "between 100 ms and 60 s");
    keys.expect(spec.still_after() >= 10_ms && spec.still_after() <= 60_s, "still_after",
                "between 10 ms and 60 s");
    keys.expect(spec.fastest_is_possible(), "fastest",
                fmt::format("above 0 and up to 1,000,000 {}", unit_of(kind)));
    if (spec.edges_are_possible() && spec.times_are_possible() && spec.fastest_is_possible())
        keys.expect(
            spec.window_is_possible(), keys.find("window") != nullptr ? "window" : "edges_per_turn",
            fmt::format("where one window holds at most {} edges; at {}, the fastest, it would "
                        "be {}. Make \"window\" shorter, or say how \"fastest\" it can be",
                        count_to_text(spec.most_edges), to_text(spec.fastest().thousandths(), kind),
                        count_to_text(static_cast<uint64_t>(spec.edges_in_window()))));
    out.raw = by_period ? RawKind::microseconds : RawKind::edges;
    out.largest_raw = by_period ? 0xffff'ffffLL : 0xffff'ffff'ffffLL;
    out.about = fmt::format(
        "pulses; {}",
        by_period ? "by the time between two edges"
                  : fmt::format("counted over {}", span_to_text(spec.window().thousandths())));
    const auto least = static_cast<uint32_t>(shortest.value_or(0)) * 1000U;
    out.part = std::make_shared<SensePart>(
        with_filters(filters,
                     starts([spec, by_period, least, factor = spec.factor(), sample = PulseSample(),
                             state = PulseRateState<Q>()](Instant now, Raw raw, const AnyReading*,
                                                          AnyReading* to) mutable {
                         if (!by_period) {
                             sample.taken = raw.bits() >= 0;
                             sample.edges = static_cast<uint16_t>(raw.bits());
                         } else {
                             // A row with a time has seen two edges; one without has seen none.
                             sample.taken = true;
                             if (raw.bits() >= 0 && raw.bits() >= least) {
                                 sample.edges = static_cast<uint16_t>(sample.edges + 2);
                                 sample.period = static_cast<uint32_t>(raw.bits());
                             }
                         }
                         *to = any(state.read(spec, factor, now, sample));
                     })),
        forward(spec, by_period), CodeScale());
    return {spec.is_possible(), {{out.name, kind, 0, spec.fastest().thousandths()}}};
}

ReadPart read_pulse_counter(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    const auto unit = keys.choice("unit", {"rpm", "Hz"});
    keys.require("edges_per_turn", "how many edges make one turn (or one cycle)", "2");
    const auto edges = keys.whole("edges_per_turn", 1, 1000);
    const auto count = static_cast<uint16_t>(edges.value_or(1));
    ReadPart part = unit == "Hz" ? read_rate(in, Kind::frequency, frequency(count), out)
                                 : read_rate(in, Kind::turning_speed, turning_speed(count), out);
    part.sound = part.sound && edges;
    return part;
}

} // namespace

SenseKind pulse_counter_room() {
    return {"pulse_counter",
            12,
            false,
            std::nullopt,
            {},
            with_filter_keys({
                {"unit", "\"rpm\"", ""},
                {"edges_per_turn", "2", ""},
                {"method", "\"window\"", "period=.by_period()"},
                {"window", "\"1 s\"", ".by_window({})"},
                {"still_after", "\"2 s\"", ".still_after({})"},
                {"fastest", "\"3000 rpm\"", ".fastest({})"},
                {"shortest", "\"1 ms\"", ""},
            }),
            read_pulse_counter,
            {{{"unit=Hz", "frequency({edges_per_turn})"}, {"", "turning_speed({edges_per_turn})"}},
             "PulseRate",
             "",
             "read(now, {in})",
             "Pulses<{pin}, {shortest}>",
             "PulseSample"},
            {{"pin", "", "its pulse wire, which pulls to ground; the chip holds the pin up"}}};
}

} // namespace zorilla::rig
