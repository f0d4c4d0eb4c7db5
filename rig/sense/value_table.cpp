// SPDX-License-Identifier: MIT
// Any quantity by straight lines between measured pairs of a code and a value.
#include "rig/sense/analogue.hpp"

namespace zorilla::rig {

namespace {

constexpr uint8_t most_points = 32;
using Points = PointsCurve<AnyQuantity, most_points>;

template <class Q> ReadPart finish(PartReader& in, AnalogueReader& analogue, const Points& points) {
    PointsCurve<Q, most_points> curve;
    curve.count = points.count;
    std::vector<std::pair<double, double>> pairs;
    for (uint8_t i = 0; i < points.count; ++i) {
        const int32_t value = points.points[i].value.thousandths();
        curve.points[i] = {points.points[i].code, Q::from_thousandths(value)};
        pairs.emplace_back(points.points[i].code, thousandth_of(value));
    }
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
    AnalogueModel model = points_model(std::move(pairs), analogue.bits());
    model.bits = in.converter_bits;
    return analogue.finish(
        spec, fmt::format("table of {} measured points", points.count), model.forward(),
        [&](std::string&) {
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

ReadPart read_value_table(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    const std::string_view example = "[[112, \"0 cm\"], [480, \"20 cm\"], [900, \"35 cm\"]]";
    keys.require("points", "measured pairs of a code and a value", example);
    Kind kind = Kind::length;
    bool first = true;
    Points points;
    points.count = 0;
    const bool read =
        read_pairs(keys, "points", 2, most_points, example, [&](const Node& a, const Node& b) {
            const auto code = a.as_whole();
            if (!code || *code < 0 || *code > 65'535) {
                keys.findings().add(a, "the first of each pair in \"points\" must be a code of the "
                                       "converter, a whole number");
                return false;
            }
            if (first && b.is_text())
                kind_of(*b.as_text(), kind);
            first = false;
            const auto value = keys.quantity_of(b, "points", kind, example_of(kind));
            points.points[points.count++] = {static_cast<uint16_t>(*code), of<AnyQuantity>(value)};
            return value.has_value();
        });
    AnalogueReader analogue(in, kind, out);
    if (!read || points.count < 2)
        return unread(keys);
    return kind == Kind::temperature ? finish<Temperature>(in, analogue, points)
                                     : finish<AnyQuantity>(in, analogue, points);
}

} // namespace

SenseKind value_table_room() {
    return {"value_table",
            13,
            true,
            std::nullopt,
            {},
            with_analogue_keys({
                {"points", "[[112, \"0 cm\"], [480, \"20 cm\"], [900, \"35 cm\"]]", ""},
                {"wire_off_reads", "\"high\"", ".wire_off_reads(Level::{})"},
            }),
            read_value_table,
            {{{"", "value_table({points:at({}, {})})"}},
             "ValueTable",
             "",
             "read({in})",
             "Analogue<{pin}>",
             "Sample"},
            {{"pin", "", "its output, from 0 V to the reference"}}};
}

} // namespace zorilla::rig
