// SPDX-License-Identifier: MIT
#include "bench/wiring.hpp"

#include "bench/plot.hpp"
#include "bench/sizing.hpp"
#include "rig/drive/part.hpp"
#include "rig/sense/part.hpp"
#include "rig/sense/said.hpp"

#include <zorilla/board/chips/atmega328p.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>
#include <map>

namespace zorilla::bench {

namespace {

using Chip = chips::Atmega328p;

int leg_of(const std::string& pin) {
    for (const PinFacts& facts : Chip::pins)
        if (pin == facts.name || (facts.channel >= 0 && pin == fmt::format("ADC{}", facts.channel)))
            return facts.leg;
    return 0;
}

std::string text_of(const rig::Node* node) {
    return node == nullptr                 ? std::string()
           : node->as_text() != nullptr    ? *node->as_text()
           : node->as_number().has_value() ? fmt::format("{:g}", *node->as_number())
                                           : std::string();
}

/// What stands in the braces of a text of a room.
std::string place(const std::string& inside, const rig::Node& table) {
    const size_t colon = inside.find(':'), bar = inside.find('|');
    if (colon != std::string::npos) {
        const double number = std::atof(inside.c_str() + colon + 1);
        if (inside.substr(0, colon) == "series") {
            LedTask led;
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
std::string filled(std::string text, const rig::Node& table, const std::string& supply) {
    for (size_t at; (at = text.find("{supply}")) != std::string::npos;)
        text.replace(at, 8, table.get("supply") == nullptr ? supply : std::string("{supply|}"));
    for (size_t at; (at = text.find('{')) != std::string::npos;) {
        const size_t end = text.find('}', at);
        text.replace(at, end - at + 1, place(text.substr(at + 1, end - at - 1), table));
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

/// A row for each pin that its room knows a wire for.
void add(std::vector<WiringRow>& out, const std::vector<rig::Wired>& wired, const rig::Node& table,
         const std::string& name, const std::string& part, bool drives,
         const std::string& supply = "5 V") {
    std::string before;
    for (const rig::Wired& wire : wired) {
        const rig::Node* pins = table.get(wire.pin_key);
        if (pins == nullptr || before == wire.pin_key || !fits(wire.when, table))
            continue;
        before = wire.pin_key;
        const std::string to = filled(wire.text, table, supply);
        const auto row = [&](const rig::Node& pin) {
            out.push_back({*pin.as_text(), leg_of(*pin.as_text()), name, part, to, drives});
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

struct Fixed {
    int leg;
    const char* name;
    const char* to;
};
/// What the chip needs whatever it does; data sheet, chapters 8.3 (crystal), 11.6 (reset) and 24.5
/// (converter).
constexpr Fixed fixed[] = {
    {1, "reset", "10 kohm to 5 V; a button from there to ground restarts it"},
    {7, "supply", "5 V, and 100 nF from there to ground, close to the chip"},
    {8, "ground", "ground"},
    {9, "crystal", "a crystal of 16 MHz to leg 10, and 22 pF to ground"},
    {10, "crystal", "the crystal's other leg, and 22 pF to ground"},
    {20, "converter's supply", "5 V, and 100 nF from there to ground"},
    {22, "ground", "ground"},
};
constexpr Fixed serial[] = {
    {2, "receives", "the sending wire of a USB adapter of 5 V, and the adapter's ground to ground"},
    {3, "sends", "the receiving wire of the USB adapter"},
};

/// The leg of the converter's reference.
std::string reference_of(const rig::Rig& rig) {
    for (const rig::Sense& sense : rig.senses)
        if (Chip::reference_of(sense.reference) == Reference::external)
            return fmt::format("{:g} V, and 100 nF to ground", sense.reference / 1000.0);
    return "100 nF to ground, and nothing else";
}

} // namespace

std::vector<WiringRow> wiring_of(const rig::Rig& rig) {
    std::vector<WiringRow> out;
    for (const rig::Sense& sense : rig.senses)
        add(out, rig::sense_kind(sense.word)->wired, rig::table_of(rig, sense), sense.name,
            plain(sense.word), false,
            Chip::reference_of(sense.reference) == Reference::external
                ? fmt::format("the {:g} V of the reference", sense.reference / 1000.0)
                : "5 V");
    for (const rig::Drive& drive : rig.drives)
        for (const rig::DriveKind& kind : rig::drive_kinds())
            if (drive.word == kind.word)
                add(out, kind.wired, *rig.written.get("drive")->get(drive.name), drive.name,
                    plain(drive.word), true);
    return out;
}

std::string wiring_page(const rig::Rig& rig) {
    std::string out = fmt::format("# {}: the wires\n\nAn ATmega328P with 28 legs, at 5 V and 16 "
                                  "MHz; leg 1 is left of the notch, and they count "
                                  "counterclockwise.\n\n"
                                  "| leg | pin | part | goes to |\n|---|---|---|---|\n",
                                  rig.name);
    for (const WiringRow& row : wiring_of(rig))
        out += fmt::format("| {} | {} | {}, {} | {} |\n",
                           row.leg == 0 ? "none; the package with 32 has it"
                                        : fmt::format("{}", row.leg),
                           row.pin, row.name, row.part, row.to);
    out += "\nWhat the chip itself needs:\n\n| leg | is | goes to |\n|---|---|---|\n";
    const auto add_fixed = [&out](const Fixed& one) {
        out += fmt::format("| {} | {} | {} |\n", one.leg, one.name, one.to);
    };
    for (const Fixed& one : fixed)
        add_fixed(one);
    out += fmt::format("| 21 | reference | {} |\n", reference_of(rig));
    for (const Fixed& one : serial)
        add_fixed(one);
    return out +
           "\nA pin bears 20 mA, and all of them together 200 mA. Resistors of LEDs are for 10 mA; "
           "`zorilla size led` and\n`zorilla size load` work them out for your part. A part with a "
           "supply of its own needs its ground joined\nto the chip's.\n";
}

namespace {

/// A text in a label that is a table.
std::string html(std::string_view text) {
    std::string out;
    for (const char c : text)
        out += c == '&'   ? std::string("&amp;")
               : c == '<' ? std::string("&lt;")
               : c == '>' ? std::string("&gt;")
                          : std::string(1, c);
    return out;
}

/// Broken into lines where words end.
std::string broken(const std::string& text, size_t width) {
    std::string out, line;
    size_t at = 0;
    while (at < text.size()) {
        const size_t end = std::min(text.find(' ', at), text.size());
        const std::string word = text.substr(at, end - at);
        if (!line.empty() && line.size() + 1 + word.size() > width) {
            out += html(line) + "<br align=\"left\"/>";
            line.clear();
        }
        line += (line.empty() ? "" : " ") + word;
        at = end + 1;
    }
    return out + html(line) + "<br align=\"left\"/>";
}

} // namespace

std::string wiring_dot(const rig::Rig& rig) {
    std::vector<WiringRow> rows = wiring_of(rig);
    rows.push_back({"PD0", 2, "line", "USB adapter", "its sending wire; grounds joined"});
    rows.push_back({"PD1", 3, "line", "USB adapter", "its receiving wire"});
    std::map<int, std::string> names, uses;
    for (const PinFacts& facts : Chip::pins)
        names[facts.leg] = facts.channel >= 0 ? fmt::format("ADC{}", facts.channel) : facts.name;
    for (const Fixed& one : fixed)
        names[one.leg] = one.name;
    names[21] = "reference";
    for (const WiringRow& row : rows)
        uses[row.leg] = row.pin;
    const auto cell = [&](int leg, bool left) {
        const bool used = uses.count(leg) != 0;
        const std::string name = used ? uses[leg] : names[leg];
        const std::string number = fmt::format(
            "<td port=\"p{0}\" width=\"26\" bgcolor=\"{1}\"><font color=\"{2}\">{0}</font></td>",
            leg, used ? plot::colours[0] : "#ffffff", used ? "#ffffff" : plot::ink);
        const std::string word =
            fmt::format("<td align=\"{}\" width=\"110\"><font color=\"{}\">{}</font></td>",
                        left ? "left" : "right", used ? plot::ink : plot::faint, html(name));
        return left ? number + word : word + number;
    };
    std::string chip = "<table border=\"2\" cellborder=\"0\" cellspacing=\"0\" cellpadding=\"3\">"
                       "<tr><td colspan=\"4\"><b>ATmega328P</b></td></tr>";
    for (int i = 1; i <= 14; ++i)
        chip += "<tr>" + cell(i, true) + cell(29 - i, false) + "</tr>";
    std::string out = fmt::format(
        "digraph wires {{\n  graph [label=<{0}: the wires. Green is driven, white is read.>, "
        "labelloc=t, labeljust=l, "
        "fontname=\"DejaVu Sans\", fontsize=16, fontcolor=\"{1}\", rankdir=LR, nodesep=0.12, "
        "ranksep=0.9, pad=0.3, splines=true]\n  node [shape=plain, fontname=\"DejaVu Sans\", "
        "fontsize=10, fontcolor=\"{1}\"]\n  edge [dir=none, color=\"{2}\", penwidth=1.4]\n"
        "  chip [label=<{3}</table>>]\n",
        html(rig.name), plot::ink, plot::colours[0], chip);
    // Legs 1 to 14 stand on the left from above, 28 to 15 on the right.
    std::vector<size_t> order(rows.size());
    for (size_t i = 0; i < order.size(); ++i)
        order[i] = i;
    const auto height = [&rows](size_t i) {
        const int leg = rows[i].leg;
        return leg == 0 ? 100 : leg <= 14 ? leg : 29 - leg;
    };
    std::stable_sort(order.begin(), order.end(),
                     [&](size_t a, size_t b) { return height(a) < height(b); });
    for (const size_t i : order) {
        const WiringRow& row = rows[i];
        out += fmt::format(
            "  part{} [label=<<table border=\"1\" cellborder=\"0\" cellpadding=\"2\" color=\"{}\" "
            "bgcolor=\"{}\"><tr><td align=\"left\" balign=\"left\"><b>{}</b>, {}<br "
            "align=\"left\"/>{}</td></tr></table>>]\n",
            i, plot::faint, row.drives ? plot::band_fill : "#ffffff", html(row.name),
            html(row.part),
            broken(row.leg == 0 ? row.pin + " is no leg of this package: " + row.to : row.to, 46));
        const bool left = row.leg >= 1 && row.leg <= 14;
        if (left)
            out += fmt::format("  part{} -> chip:p{}:w\n", i, row.leg);
        else if (row.leg != 0)
            out += fmt::format("  chip:p{}:e -> part{}\n", row.leg, i);
    }
    return out + "}\n";
}

} // namespace zorilla::bench
