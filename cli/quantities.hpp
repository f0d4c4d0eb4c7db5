// SPDX-License-Identifier: MIT
/// \file
/// Quantities as options of a command.
#pragma once

#include "rig/model/rig.hpp"
#include "rig/text/text.hpp"

#include <string>
#include <string_view>

namespace zorilla::cli {

/// What an option says, in ohm, volt, ampere, watt per kelvin; any other kind in the unit that it
/// is shown in. \throws rig::InputError  if it is no such quantity
double quantity(const std::string& option, const std::string& text, rig::Kind kind,
                std::string_view example);

/// The same, and it must be above 0.
double above_zero(const std::string& option, const std::string& text, rig::Kind kind,
                  std::string_view example);

/// What somebody wishes of a reading: that it lies between two values.
struct Wish {
    size_t source = 0;
    int32_t lowest = 0, highest = 0; ///< thousandths
    std::string text;                ///< as it was written: "2 degC..8 degC"
};
/// Reads what stands behind --wish: "roost=2 degC..8 degC". \param one  whether a single value will
/// do, "roost=4 degC", for both ends  \throws rig::InputError
Wish wish_of(const std::string& given, const rig::Rig& rig, bool one);

} // namespace zorilla::cli
