// SPDX-License-Identifier: MIT
// A circuit beside the rig that it is of: whether it allows what the rig does, pass by pass.
#pragma once

#include "rig/drive/part.hpp"
#include "rig/prove/replay.hpp"
#include "rig/prove/solver.hpp"

#include <fmt/format.h>

#include <string>
#include <vector>

namespace random_rig {

using namespace zorilla;

/// All passes of a life, one below the other, as a solver has them.
class Follower {
  public:
    explicit Follower(const rig::Rig& rig)
        : rig_(rig), model_(rig::prove::model_of(rig, rig.self_test.when.given())),
          solver_(std::chrono::steady_clock::now() + std::chrono::hours(24)) {}

    /// One more pass, as the rig has made it. \return  what of it the circuit does not allow; empty
    /// if it allows all
    std::string follow(const rig::RunningRig& running) {
        add_pass();
        std::vector<std::string> names;
        std::vector<int> seen;
        const auto see = [&](rig::prove::Wire wire, bool is, std::string name) {
            names.push_back(fmt::format("{} is {}", name, is ? "yes" : "no"));
            seen.push_back(is ? literal(wire) : -literal(wire));
        };
        for (const rig::prove::Saying& saying : model_.sayings) {
            const rig::AnyReading reading = running.readings()[saying.source];
            const std::string& name = rig_.sources[saying.source].name;
            see(saying.lost, !reading.ok(), "lost(" + name + ")");
            if (!reading.ok())
                continue;
            const int32_t value = reading.value_or({}).thousandths();
            bool found = false;
            for (size_t i = 0; i < saying.says.size(); ++i) {
                const bool is = value >= saying.lowest[i] && value <= saying.highest[i];
                found = found || is;
                see(saying.says[i], is, fmt::format("{} of kind {}", name, i));
            }
            if (!found)
                return fmt::format("{} reads {}, which the circuit does not know", name, value);
        }
        rig::prove::all_truths(running, truths_);
        for (size_t i = 0; i < truths_.size(); ++i) {
            see(model_.facts[i].yes, truths_[i] == Truth::yes, rig_.facts[i].name);
            see(model_.facts[i].maybe, truths_[i] != Truth::no,
                rig_.facts[i].name + ", or unknown,");
        }
        for (size_t i = 0; i < rig_.drives.size(); ++i) {
            const rig::AnyValue value = running.drivens()[i].value;
            see(model_.any[i], value.any(), rig_.drives[i].name);
            see(model_.full[i], rig::prove::is_full(rig_.drives[i], value),
                rig_.drives[i].name + " at full");
        }
        if (!solver_.solve(seen).value_or(false)) {
            std::string out;
            for (size_t i = 0; i < seen.size(); ++i)
                if (solver_.blames(seen[i]))
                    out += (out.empty() ? "" : "; ") + names[i];
            return out.empty() ? "what came before" : out;
        }
        for (const int one : seen)
            solver_.clause({one});
        return {};
    }

  private:
    int literal(rig::prove::Wire wire) const {
        const int v = now_[wire >> 1];
        return (wire & 1U) != 0 ? -v : v;
    }
    void add_pass() {
        using rig::prove::Circuit;
        const std::vector<Circuit::Node>& nodes = model_.circuit.nodes();
        std::vector<int> next(nodes.size());
        for (int& one : next)
            one = solver_.variable();
        for (size_t at = 0; at < nodes.size(); ++at) {
            const Circuit::Node& node = nodes[at];
            const int v = next[at];
            const auto of = [](const std::vector<int>& pass, rig::prove::Wire wire) {
                return (wire & 1U) != 0 ? -pass[wire >> 1] : pass[wire >> 1];
            };
            switch (node.part) {
            case Circuit::Part::constant: solver_.clause({-v}); break;
            case Circuit::Part::input: break;
            case Circuit::Part::memory:
                if (now_.empty()) {
                    solver_.clause({node.starts ? v : -v});
                } else {
                    solver_.clause({-v, of(now_, node.a)});
                    solver_.clause({v, -of(now_, node.a)});
                }
                break;
            case Circuit::Part::gate:
                solver_.clause({-v, of(next, node.a)});
                solver_.clause({-v, of(next, node.b)});
                solver_.clause({v, -of(next, node.a), -of(next, node.b)});
                break;
            }
        }
        now_ = std::move(next);
    }

    const rig::Rig& rig_;
    rig::prove::Model model_;
    rig::prove::Solver solver_;
    std::vector<int> now_; ///< the variables of the last pass
    std::vector<Truth> truths_;
};

} // namespace random_rig
