// SPDX-License-Identifier: MIT
/// \file
/// What the command history is asked for, and what it tells. Only for itself.
#pragma once

#include "bench/history/compare.hpp"
#include "cli/page.hpp"

#include <optional>
#include <string>
#include <vector>

namespace zorilla::cli {

struct HistoryOptions {
    std::string path;
    std::string device;
    std::string last, from, to;
    std::string csv, figure;
    std::optional<int> stretch;
    std::vector<std::string> compare;
    std::vector<std::string> watts, wishes;
    bool promises = false;
};

/// Whether a device has kept what its rig promises. \return  whether it did
bool judge_history(bench::History& history, const bench::KnownDevice& device, const rig::Rig& rig,
                   const bench::HistorySpan& span, Page& page);
/// A stretch row by row: the device's clock, when that was, and what its pins read.
void each_row(bench::History& history, const rig::Rig& rig, const bench::Stretch& stretch,
              const std::function<void(int64_t clock, bench::Utc at, const rig::Raw* raws)>& row);
/// Some days of a device beside some others.
void compare_days(bench::History& history, const HistoryOptions& options,
                  const bench::KnownDevice& device, const rig::Rig& rig, Page& page);

} // namespace zorilla::cli
