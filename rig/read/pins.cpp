// SPDX-License-Identifier: MIT
#include "rig/read/pins.hpp"

#include "rig/model/chip.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

namespace zorilla::rig {

namespace {

/// The pin of a name: the converter calls PC0 ADC0.
std::optional<size_t> pin_of(const ChipFacts& chip, std::string_view name, PinWay way) {
    const PinFacts* pin = pin_named(chip, name);
    const bool by_channel = name.substr(0, 3) == "ADC";
    if (pin == nullptr || by_channel != (way == PinWay::analogue))
        return std::nullopt;
    return static_cast<size_t>(pin - chip.pins);
}

/// What a timer makes.
std::string_view words_of(PinWay way) {
    return way == PinWay::tone    ? "a tone"
           : way == PinWay::servo ? "a servo's pulses"
           : way == PinWay::line  ? "the bits of a line"
                                  : "a duty";
}

} // namespace

void PinPlan::claim(const ChipFacts* chip, const Node& node, PinWay way, const std::string& table,
                    Findings& findings) {
    const std::string& text = *node.as_text();
    chip_ = chip;
    const auto pin = chip == nullptr ? std::nullopt : pin_of(*chip, text, way);
    uses_.push_back({node.place(), pin, table, way, text});
    if (chip == nullptr)
        return findings.claim_pin(node, text, text, table);
    if (!pin)
        return findings.add_of_pins(
            node.place(),
            fmt::format("the {} has no {} pin \"{}\"; write {}", chip->name,
                        way == PinWay::analogue ? "analogue"
                        : way == PinWay::level  ? "output"
                                                : "digital",
                        text, way == PinWay::analogue ? chip->analogue_pins : chip->digital_pins));
    findings.claim_pin(node, one_name_of(chip->pins[*pin]), text, table);
}

void PinPlan::give(const ChipFacts& chip, Place place, const char* pin, PinWay way,
                   const std::string& table, Findings& findings) {
    chip_ = &chip;
    const PinFacts& facts = *pin_named(chip, pin);
    findings.claim_pin(place, one_name_of(facts), pin, table);
    uses_.push_back({place, static_cast<size_t>(&facts - chip.pins), table, way, pin, true});
}

void PinPlan::use(const std::string& table, PinWay way) {
    for (Use& use : uses_)
        if (use.table == table)
            use.way = way;
}

/// What keeps a pin from being used so, up to the pin that would do; empty if nothing does.
std::string PinPlan::problem_of(const Use& use, const Owners& owners) const {
    const PinFacts& pin = chip_->pins[*use.pin];
    if (pin.taken != nullptr)
        return fmt::format("{} {}", pin.name, pin.taken);
    if (use.way == PinWay::edges && pin.edges < 0)
        return fmt::format("{} cannot tell when it changes, as {} needs it", pin.name, use.table);
    if (!is_made_by_timer(use.way))
        return {};
    if (use.way == PinWay::line) // which has a timer of its own
        return {};
    const std::string_view what = words_of(use.way);
    if (pin.timer < 0)
        return fmt::format("{} can only be on or off; {} for {} needs a pin that a timer drives",
                           pin.name, what, use.table);
    const std::string wants =
        fmt::format("{} on {} would take timer {} for {}", use.table, pin.name, pin.timer, what);
    const TimerFacts& timer = chip_->timers[pin.timer];
    if (timer.runs_clock && use.way != PinWay::duty)
        return wants + ", but that runs the clock, and gives nothing but duties beside it";
    if (!can(timer, use.way))
        return fmt::format("{}, which takes more than its {} bits", wants, timer.bits);
    const std::optional<Use>& owner = owners[static_cast<size_t>(pin.timer)];
    if (!owner || (owner->table == use.table && owner->pin == use.pin) ||
        go_together(owner->way, use.way))
        return {};
    return fmt::format("{}, but {} on {} takes that for {}", wants, owner->table,
                       chip_->pins[*owner->pin].name, words_of(owner->way));
}

std::string PinPlan::another(const Use& use) {
    const auto fits = [&](size_t pin, const Owners& owners) {
        return !offered_[pin] && chip_->pins[pin].name[0] != 'A' &&
               problem_of({{}, pin, {}, use.way, {}}, owners).empty();
    };
    const auto user_of = [this](size_t pin) {
        return std::find_if(uses_.begin(), uses_.end(),
                            [pin](const Use& one) { return one.pin == pin; });
    };
    const auto offer = [&](size_t pin) {
        const PinFacts& facts = chip_->pins[pin];
        offered_[pin] = true;
        if (is_made_by_timer(use.way) && !planned_[static_cast<size_t>(facts.timer)])
            planned_[static_cast<size_t>(facts.timer)] = {use.place, pin, use.table, use.way, {}};
        return fmt::format("; {} would do", facts.name);
    };
    // Pins of timers are the last to be given away to what needs none.
    for (const Owners* owners : {&planned_, &owners_})
        for (const bool with_timer : {false, true})
            for (size_t pin = 0; pin < chip_->pin_count; ++pin) {
                const int timer = chip_->pins[pin].timer;
                if (!fits(pin, *owners) || (timer >= 0) != with_timer ||
                    user_of(pin) != uses_.end())
                    continue;
                const std::string other =
                    owners == &owners_
                        ? fmt::format(", unless timer {} is taken for {} then", timer,
                                      planned_[static_cast<size_t>(timer)]->table)
                        : std::string();
                return offer(pin) + other;
            }
    for (size_t pin = 0; pin < chip_->pin_count; ++pin)
        if (const auto user = user_of(pin); fits(pin, planned_) && !is_made_by_timer(user->way))
            return offer(pin) + fmt::format(", if {} went elsewhere", user->table);
    return "; no pin is left that could do it: leave a part out, or take one that needs no timer";
}

void PinPlan::finish(Findings& findings) {
    if (chip_ == nullptr)
        return;
    owners_.assign(chip_->timer_count, std::nullopt);
    offered_.assign(chip_->pin_count, false);
    for (const Use& use : uses_)
        if (use.pin && use.way == PinWay::line)
            owners_[static_cast<size_t>(chip_->pins[*use.pin].timer)] = use;
    // What can be made by the fewest timers has them first.
    for (const bool servos : {true, false})
        for (const Use& use : uses_)
            if (use.pin && is_made_by_timer(use.way) && use.way != PinWay::line &&
                (use.way == PinWay::servo) == servos && problem_of(use, owners_).empty())
                owners_[static_cast<size_t>(chip_->pins[*use.pin].timer)] = use;
    planned_ = owners_;
    for (const Use& use : uses_)
        if (!use.pin)
            continue;
        else if (const std::string problem = problem_of(use, owners_); !problem.empty())
            findings.add_of_pins(use.place, problem + another(use));
}

} // namespace zorilla::rig
