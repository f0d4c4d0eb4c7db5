// SPDX-License-Identifier: MIT
// The mean of several readings.
#include "rig/derive/part.hpp"

namespace zorilla::rig {

namespace {

ReadPart read_mean(PartReader& in, Derive& out) {
    return read_several(in, out, "mean",
                        [](const AnyReading* list, uint8_t count, uint8_t healthy) {
                            return mean(list, count, healthy);
                        });
}

} // namespace

DeriveKind mean_room() {
    return {"mean", 5, several_keys(), read_mean, "", "", "mean({list}, {needed|{count}})"};
}

} // namespace zorilla::rig
