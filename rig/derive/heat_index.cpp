// SPDX-License-Identifier: MIT
// How warm humid air feels.
#include "rig/derive/part.hpp"

namespace zorilla::rig {

namespace {

ReadPart read_heat_index(PartReader& in, Derive& out) {
    out.about = "heat index";
    return read_of_air(in, out, {out.name, Kind::temperature, -5'000, 200'000}, heat_index<>);
}

} // namespace

DeriveKind heat_index_room() {
    return {"heat_index",
            1,
            air_keys(),
            read_heat_index,
            "",
            "",
            "heat_index({temperature}, {humidity})"};
}

} // namespace zorilla::rig
