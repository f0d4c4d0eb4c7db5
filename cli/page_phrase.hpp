// SPDX-License-Identifier: MIT
/// \file
/// The pass phrase of a page that others can reach.
#pragma once

#include <string>

namespace zorilla::cli {

/// Of a file, or asked at the terminal where the address needs one; empty where it needs none.
/// \param file  its first line; empty: none  \throws rig::InputError  if there is none to be had
std::string page_phrase(const std::string& address, const std::string& file);

} // namespace zorilla::cli
