// SPDX-License-Identifier: MIT
/// \file
/// Quantities as options of a command.
#pragma once

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

} // namespace zorilla::cli
