// SPDX-License-Identifier: MIT
// Percent and moisture between two codes, values between measured points, and codes as they are.
#include "rig/sensors/analogue.hpp"
#include "rig/sensors/parts.hpp"

namespace zorilla::rig {

namespace {

/// Two codes of the converter. False if one is missing or is no code.
bool read_two_codes(TableReader& keys, std::string_view first, std::string_view second,
                    std::string_view what, int64_t full_scale, uint16_t (&codes)[2]) {
    bool complete = true;
    const std::string_view names[] = {first, second};
    for (size_t i = 0; i < 2; ++i) {
        keys.require(names[i],
                     fmt::format("the code that was read {}", i == 0 ? what
                                                                     : "at the other "
                                                                       "end"),
                     i == 0 ? "620" : "210");
        const auto code = keys.whole(names[i], 0, full_scale);
        complete = complete && code;
        codes[i] = static_cast<uint16_t>(code.value_or(0));
    }
    return complete;
}

} // namespace

ReadPart read_share(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::percentage, out);
    uint16_t codes[2] = {};
    const bool complete = read_two_codes(keys, "code_at_0", "code_at_100", "at 0 %",
                                         (int64_t{1} << analogue.bits()) - 1, codes);
    ShareSpec spec = percent_between(codes[0], codes[1]).bits(analogue.bits());
    read_wire_off(keys, spec);
    const bool common = analogue.read_common(spec, false);
    if (!complete || !common)
        return {};
    keys.expect(spec.points_are_possible(), "code_at_100",
                fmt::format("at least {} codes from \"code_at_0\"", spec.least_codes));
    return analogue.finish(spec, "percent between two codes", analogue.by_share(spec));
}

ReadPart read_moisture_probe(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::percentage, out);
    uint16_t codes[2] = {};
    const bool complete = read_two_codes(keys, "dry", "wet", "in dry material",
                                         (int64_t{1} << analogue.bits()) - 1, codes);
    MoistureSpec spec = moisture_probe(codes[0], codes[1]).bits(analogue.bits());
    if (const auto every = keys.quantity("every", Kind::duration, "10 min"))
        spec = spec.every(of<Duration>(every));
    if (const auto settle = keys.quantity("settle", Kind::duration, "100 ms"))
        spec = spec.settle(of<Duration>(settle));
    read_wire_off(keys, spec);
    const bool common = analogue.read_common(spec, false);
    if (!complete || !common)
        return {};
    keys.expect(spec.points_are_possible(), "wet",
                fmt::format("at least {} codes from \"dry\"", spec.least_codes));
    keys.expect(spec.every() >= 1_s && spec.every() <= 24_h * 24, "every", "between 1 s and 24 d");
    keys.expect(spec.settle() <= 1_min && spec.settle() < spec.every(), "settle",
                "between 0 and 1 min, and below \"every\"");
    out.every = spec.every();
    return analogue.finish_with(
        spec,
        fmt::format("moisture probe; powered for {} every {}",
                    span_to_text(spec.settle().thousandths()),
                    span_to_text(spec.every().thousandths())),
        analogue.by_share(spec), [spec](auto converter) {
            return starts([spec, converter, state = MoistureState()](
                              Instant now, Raw raw, const AnyReading*, AnyReading* to) mutable {
                *to = any(state.read(spec, now, raw.sample(), converter));
            });
        });
}

