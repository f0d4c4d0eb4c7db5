// SPDX-License-Identifier: MIT
#include "bench/budget/budget.hpp"

#include <algorithm>
#include <array>
#include <set>

namespace zorilla::bench {

namespace {

/// Keys of parts that bring a block, or more code, of their own.
constexpr std::array<std::pair<const char*, const char*>, 22> keys = {{
    {"trim", "trim"},         {"median", "median"},       {"fastest_change", "rate gate"},
    {"smooth", "smoothing"},  {"stuck_after", "watch"},   {"stale_after", "watch"},
    {"hold", "hold"},         {"spread", "oversampling"}, {"for_at_least", "lasting"},
    {"gone_for", "lasting"},  {"times", "counter"},       {"longest_total", "longest total"},
    {"fade", "fade"},         {"ramp", "fade"},           {"kick", "kick"},
    {"stall_after", "stall"}, {"warn", "warning"},        {"warn_off", "warning"},
    {"longest_on", "guard"},  {"min_on", "guard"},        {"min_off", "guard"},
    {"by_hand", "hand"},
}};
/// Words of parts that work with logarithms, whose code they share.
constexpr std::array with_logarithms = {"photoresistor", "gas_sensor", "dew_point",
                                        "absolute_humidity"};

/// How many names a condition joins.
int terms_of(const std::string& when) {
    int out = when.empty() ? 0 : 1;
    for (const char* joint : {" and ", " or "})
        for (size_t at = 0; (at = when.find(joint, at)) != std::string::npos; ++at)
            ++out;
    return out;
}

class Blocks {
  public:
    explicit Blocks(const rig::Rig& rig) : rig_(rig) {}

    std::vector<PartBlocks> all() {
        for (const rig::Sense& sense : rig_.senses) {
            begin("sense", sense.name, sense.word);
            if (!sense.inputs.empty())
                add("corrected");
        }
        for (const rig::Derive& derive : rig_.derives) {
            begin("derive", derive.name, derive.word);
            add("derived from", static_cast<int>(derive.of.size()));
        }
        for (const rig::Decide& decide : rig_.decides)
            of(decide);
        for (const rig::RigMachine& machine : rig_.machines) {
            begin("machine", machine.name, "machine");
            add("transition", static_cast<int>(machine.moves.size()));
            for (const rig::WrittenCondition& event : machine.events)
                add("term", terms_of(event.text));
        }
        for (const rig::Drive& drive : rig_.drives)
            of(drive);
        if (!rig_.shutdown.order.empty()) {
            begin("rig", "shutdown", "shutdown");
            add("shut down", static_cast<int>(rig_.shutdown.order.size()));
        }
        if (rig_.self_test.when.given())
            begin("rig", "self_test", "self-test");
        return std::move(out_);
    }

  private:
    void add(const std::string& block, int count = 1) {
        if (count > 0)
            out_.back().blocks[block] += count;
    }
    /// \param group  of the file  \param word  what kind of part it is
    void begin(const char* group, const std::string& name, const std::string& word) {
        out_.push_back({name, {}});
        add("part");
        add(word);
        if (std::find(with_logarithms.begin(), with_logarithms.end(), word) !=
            with_logarithms.end())
            add("logarithm");
        const rig::Node* parts = rig_.written.get(group);
        const rig::Node* table = parts == nullptr ? nullptr : parts->get(name);
        if (table == nullptr)
            return;
        for (const auto& [key, block] : keys)
            if (table->get(key) != nullptr)
                add(block);
    }
    void of(const rig::Decide& decide) {
        begin("decide", decide.name, decide.word);
        add("stage", decide.gives == rig::Gives::stage ? decide.stages : 0);
        const rig::Node* points = rig_.written.get("decide")->get(decide.name)->get("points");
        add("point", points == nullptr ? 0 : static_cast<int>(points->size()));
        add("term", terms_of(decide.when.text) + terms_of(decide.reset.text));
    }
    void of(const rig::Drive& drive) {
        begin("drive", drive.name, drive.word);
        add("pin", static_cast<int>(drive.pins.size()));
        for (const rig::RigClaim& claim : drive.claims) {
            if (claim.by != rig::RigClaim::By::rule)
                continue;
            add("claim");
            add("term", terms_of(claim.text));
            add("followed", claim.follows ? 1 : 0);
            add("pattern", claim.pattern.empty() ? 0 : 1);
            add("step", static_cast<int>(claim.pattern.size()));
        }
    }

    const rig::Rig& rig_;
    std::vector<PartBlocks> out_;
};

} // namespace

std::vector<PartBlocks> blocks_of(const rig::Rig& rig) { return Blocks(rig).all(); }

Budget budget_of(const rig::Rig& rig) {
    Budget out;
    out.all = block_costs.front().first;
    std::set<std::string> there;
    for (const PartBlocks& part : blocks_of(rig)) {
        Cost sum;
        for (const auto& counted : part.blocks) {
            const std::string& block = counted.first;
            const auto cost =
                std::find_if(block_costs.begin(), block_costs.end(),
                             [&block](const BlockCost& one) { return one.block == block; });
            if (cost == block_costs.end()) {
                out.unknown.push_back(block);
                continue;
            }
            int further = counted.second;
            if (there.insert(block).second) {
                sum += cost->first;
                --further;
            }
            for (; further > 0; --further)
                sum += cost->further;
        }
        out.all += sum;
        out.parts.emplace_back(part.part, sum);
    }
    std::sort(out.parts.begin(), out.parts.end(),
              [](const auto& a, const auto& b) { return a.second.flash > b.second.flash; });
    return out;
}

} // namespace zorilla::bench
