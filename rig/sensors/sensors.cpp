// SPDX-License-Identifier: MIT
// The sensors of a rig file, by the names of their parts.
#include "rig/sensors/parts.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

namespace {

struct Part {
    const char* name;
    bool analogue; ///< whether it hangs on a pin of the converter
    ReadPart (*read)(PartReader&, Sense&);
};
constexpr Part parts[] = {
    {"thermistor", true, read_thermistor},
    {"linear_chip", true, read_linear_chip},
    {"photoresistor", true, read_photoresistor},
    {"phototransistor", true, read_phototransistor},
    {"percent", true, read_share},
    {"humidity_chip", true, read_humidity_chip},
    {"humidity_frame", false, read_humidity_frame},
    {"ranger", false, read_ranger},
    {"gas_sensor", true, read_gas_sensor},
    {"moisture_probe", true, read_moisture_probe},
    {"digital_input", false, read_digital_input},
    {"analogue_level", true, read_analogue_level},
    {"pulse_counter", false, read_pulse_counter},
    {"value_table", true, read_value_table},
    {"raw", true, read_raw},
};

} // namespace

bool is_known_part(std::string_view name) {
    return std::any_of(std::begin(parts), std::end(parts),
                       [name](const Part& part) { return part.name == name; });
}

bool is_analogue_part(std::string_view name) {
    for (const Part& part : parts)
        if (part.name == name)
            return part.analogue;
    return true;
}

ReadPart read_sensor(PartReader& in, Sense& out) {
    Names names;
    for (const Part& part : parts)
        names.emplace_back(part.name);
    const auto name = in.keys.choice("part", names);
    if (!name) {
        if (in.keys.find("part") == nullptr)
            in.keys.complain(
                fmt::format("{} needs \"part\", what kind of sensor it is; possible are {}",
                            in.keys.label(), TableReader::listed(names)));
        in.keys.ignore_the_rest();
        return {};
    }
    for (const Part& part : parts)
        if (part.name == *name)
            return part.read(in, out);
    return {};
}

} // namespace zorilla::rig
