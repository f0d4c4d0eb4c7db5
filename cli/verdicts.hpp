// SPDX-License-Identifier: MIT
/// \file
/// What became of promises.
#pragma once

#include "bench/judge.hpp"
#include "cli/page.hpp"

namespace zorilla::cli {

/// What became of promises, and of what must never be. \return  whether all were kept
bool print_verdicts(Page& page, const std::vector<bench::Verdict>& verdicts);
/// What a rig promises, in a list.
void print_promises(Page& page, const rig::Rig& rig);

} // namespace zorilla::cli
