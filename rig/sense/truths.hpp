// SPDX-License-Identifier: MIT
/// \file
/// What sensors have in common that are yes or no.
#pragma once

#include "rig/sense/common.hpp"

namespace zorilla::rig {

inline ReadPart truth_part(const Sense& out, bool sound) {
    return {sound, {{out.name, Kind::truth, 0, 1000}}};
}
inline AnyReading reading_of(Truth truth) {
    return truth == Truth::unknown ? AnyReading()
                                   : AnyReading::of_bounded(AnyQuantity::from_thousandths(
                                         truth == Truth::yes ? 1000 : 0));
}

} // namespace zorilla::rig
