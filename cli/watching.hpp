// SPDX-License-Identifier: MIT
/// \file
/// Devices that are watched until somebody or something ends it.
#pragma once

#include "cli/arguments.hpp"
#include "cli/live_device.hpp"
#include "cli/page.hpp"

namespace zorilla::cli {

/// Watches, and tells at the end how it went. \throws rig::InputError
Status watch(const WatchPlan& plan, Page& page);

} // namespace zorilla::cli
