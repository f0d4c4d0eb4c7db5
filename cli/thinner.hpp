// SPDX-License-Identifier: MIT
/// \file
/// Which events of a timeline are told.
#pragma once

#include "bench/replay.hpp"
#include "cli/command.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <string>
#include <vector>

namespace zorilla::cli {

/// Which events of the timeline are told: of some parts only, and of each not more than one in a
/// time.
class Thinner {
  public:
    /// \param only  names; none of them: all  \param every  a time, or empty
    Thinner(const std::vector<std::string>& only, const std::string& every, const rig::Rig& rig)
        : only_(only), every_(every.empty() ? 0 : time_option("--every", every, "10 min")) {
        std::vector<std::string> names;
        const auto add = [&names](const auto& parts) {
            for (const auto& part : parts)
                names.push_back(part.name);
        };
        add(rig.senses);
        add(rig.decides);
        add(rig.machines);
        add(rig.drives);
        for (const std::string& name : only_)
            if (std::find(names.begin(), names.end(), name) == names.end())
                throw rig::InputError(fmt::format("--only: nothing is called \"{}\"{}", name,
                                                  rig::suggestion(name, names)));
    }
    /// Whether it is told; if so, how many of the same were left out before it is said.
    bool tells(bench::Event& event) {
        if (!only_.empty() && std::find(only_.begin(), only_.end(), event.who) == only_.end())
            return false;
        Last& last = last_[event.who];
        if (last.any && event.milliseconds - last.told < every_) {
            ++last.left_out;
            return false;
        }
        if (last.left_out > 0)
            event.reason += fmt::format("; {} more before this", last.left_out);
        last = {true, event.milliseconds, 0};
        return true;
    }

  private:
    struct Last {
        bool any = false;
        int64_t told = 0;
        uint64_t left_out = 0;
    };
    std::vector<std::string> only_;
    int64_t every_;
    std::map<std::string, Last> last_;
};

} // namespace zorilla::cli
