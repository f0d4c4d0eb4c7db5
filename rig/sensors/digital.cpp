// SPDX-License-Identifier: MIT
// What is yes or no, and pulses.
#include "rig/sensors/common.hpp"
#include "rig/sensors/parts.hpp"

namespace zorilla::rig {

namespace {

ReadPart truth_part(const Sense& out, bool sound) {
    return {sound, {{out.name, Kind::truth, 0, 1000}}};
}
AnyReading reading_of(Truth truth) {
    return truth == Truth::unknown ? AnyReading()
                                   : AnyReading::of_bounded(AnyQuantity::from_thousandths(
                                         truth == Truth::yes ? 1000 : 0));
}

} // namespace

ReadPart read_digital_input(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    keys.require("active", "the level that means yes, \"low\" or \"high\"", "\"low\"");
    const auto active = keys.choice("active", {"low", "high"});
    DigitalInputSpec spec = digital_input(active == "low" ? active_low : active_high);
    if (const auto time = keys.quantity("debounce", Kind::duration, "20 ms"))
        spec = spec.debounce(of<Duration>(time));
    keys.expect(spec.debounce_is_possible(), "debounce", "between 0 and 10 s");
    out.raw = RawKind::level;
    out.largest_raw = 1;
    out.about = fmt::format("digital input; yes when the pin is {}, debounced for {}",
                            active.value_or("low"), span_to_text(spec.debounce().thousandths()));
    out.start = starts([spec, state = DigitalInputState()](Instant now, Raw raw, const AnyReading*,
                                                           AnyReading* to) mutable {
        *to = reading_of(state.read(spec, now, raw.level()));
    });
    return truth_part(out, active && spec.debounce_is_possible());
}

ReadPart read_analogue_level(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    const auto low =
        keys.required_quantity("low", Kind::voltage, "1.2 V", "low up to this voltage");
    const auto high =
        keys.required_quantity("high", Kind::voltage, "2.8 V", "high from this voltage on");
    const auto reference = keys.required_quantity("reference", Kind::voltage, "5 V",
                                                  "the voltage that full scale stands for");
    const auto active = keys.choice("active", {"high", "low"});
    const AnalogueLevelSpec spec = analogue_level(of<Voltage>(low), of<Voltage>(high))
                                       .reference(of<Voltage>(reference))
                                       .bits(in.converter_bits)
                                       .active(active == "low" ? active_low : active_high);
    out.largest_raw = spec.full_scale();
    if (!low || !high || !reference)
        return {};
    keys.expect(spec.reference_is_possible(), "reference", "between 0.5 and 10 V");
    keys.expect(
        !spec.reference_is_possible() || spec.zone_is_possible(), "high",
        "above \"low\", at least four codes of the converter from it, and below \"reference\"; "
        "\"low\" above 0");
    if (!spec.is_possible())
        return {};
    out.about = fmt::format("level of an analogue pin; yes {} code {}, no {} code {}",
                            spec.active() == active_high ? "from" : "up to",
                            spec.active() == active_high ? spec.high_code() : spec.low_code(),
                            spec.active() == active_high ? "up to" : "from",
                            spec.active() == active_high ? spec.low_code() : spec.high_code());
    out.start = starts([spec, state = AnalogueLevelState()](Instant, Raw raw, const AnyReading*,
                                                            AnyReading* to) mutable {
        *to =
            reading_of(state.read(spec.low_code(), spec.high_code(), spec.active(), raw.sample()));
    });
    return truth_part(out, true);
}

namespace {

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
    out.start = with_filters(
        filters, starts([spec, by_period, least, factor = spec.factor(), sample = PulseSample(),
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
        }));
    return {spec.is_possible(), {{out.name, kind, 0, spec.fastest().thousandths()}}};
}

} // namespace

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

} // namespace zorilla::rig
