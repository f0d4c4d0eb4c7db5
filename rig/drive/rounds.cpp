// SPDX-License-Identifier: MIT
// What a device does with its outputs as a whole: shuts them down in order, and tries them alone.
#include "rig/drive/reader.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

void read_shutdown(Scope& scope, TableReader& keys) {
    Shutdown& out = scope.rig.shutdown;
    keys.require("when", "what shuts the device down", fmt::format("\"{}\"", scope.example_fact()));
    out.when = scope.condition(keys, "when");
    out.gap = Duration::from_thousandths(keys.quantity("gap", Kind::duration, "2 s").value_or(0));
    keys.expect(out.gap >= Duration{} && out.gap <= 24_h * 24, "gap", "between 0 and 24 d");
    const std::string example = "[\"water_valve\", \"heat_lamp\"]";
    if (!keys.require("order", "the outputs, first to last", example))
        return;
    const auto* list = keys.list("order", 1, 64, example);
    if (list == nullptr)
        return;
    for (const Node& node : list->inside()) {
        Names names;
        const auto* name = node.as_text();
        const auto number =
            name == nullptr ? std::nullopt : scope.output_number(std::string_view(*name), names);
        if (!number) {
            scope.findings.add(
                node,
                name == nullptr
                    ? std::string("an output is named by a text, such as \"pump\"")
                    : fmt::format("there is no [drive.{}]{}", *name, suggestion(*name, names)));
            continue;
        }
        if (std::find(out.order.begin(), out.order.end(), *number) != out.order.end()) {
            scope.findings.add(node, fmt::format("{} stands twice in the order", *name));
            continue;
        }
        out.facts.push_back(scope.fact_number({Fact::Kind::shut_down, *number,
                                               static_cast<uint8_t>(out.order.size()),
                                               fmt::format("shutdown of {}", *name)}));
        out.order.push_back(*number);
    }
}

void read_self_test(Scope& scope, TableReader& keys) {
    SelfTest& out = scope.rig.self_test;
    keys.require("when", "what begins it", fmt::format("\"{}\"", scope.example_fact()));
    out.when = scope.condition(keys, "when");
    out.each =
        Duration::from_thousandths(keys.quantity("each", Kind::duration, "2 s").value_or(2000));
    keys.expect(out.each > Duration{} && out.each <= 24_h, "each", "above 0, and up to 1 d");
}

void finish_shutdown(Rig& rig) {
    for (size_t i = 0; i < rig.shutdown.order.size(); ++i) {
        const size_t at = rig.shutdown.order[i];
        if (at >= rig.drives.size())
            continue;
        Drive& drive = rig.drives[at];
        RigClaim claim;
        claim.by = RigClaim::By::shutdown;
        claim.text = rig.facts[rig.shutdown.facts[i]].name;
        claim.when = Condition::of(rig.shutdown.facts[i]);
        claim.says = drive.says(claim.then); // off
        drive.claims.insert(drive.claims.begin(), std::move(claim));
    }
}

} // namespace zorilla::rig
