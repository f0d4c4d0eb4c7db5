// SPDX-License-Identifier: MIT
// How warm humid air feels.
#include "rig/derive/part.hpp"

namespace zorilla::rig {

namespace {

ReadPart read(PartReader& in, Derive& out) {
    out.about = "heat index";
    return read_of_air(in, out, {out.name, Kind::temperature, -5'000, 200'000}, heat_index<>);
}

} // namespace

DeriveKind heat_index_room() {
    return {"heat_index", 1, air_keys(), read, "", "", "heat_index({temperature}, {humidity})"};
}

} // namespace zorilla::rig
