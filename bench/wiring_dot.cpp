// SPDX-License-Identifier: MIT
// The wires of a rig as a picture.
#include "bench/plot.hpp"
#include "bench/wiring.hpp"
#include "bench/wiring_chip.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

namespace zorilla::bench {

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
    const ChipFacts& facts = *rig.chip_facts();
    std::vector<WiringRow> rows = wiring_of(rig);
    const LineFacts& line = *rig::line_named(facts, rig.line);
    const auto to_adapter = [&](const char* pin, const char* wire) {
        if (pin != nullptr)
            rows.push_back({pin, rig::pin_named(facts, pin)->leg, "line", "USB adapter", wire});
    };
    to_adapter(line.receives, "its sending wire; grounds joined");
    to_adapter(line.sends, "its receiving wire");
    std::map<int, std::string> names, uses;
    for (const PinFacts* pin = facts.pins; pin != facts.pins + facts.pin_count; ++pin)
        names[pin->leg] = rig::one_name_of(*pin);
    for (const FixedWire& one : wires_of(rig).fixed)
        names[one.leg] = one.name;
    for (const WiringRow& row : rows)
        uses[row.leg] = row.pin;
    // Of a large package only the legs that something hangs on.
    std::vector<int> left_legs;
    for (int leg = 1; leg <= facts.legs; ++leg)
        if (facts.legs <= 28 || uses.count(leg) != 0)
            left_legs.push_back(leg);
    const auto middle = left_legs.begin() + static_cast<ptrdiff_t>((left_legs.size() + 1) / 2);
    const std::vector<int> right_legs(left_legs.rbegin(), std::make_reverse_iterator(middle));
    left_legs.erase(middle, left_legs.end());
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
    std::string chip = fmt::format("<table border=\"2\" cellborder=\"0\" cellspacing=\"0\" "
                                   "cellpadding=\"3\"><tr><td colspan=\"4\"><b>{}</b></td></tr>",
                                   facts.title);
    for (size_t i = 0; i < std::max(left_legs.size(), right_legs.size()); ++i)
        chip +=
            "<tr>" +
            (i < left_legs.size() ? cell(left_legs[i], true) : std::string("<td></td><td></td>")) +
            (i < right_legs.size() ? cell(right_legs[i], false)
                                   : std::string("<td></td><td></td>")) +
            "</tr>";
    std::string out = fmt::format(
        "digraph wires {{\n  graph [label=<{0}: the wires. Green is driven, white is read.>, "
        "labelloc=t, labeljust=l, "
        "fontname=\"DejaVu Sans\", fontsize=16, fontcolor=\"{1}\", rankdir=LR, nodesep=0.12, "
        "ranksep=0.9, pad=0.3, splines=true]\n  node [shape=plain, fontname=\"DejaVu Sans\", "
        "fontsize=10, fontcolor=\"{1}\"]\n  edge [dir=none, color=\"{2}\", penwidth=1.4]\n"
        "  chip [label=<{3}</table>>]\n",
        html(rig.name), plot::ink, plot::colours[0], chip);
    // The first half of the legs stands on the left from above, the other on the right from below.
    std::vector<size_t> order(rows.size());
    for (size_t i = 0; i < order.size(); ++i)
        order[i] = i;
    const int half = left_legs.empty() ? 0 : left_legs.back();
    const auto height = [&rows, half](size_t i) {
        const int leg = rows[i].leg;
        return leg == 0 ? 1000 : leg <= half ? leg : 500 - leg;
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
        const bool left = row.leg >= 1 && row.leg <= half;
        if (left)
            out += fmt::format("  part{} -> chip:p{}:w\n", i, row.leg);
        else if (row.leg != 0)
            out += fmt::format("  chip:p{}:e -> part{}\n", row.leg, i);
    }
    return out + "}\n";
}

} // namespace zorilla::bench
