// SPDX-License-Identifier: MIT
/// \file
/// A value that was found on a running device, put back into the rig file.
#pragma once

#include "rig/model/rig.hpp"

#include <string>

namespace zorilla::bench {

/// The text of a rig file in which a `line_setting` has another value; all else, comments too,
/// stays as it is to the letter. \param text  the file, of which `rig` was made  \param value  as
/// it is to be written: "24 degC"  \throws rig::InputError  if that cannot be done without a doubt
/// The same of any text value. \param node  one that was made of this text
std::string with_text_at(const std::string& text, const rig::Node& node, const std::string& value);
std::string with_setting(const std::string& text, const rig::Rig& rig, const rig::Sense& setting,
                         const std::string& value);

} // namespace zorilla::bench
