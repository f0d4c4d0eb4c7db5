// SPDX-License-Identifier: MIT
// Conditions, pins and outputs, as the rooms of a rig's parts ask for them.
#include "rig/read/scope.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

namespace {

/// A pin of the ATmega328P by the names of its data sheet; ADC0 to ADC5 are PC0 to PC5.
std::optional<std::string> atmega328p_pin(std::string_view pin, bool analogue) {
    const auto bit_in = [&](std::string_view prefix, char last) {
        return pin.size() == prefix.size() + 1 && pin.substr(0, prefix.size()) == prefix &&
               pin.back() >= '0' && pin.back() <= last;
    };
    if (analogue)
        return bit_in("ADC", '7') ? std::optional(std::string(pin)) : std::nullopt;
    if (bit_in("PC", '5'))
        return fmt::format("ADC{}", pin.back());
    if (bit_in("PB", '7') || bit_in("PD", '7'))
        return std::string(pin);
    return std::nullopt;
}

} // namespace

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

std::string Scope::pin(TableReader& keys, PinUse use, std::string_view key, std::string_view why) {
    const bool analogue = use == PinUse::analogue;
    const std::string example = analogue ? "ADC0" : use == PinUse::input ? "PD2" : "PB0";
    auto text = keys.required_text(key, example, why);
    if (!text)
        return {};
    return pin_at(*keys.find(key), *text, use, keys);
}

std::string Scope::pin_at(const Node& node, const std::string& text, PinUse use,
                          const TableReader& keys) {
    const bool analogue = use == PinUse::analogue;
    std::optional<std::string> physical = text;
    if (rig.chip == "atmega328p")
        physical = atmega328p_pin(text, analogue);
    if (!physical)
        findings.add(
            node,
            fmt::format("the atmega328p has no {} pin \"{}\"; write {}",
                        analogue                ? "analogue"
                        : use == PinUse::output ? "output"
                                                : "digital",
                        text, analogue ? "ADC0 to ADC7" : "PB0 to PB7, PC0 to PC5 or PD0 to PD7"));
    else
        findings.claim_pin(node, *physical, text, keys.label());
    return text;
}

std::vector<std::string> Scope::pins(TableReader& keys, std::string_view key) {
    std::vector<std::string> out;
    const std::string example = "[\"PD4\", \"PD5\", \"PD6\"]";
    if (!keys.require(key, "where its LEDs are connected, the lowest first", example))
        return out;
    const auto* list = keys.list(key, 1, 16, example);
    if (list == nullptr)
        return out;
    for (const Node& node : list->inside()) {
        const auto* text = node.as_text();
        if (text == nullptr)
            findings.add(node, "a pin is a text, such as \"PD4\"");
        else
            out.push_back(pin_at(node, *text, PinUse::output, keys));
    }
    return out;
}

bool Scope::has_pwm(const std::string& name) const {
    const Names with_pwm = {"PB1", "PB2", "PB3", "PD3", "PD5", "PD6"};
    return rig.chip != "atmega328p" ||
           std::find(with_pwm.begin(), with_pwm.end(), name) != with_pwm.end();
}

} // namespace zorilla::rig
