// SPDX-License-Identifier: MIT
/// \file
/// The emulator of the RP2040 as this tool runs it. Only for bench/rehearse/ itself.
#pragma once

#include <string>
#include <string_view>

namespace zorilla::bench {

/// The script, carried inside the tool.
std::string_view emulator_script();
/// Where the emulator's package is. Throws rig::InputError if it is nowhere.
std::string emulator_modules();

} // namespace zorilla::bench
