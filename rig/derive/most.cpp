// SPDX-License-Identifier: MIT
// The most of several readings.
#include "rig/derive/part.hpp"

namespace zorilla::rig {

namespace {

ReadPart read_most(PartReader& in, Derive& out) {
    return read_several(in, out, "most",
                        [](const AnyReading* list, uint8_t count, uint8_t healthy) {
                            return most(list, count, healthy);
                        });
}

} // namespace

DeriveKind most_room() {
    return {"most", 7, several_keys(), read_most, "", "", "most({list}, {needed|{count}})"};
}

} // namespace zorilla::rig
