// SPDX-License-Identifier: MIT
#include "bench/wiring.hpp"

#include "bench/sizing.hpp"
#include "bench/wiring_chip.hpp"
#include "rig/drive/part.hpp"
#include "rig/sense/part.hpp"
#include "rig/sense/said.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>

namespace zorilla::bench {

namespace {

std::string text_of(const rig::Node* node) {
    if (node != nullptr && node->is_list()) {
        std::string all;
        for (const rig::Node& one : node->inside())
            all += (all.empty() ? "" : " and ") + *one.as_text();
        return all;
    }
    return node == nullptr                 ? std::string()
           : node->as_text() != nullptr    ? *node->as_text()
           : node->as_number().has_value() ? fmt::format("{:g}", *node->as_number())
                                           : std::string();
}

/// What stands in the braces of a text of a room.
std::string place(const std::string& inside, const rig::Node& table, const ChipFacts& chip) {
    if (inside == "board")
        return rig::volts_of(chip.supply);
    const size_t colon = inside.find(':'), bar = inside.find('|');
    if (colon != std::string::npos) {
        const double number = std::atof(inside.c_str() + colon + 1);
        if (inside.substr(0, colon) == "series") {
            LedTask led;
            led.supply = chip.supply / 1000.0;
            led.amperes = chip.pin_milliamperes / 2000.0;
            led.pin_limit = chip.pin_milliamperes / 1000.0;
            led.forward = number;
            return ohms_text(size_led(led).ohms);
        }
        LoadTask coil;
        coil.amperes = coil.supply / number;
        return ohms_text(size_load(coil).base_ohms);
    }
    const std::string said = text_of(table.get(inside.substr(0, bar)));
    return said.empty() && bar != std::string::npos ? inside.substr(bar + 1) : said;
}

/// A divider without a supply of its own hangs on what the converter measures against.
std::string filled(std::string text, const rig::Node& table, const std::string& supply,
                   const ChipFacts& chip) {
    for (size_t at; (at = text.find("{supply}")) != std::string::npos;)
        text.replace(at, 8, table.get("supply") == nullptr ? supply : std::string("{supply|}"));
    for (size_t at; (at = text.find('{')) != std::string::npos;) {
        const size_t end = text.find('}', at);
        text.replace(at, end - at + 1, place(text.substr(at + 1, end - at - 1), table, chip));
    }
    return text;
}

bool fits(const std::string& when, const rig::Node& table) {
    const size_t equals = when.find('=');
    return when.empty() ||
           (equals == std::string::npos
                ? table.get(when) != nullptr
                : text_of(table.get(when.substr(0, equals))) == when.substr(equals + 1));
}

int leg_of(const ChipFacts& chip, const std::string& pin) {
    const PinFacts* facts = rig::pin_named(chip, pin);
    return facts == nullptr ? 0 : facts->leg;
}

/// A row for each pin that its room knows a wire for.
void add(std::vector<WiringRow>& out, const std::vector<rig::Wired>& wired, const rig::Node& table,
         const std::string& name, const std::string& part, bool drives, const ChipFacts& chip,
         const std::string& supply) {
    std::string before;
    for (const rig::Wired& wire : wired) {
        const rig::Node* pins = table.get(wire.pin_key);
        if (pins == nullptr || before == wire.pin_key || !fits(wire.when, table))
            continue;
        before = wire.pin_key;
        const std::string to = filled(wire.text, table, supply, chip);
        const auto row = [&](const rig::Node& pin) {
            out.push_back({*pin.as_text(), leg_of(chip, *pin.as_text()), name, part, to, drives});
        };
        if (pins->is_list())
            for (const rig::Node& pin : pins->inside())
                row(pin);
        else
            row(*pins);
    }
}

/// "ranger" of the word in rig files, "RGB LED" of "rgb_led".
std::string plain(std::string word) {
    if (const size_t led = word.find("rgb_led"); led == 0)
        return "RGB LED";
    std::replace(word.begin(), word.end(), '_', ' ');
    if (const size_t led = word.find("led"); led == 0)
        word.replace(0, 3, "LED");
    return word;
}

} // namespace

std::vector<WiringRow> wiring_of(const rig::Rig& rig) {
    // Of another chip's pins it is not known where they are, but well what goes there.
    const ChipFacts& chip =
        rig.chip_facts() == nullptr ? *rig::all_chips().front() : *rig.chip_facts();
    const std::string supply = rig::volts_of(chip.supply);
    std::vector<WiringRow> out;
    for (const rig::Sense& sense : rig.senses)
        add(out, rig::sense_kind(sense.word)->wired, rig::table_of(rig, sense), sense.name,
            plain(sense.word), false, chip,
            chip.reference_of(sense.reference) == Reference::external
                ? fmt::format("the {} of the reference", rig::volts_of(sense.reference))
                : supply);
    for (const rig::Drive& drive : rig.drives)
        for (const rig::DriveKind& kind : rig::drive_kinds())
            if (drive.word == kind.word)
                add(out, kind.wired, *rig.written.get("drive")->get(drive.name), drive.name,
                    plain(drive.word), true, chip, supply);
    return out;
}

std::string wiring_page(const rig::Rig& rig) {
    const ChipFacts& chip = *rig.chip_facts();
    const ChipWires wires = wires_of(rig);
    std::string out = fmt::format("# {}: the wires\n\n{}\n\n"
                                  "| leg | pin | part | goes to |\n|---|---|---|---|\n",
                                  rig.name, wires.about);
    for (const WiringRow& row : wiring_of(rig))
        out += fmt::format("| {} | {} | {}, {} | {} |\n",
                           row.leg == 0 ? "none; the package with 32 has it"
                                        : fmt::format("{}", row.leg),
                           row.pin, row.name, row.part, row.to);
    if (!wires.fixed.empty())
        out += "\nWhat the chip itself needs:\n\n| leg | is | goes to |\n|---|---|---|\n";
    for (const FixedWire& one : wires.fixed)
        out += fmt::format("| {} | {} | {} |\n", one.leg, one.name, one.to);
    return out +
           fmt::format("\nA pin bears {} mA, and all of them together {} mA. Resistors of LEDs are "
                       "for {:g} mA; `zorilla size led` and\n`zorilla size load` work them out for "
                       "your part. A part with a supply of its own needs its ground joined\nto the "
                       "chip's.\n",
                       chip.pin_milliamperes, chip.all_milliamperes, chip.pin_milliamperes / 2.0);
}

} // namespace zorilla::bench
