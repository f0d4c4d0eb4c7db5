// SPDX-License-Identifier: MIT
/// \file
/// The demo of a running device: a hen house that is not there, watched.
#pragma once

#include "cli/arguments.hpp"
#include "cli/page.hpp"

#include <string>

namespace zorilla::cli {

/// Runs until it is ended. \param directory  for its files  \param where  the page's address
Status demo_live(const std::string& directory, const std::string& where, Page& page);

} // namespace zorilla::cli