namespace {

constexpr uint8_t most_points = 32;

template <class Q>
ReadPart finish_value_table(PartReader& in, AnalogueReader& analogue,
                            const PointsCurve<AnyQuantity, most_points>& points) {
    PointsCurve<Q, most_points> curve;
    curve.count = points.count;
    for (uint8_t i = 0; i < points.count; ++i)
        curve.points[i] = {points.points[i].code,
                           Q::from_thousandths(points.points[i].value.thousandths())};
    if (!in.keys.expect(curve.is_possible(), "points",
                        "in order: going up in code, and their values one way"))
        return unread(in.keys);
    auto spec = ValueTableSpec<Q, most_points>(curve).bits(analogue.bits());
    read_wire_off(in.keys, spec);
    if (!analogue.read_common(spec))
        return {};
    in.keys.expect(
        spec.points_are_possible(), "points",
        fmt::format("within the converter, whose largest code is {}", spec.full_scale()));
    return analogue.finish(
        spec, fmt::format("table of {} measured points", points.count), [&](std::string&) {
            return std::function<Reading<Q>(Sample)>(
                [spec, range = spec.code_range()](Sample sample) {
                    const Health health = range.health_of(sample);
                    if (health != Health::ok)
                        return Reading<Q>::without_value(health);
                    return Reading<Q>::of(Q::from_thousandths(value_by_points(
                        spec.lines(),
                        [&spec](int line) { return spec.entry(static_cast<uint8_t>(line)); },
                        sample.code())));
                });
        });
}

} // namespace

ReadPart read_value_table(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    const std::string_view example = "[[112, \"0 cm\"], [480, \"20 cm\"], [900, \"35 cm\"]]";
    keys.require("points", "measured pairs of a code and a value", example);
    Kind kind = Kind::length;
    bool first = true;
    PointsCurve<AnyQuantity, most_points> points;
    points.count = 0;
    const bool read = read_pairs(
        keys, "points", 2, most_points, example, [&](const toml::node& a, const toml::node& b) {
            const auto code = a.is_integer() ? a.value<int64_t>() : std::nullopt;
            if (!code || *code < 0 || *code > 65'535) {
                keys.findings().add(a, "the first of each pair in \"points\" must be a code of the "
                                       "converter, a whole number");
                return false;
            }
            if (first && b.is_string())
                kind_of(b.as_string()->get(), kind);
            first = false;
            const auto value = keys.quantity_of(b, "points", kind, example_of(kind));
            points.points[points.count++] = {static_cast<uint16_t>(*code), of<AnyQuantity>(value)};
            return value.has_value();
        });
    AnalogueReader analogue(in, kind, out);
    if (!read || points.count < 2)
        return unread(keys);
    return kind == Kind::temperature ? finish_value_table<Temperature>(in, analogue, points)
                                     : finish_value_table<AnyQuantity>(in, analogue, points);
}

ReadPart read_raw(PartReader& in, Sense& out) {
    FilterSpec filters;
    read_oversampling(in.keys, filters);
    read_filters(in.keys, Kind::counts, filters);
    const int bits = in.converter_bits + filters.extra_bits;
    if (bits > 16) {
        in.keys.complain(
            fmt::format("{}: the converter's {} bits and {} \"extra_bits\" are more than "
                        "16; ask for fewer",
                        in.keys.label(), in.converter_bits, filters.extra_bits));
        return {};
    }
    const int32_t full = (1 << bits) - 1;
    out.largest_raw = (int64_t{1} << in.converter_bits) - 1;
    out.about = "codes as they are";
    if (filters.extra_bits == 0 && !filters.trim.is_set()) {
        out.scale.of = [full](int32_t value) {
            return static_cast<uint16_t>(std::clamp((value + 500) / 1000, 0, full));
        };
        // Every code is a value: no end is a fault.
        out.scale.inside = [full](int32_t value) {
            return value < 0 || value > full * 1000 ? -1 : detail::largest_int32;
        };
        out.scale.first = 0;
        out.scale.last = static_cast<uint16_t>(full);
    }
    out.start =
        with_filters(filters, starts([](Instant, Raw raw, const AnyReading*, AnyReading* to) {
                         *to = any(read_counts(raw.sample()));
                     }));
    if (!filters.any())
        for (int64_t code = 0; code <= out.largest_raw; ++code)
            out.by_code.push_back(any(read_counts(Raw(code).sample())));
    return {true, {{out.name, Kind::counts, 0, full * 1000}}};
}

} // namespace zorilla::rig
