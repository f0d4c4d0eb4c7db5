// SPDX-License-Identifier: MIT
// The temperature at which water begins to fall out of the air.
#include "rig/derive/part.hpp"

namespace zorilla::rig {

namespace {

ReadPart read_dew_point(PartReader& in, Derive& out) {
    out.about = "dew point";
    return read_of_air(in, out, {out.name, Kind::temperature, -80'000, 60'000}, dew_point<>);
}

} // namespace

DeriveKind dew_point_room() {
    return {
        "dew_point", 0, air_keys(), read_dew_point, "", "", "dew_point({temperature}, {humidity})"};
}

} // namespace zorilla::rig
