// SPDX-License-Identifier: MIT
// The least of several readings.
#include "rig/derive/part.hpp"

namespace zorilla::rig {

namespace {

ReadPart read_least(PartReader& in, Derive& out) {
    return read_several(in, out, "least",
                        [](const AnyReading* list, uint8_t count, uint8_t healthy) {
                            return least(list, count, healthy);
                        });
}

} // namespace

DeriveKind least_room() {
    return {"least", 6, several_keys(), read_least, "", "", "least({list}, {needed|{count}})"};
}

} // namespace zorilla::rig
