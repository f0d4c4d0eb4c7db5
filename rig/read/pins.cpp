// SPDX-License-Identifier: MIT
#include "rig/read/pins.hpp"

#include <zorilla/board/chips/atmega328p.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

namespace zorilla::rig {

namespace {

using Chip = chips::Atmega328p;
constexpr size_t pin_count = std::size(Chip::pins);

bool is_made_by_timer(PinWay way) { return way >= PinWay::duty; }

/// The pin of a name; ADC0 to ADC5 are PC0 to PC5 by what the converter calls them.
std::optional<size_t> pin_of(std::string_view name, PinWay way) {
    for (size_t i = 0; i < pin_count; ++i) {
        const PinFacts& pin = Chip::pins[i];
        const std::string channel = fmt::format("ADC{}", pin.channel);
        if (way == PinWay::analogue ? pin.channel >= 0 && name == channel
                                    : name == pin.name && name.substr(0, 3) != "ADC")
            return i;
    }
    return std::nullopt;
}

/// What a pin is claimed as, whatever the file calls it.
std::string one_name_of(size_t pin) {
    const PinFacts& facts = Chip::pins[pin];
    return facts.channel >= 0 ? fmt::format("ADC{}", facts.channel) : std::string(facts.name);
}

/// What a timer makes.
std::string_view words_of(PinWay way) {
    return way == PinWay::tone ? "a tone" : way == PinWay::servo ? "a servo's pulses" : "a duty";
}

} // namespace

void PinPlan::claim(const std::string& chip, const Node& node, PinWay way, const std::string& table,
                    Findings& findings) {
    const std::string& text = *node.as_text();
    if (chip != Chip::name)
        return findings.claim_pin(node, text, text, table);
    const auto pin = pin_of(text, way);
    if (!pin)
        return findings.add(node, fmt::format("the {} has no {} pin \"{}\"; write {}", chip,
                                              way == PinWay::analogue ? "analogue"
                                              : way == PinWay::level  ? "output"
                                                                      : "digital",
                                              text,
                                              way == PinWay::analogue
                                                  ? "ADC0 to ADC7"
                                                  : "PB0 to PB5, PC0 to PC5 or PD2 to PD7"));
    findings.claim_pin(node, one_name_of(*pin), text, table);
    uses_.push_back({node.place(), *pin, table, way});
}

void PinPlan::use(const std::string& table, PinWay way) {
    for (Use& use : uses_)
        if (use.table == table)
            use.way = way;
}

/// What keeps a pin from being used so, up to the pin that would do; empty if nothing does.
std::string PinPlan::problem_of(const Use& use, const Owners& owners) const {
    const PinFacts& pin = Chip::pins[use.pin];
    if (pin.taken != nullptr)
        return fmt::format("{} {}", pin.name, pin.taken);
    if (!is_made_by_timer(use.way))
        return {};
    const std::string_view what = words_of(use.way);
    if (pin.timer < 0)
        return fmt::format("{} can only be on or off; {} for {} needs a pin that a timer drives",
                           pin.name, what, use.table);
    const std::string wants =
        fmt::format("{} on {} would take timer {} for {}", use.table, pin.name, pin.timer, what);
    const TimerFacts& timer = Chip::timers[pin.timer];
    if (timer.runs_clock && use.way != PinWay::duty)
        return wants + ", but that runs the clock, and gives nothing but duties beside it";
    if (!can(timer, use.way))
        return fmt::format("{}, which takes more than its {} bits", wants, timer.bits);
    const std::optional<Use>& owner = owners[static_cast<size_t>(pin.timer)];
    if (!owner || (owner->table == use.table && owner->pin == use.pin) ||
        go_together(owner->way, use.way))
        return {};
    return fmt::format("{}, but {} on {} takes that for {}", wants, owner->table,
                       Chip::pins[owner->pin].name, words_of(owner->way));
}

std::string PinPlan::another(const Use& use) {
    const auto fits = [&](size_t pin, const Owners& owners) {
        return !offered_[pin] && Chip::pins[pin].name[0] == 'P' &&
               problem_of({{}, pin, {}, use.way}, owners).empty();
    };
    const auto user_of = [this](size_t pin) {
        return std::find_if(uses_.begin(), uses_.end(),
                            [pin](const Use& one) { return one.pin == pin; });
    };
    const auto offer = [&](size_t pin) {
        const PinFacts& facts = Chip::pins[pin];
        offered_[pin] = true;
        if (is_made_by_timer(use.way) && !planned_[static_cast<size_t>(facts.timer)])
            planned_[static_cast<size_t>(facts.timer)] = {use.place, pin, use.table, use.way};
        return fmt::format("; {} would do", facts.name);
    };
    // Pins of timers are the last to be given away to what needs none.
    for (const Owners* owners : {&planned_, &owners_})
        for (const bool with_timer : {false, true})
            for (size_t pin = 0; pin < pin_count; ++pin) {
                const int timer = Chip::pins[pin].timer;
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
    for (size_t pin = 0; pin < pin_count; ++pin)
        if (const auto user = user_of(pin); fits(pin, planned_) && !is_made_by_timer(user->way))
            return offer(pin) + fmt::format(", if {} went elsewhere", user->table);
    return "; no pin is left that could do it: leave a part out, or take one that needs no timer";
}

void PinPlan::finish(Findings& findings) {
    owners_.assign(std::size(Chip::timers), std::nullopt);
    offered_.assign(pin_count, false);
    // What can be made by the fewest timers has them first.
    for (const bool servos : {true, false})
        for (const Use& use : uses_)
            if (is_made_by_timer(use.way) && (use.way == PinWay::servo) == servos &&
                problem_of(use, owners_).empty())
                owners_[static_cast<size_t>(Chip::pins[use.pin].timer)] = use;
    planned_ = owners_;
    for (const Use& use : uses_)
        if (const std::string problem = problem_of(use, owners_); !problem.empty())
            findings.add(use.place, problem + another(use));
}

} // namespace zorilla::rig
