// SPDX-License-Identifier: MIT
#include "rig/emit/look.hpp"

#include "rig/emit/loop.hpp"
#include "rig/read/pins.hpp"

#include <fmt/format.h>

#include <set>

namespace zorilla::rig {

namespace {

/// The first that sends.
const LineFacts& looking_line(const ChipFacts& chip) {
    return chip.lines[0].kind == LineKind::none ? chip.lines[1] : chip.lines[0];
}

} // namespace

std::vector<std::string> look_mistakes(const ChipFacts& chip, const std::vector<LookPin>& pins) {
    std::vector<std::string> out;
    std::set<std::string> named;
    for (const LookPin& look : pins)
        for (const std::string& pin : {look.pin, look.ping})
            if (const PinFacts* facts = pin_named(chip, pin); // the converter calls PC0 ADC0
                !pin.empty() && !named.insert(facts == nullptr ? pin : facts->name).second)
                out.push_back(fmt::format("{} is named twice; a pin is looked at in one way", pin));
    if (!out.empty())
        return out;
    Findings findings;
    PinPlan plan;
    const LineFacts& line = looking_line(chip);
    for (const char* pin : {line.receives, line.sends})
        if (pin != nullptr && pin_named(chip, pin)->taken == nullptr)
            plan.give(chip, {}, pin, line.kind == LineKind::timer ? PinWay::line : PinWay::level,
                      "its line", findings);
    for (const LookPin& look : pins) {
        const auto claim = [&](const std::string& pin, PinWay way) {
            plan.claim(&chip, Node::text(pin), way, look.pin, findings);
        };
        if (!look.ping.empty())
            claim(look.ping, PinWay::level);
        claim(look.pin, look.as == RawKind::code    ? PinWay::analogue
                        : look.as == RawKind::level ? PinWay::input
                                                    : PinWay::edges);
    }
    plan.finish(findings);
    for (const Mistake& mistake : findings.sorted())
        out.push_back(mistake.text);
    return out;
}

size_t look_row_size(const std::vector<LookPin>& pins) {
    size_t out = MainWriter::time_width;
    for (const LookPin& look : pins)
        out += MainWriter::width(look.as);
    return out;
}

std::string look_program(const ChipFacts& chip, const std::vector<LookPin>& pins, Duration every) {
    MainWriter loop(chip, looking_line(chip).name);
    for (const LookPin& look : pins) {
        const std::string pin = board_pin(look.pin);
        const std::string name = pin.substr(pin.rfind(':') + 1);
        const char* const roles[] = {"Analogue<{}>", "EchoTime<{1}, {0}>", "FrameLine<{}>",
                                     "Digital<{}, Pull::up>", "Pulses<{}>"};
        const std::string called =
            loop.role(name, fmt::format(fmt::runtime(roles[static_cast<size_t>(look.as)]), pin,
                                        board_pin(look.ping)));
        if (look.as == RawKind::frame) {
            const std::string asked = "asked_" + name;
            loop.globals += fmt::format("Instant {};\n", asked);
            // Such sensors need two seconds between two answers.
            loop.reads += fmt::format("        if (now - {0} >= 2'500_ms) {{\n"
                                      "            {0} = now;\n            Wires::start<{1}>();\n"
                                      "        }}\n",
                                      asked, called);
        }
        loop.column(look.pin, look.as, fmt::format("Wires::read<{}>()", called));
    }
    loop.send();
    loop.globals += "Instant now;\n";
    return loop.text(fmt::format("Sends what pins of {} read, at 38,400 baud: for zorilla "
                                 "capture.\n// Nothing is decided, and nothing driven.",
                                 with_clock(chip)),
                     every);
}

} // namespace zorilla::rig
