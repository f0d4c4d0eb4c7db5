// SPDX-License-Identifier: MIT
#include "rig/emit/look.hpp"

#include "rig/emit/loop.hpp"
#include "rig/read/pins.hpp"

#include <zorilla/board/chips/atmega328p.hpp>

#include <fmt/format.h>

#include <set>

namespace zorilla::rig {

std::vector<std::string> look_mistakes(const std::vector<LookPin>& pins) {
    std::vector<std::string> out;
    std::set<std::string> named;
    for (const LookPin& look : pins)
        for (const std::string& pin : {look.pin, look.ping})
            // The converter calls PC0 to PC5 ADC0 to ADC5.
            if (!pin.empty() &&
                !named
                     .insert(pin.substr(0, 3) == "ADC" && pin < "ADC6" ? "PC" + pin.substr(3) : pin)
                     .second)
                out.push_back(fmt::format("{} is named twice; a pin is looked at in one way", pin));
    if (!out.empty())
        return out;
    Findings findings;
    PinPlan plan;
    for (const LookPin& look : pins) {
        const auto claim = [&](const std::string& pin, PinWay way) {
            plan.claim(chips::Atmega328p::name, Node::text(pin), way, look.pin, findings);
        };
        if (!look.ping.empty())
            claim(look.ping, PinWay::level);
        claim(look.pin, look.as == RawKind::code ? PinWay::analogue : PinWay::input);
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

std::string look_program(const std::vector<LookPin>& pins, Duration every) {
    MainWriter loop;
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
    loop.includes = "#include <zorilla/board/atmega328p.hpp>\n";
    loop.globals += "Instant now;\n";
    return loop.text("Sends what pins of an ATmega328P at 16 MHz read, at 38,400 baud: for zorilla "
                     "capture.\n// Nothing is decided, and nothing driven.",
                     every);
}

} // namespace zorilla::rig
