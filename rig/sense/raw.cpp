// SPDX-License-Identifier: MIT
// Codes of the converter as they are.
#include "rig/sense/analogue.hpp"

namespace zorilla::rig {

namespace {

ReadPart read_raw(PartReader& in, Sense& out) {
    FilterSpec filters;
    read_oversampling(in.keys, filters);
    read_filters(in.keys, Kind::counts, filters);
    const int bits = in.converter_bits + filters.extra_bits;
    if (bits > 16) {
        in.keys.complain(too_many_bits(in.keys.label(), bits));
        return {};
    }
    const int32_t full = (1 << bits) - 1;
    out.largest_raw = (int64_t{1} << in.converter_bits) - 1;
    out.about = "codes as they are";
    CodeScale scale;
    if (filters.extra_bits == 0 && !filters.trim.is_set()) {
        scale.of = [full](int32_t value) {
            return static_cast<uint16_t>(std::clamp((value + 500) / 1000, 0, full));
        };
        // Every code is a value: no end is a fault.
        scale.inside = [full](int32_t value) {
            return value < 0 || value > full * 1000 ? -1 : INT32_MAX;
        };
        scale.first = 0;
        scale.last = static_cast<uint16_t>(full);
    }
    AnalogueModel model;
    model.share = [full](double code) { return code / (full + 1.0); };
    model.bits = in.converter_bits;
    out.part = std::make_shared<SensePart>(
        with_filters(filters, starts([](Instant, Raw raw, const AnyReading*, AnyReading* to) {
                         *to = any(read_counts(raw.sample()));
                     })),
        model.forward(), std::move(scale));
    if (!filters.any())
        for (int64_t code = 0; code <= out.largest_raw; ++code)
            out.by_code.push_back(any(read_counts(Raw(code).sample())));
    return {true, {{out.name, Kind::counts, 0, full * 1000}}};
}

} // namespace

SenseKind raw_room() {
    return {"raw",
            14,
            true,
            Kind::temperature,
            {},
            with_filter_keys({
                {"extra_bits", "2", ""},
                {"spread", "8", ""},
            }),
            read_raw,
            {{}, "", "", "read_counts({in})", "Analogue<{pin}>", "Sample"},
            {{"pin", "", "its output, from 0 V to the reference"}}};
}

} // namespace zorilla::rig
