// SPDX-License-Identifier: MIT
/// \file
/// State machines from SCXML (https://www.w3.org/TR/scxml), as far as a rig's machines go.
#pragma once

#include <string>
#include <vector>

namespace zorilla::bench {

/// The table `[machine.NAME]` of a rig file that does what the first machine of an SCXML text does.
/// Delayed events become `after`; other events become conditions: those that a comment explains, as
/// `zorilla draw` writes them, as they are, the others under their own name.
/// \param path      for messages
/// \param left_out  what a rig's machine has no word for, a sentence each
/// \throws rig::InputError  if the text is not XML, or no SCXML with states
std::string machine_of_scxml(const std::string& text, const std::string& path,
                             std::vector<std::string>& left_out);

} // namespace zorilla::bench
