// SPDX-License-Identifier: MIT
// How much water there is in the air.
#include "rig/derive/part.hpp"

namespace zorilla::rig {

namespace {

ReadPart read_absolute_humidity(PartReader& in, Derive& out) {
    out.about = "absolute humidity";
    return read_of_air(in, out, {out.name, Kind::absolute_humidity, 0, 131'000},
                       absolute_humidity<>);
}

} // namespace

DeriveKind absolute_humidity_room() {
    return {"absolute_humidity",
            2,
            air_keys(),
            read_absolute_humidity,
            "",
            "",
            "absolute_humidity({temperature}, {humidity})"};
}

} // namespace zorilla::rig
