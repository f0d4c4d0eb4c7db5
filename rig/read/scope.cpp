// SPDX-License-Identifier: MIT
// Conditions, pins and outputs, as the rooms of a rig's parts ask for them.
#include "rig/read/scope.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

void Scope::name_outputs(const Node& top) {
    const Node* drives = top.get("drive");
    if (drives == nullptr || !drives->is_table())
        return;
    for (size_t i = 0; i < drives->size(); ++i)
        outputs_.push_back({&drives->keys()[i].text, (*drives)[i].as_table()});
}

std::optional<size_t> Scope::output_number(std::string_view name, Names& names) const {
    for (size_t i = 0; i < outputs_.size(); ++i) {
        names.push_back(*outputs_[i].name);
        if (names.back() == name)
            return i;
    }
    return std::nullopt;
}

std::string Scope::example_fact() const {
    for (const Fact& fact : rig.facts)
        if (fact.kind == Fact::Kind::switched || fact.kind == Fact::Kind::decision)
            return fact.name;
    return "cold";
}

/// A condition as a key holds it; not given if the key is missing.
WrittenCondition Scope::condition(TableReader& keys, std::string_view key) {
    WrittenCondition out;
    const Node* node = keys.find(key);
    if (node == nullptr)
        return out;
    const auto text = keys.text(key, "cold and not airing");
    return text ? condition_of(*node, *text) : out;
}
WrittenCondition Scope::condition_of(const Node& node, const std::string& text) {
    WrittenCondition out;
    out.text = text;
    ConditionText read = parse_condition(text, [this](const FactText& fact, std::string& problem) {
        return find_fact(fact, problem);
    });
    if (!read.problem.empty()) {
        Place at = node.place();
        at.column += static_cast<uint32_t>(1 + read.offset);
        findings.add(at, std::move(read.problem));
    }
    out.condition = std::move(read.condition);
    return out;
}

std::string Scope::pin(TableReader& keys, PinWay way, std::string_view key, std::string_view why) {
    const ChipFacts* chip = rig.chip_facts();
    const bool has_gpio = chip != nullptr && chip->pins[0].name[0] == 'G';
    const bool reads = way == PinWay::input || way == PinWay::edges;
    const char* const example = way == PinWay::analogue ? "ADC0"
                                : has_gpio              ? "GPIO2"
                                : reads                 ? "PD2"
                                                        : "PB0";
    auto text = keys.required_text(key, example, why);
    if (!text)
        return {};
    plan.claim(rig.chip_facts(), *keys.find(key), way, keys.label(), findings);
    return *text;
}

std::vector<std::string> Scope::pins(TableReader& keys, std::string_view key) {
    std::vector<std::string> out;
    const std::string example = "[\"PD4\", \"PD5\", \"PD6\"]";
    if (!keys.require(key, "where its LEDs are connected, the lowest first", example))
        return out;
    const Node* list = keys.list(key, 1, 16, example);
    if (list == nullptr)
        return out;
    for (const Node& node : list->inside()) {
        if (!node.is_text()) {
            findings.add(node, "a pin is a text, such as \"PD4\"");
            continue;
        }
        plan.claim(rig.chip_facts(), node, PinWay::level, keys.label(), findings);
        out.push_back(*node.as_text());
    }
    return out;
}

} // namespace zorilla::rig
