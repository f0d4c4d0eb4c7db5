// SPDX-License-Identifier: MIT
/// \file
/// A temperature that corrects a sensor: that of a source, or a fixed one.
#pragma once

#include "rig/sense/common.hpp"

namespace zorilla::rig {

struct AirInput {
    std::optional<size_t> source;
    Temperature fixed = 20_degC;
    bool sound = true;
    Reading<Temperature> at(const AnyReading* sources) const {
        return source ? as<Temperature>(sources[*source]) : Reading<Temperature>::of(fixed);
    }
    /// What a forward model takes for it: what surrounds the sensor, unless it is fixed.
    double celsius(const Surroundings& around) const {
        return source ? around.celsius : thousandth_of(fixed.thousandths());
    }
};

inline AirInput read_air(PartReader& in, std::string_view why, Sense& sense) {
    AirInput out;
    TableReader& keys = in.keys;
    const Node* node = keys.find("temperature");
    Kind kind{};
    if (node != nullptr && node->is_text() && kind_of(*node->as_text(), kind)) {
        const auto fixed = keys.quantity("temperature", Kind::temperature, "20 degC");
        out.fixed = of<Temperature>(fixed);
        out.sound = fixed.has_value();
        if (fixed)
            out.sound =
                keys.expect(in_climate(out.fixed), "temperature", "between -40 and 85 degC");
        return out;
    }
    constexpr Kind wanted = Kind::temperature;
    out.source = keys.source("temperature", in.rig, &wanted, why);
    out.sound = out.source.has_value();
    if (out.source)
        sense.inputs.push_back(*out.source);
    return out;
}

} // namespace zorilla::rig
