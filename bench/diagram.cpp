// SPDX-License-Identifier: MIT
#include "bench/diagram.hpp"

#include "bench/plot.hpp"
#include "rig/text/files.hpp"
#include "rig/text/names.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::bench {

namespace {

/// A text in double quotes, as Graphviz takes it.
std::string dot_text(std::string_view text) {
    std::string out = "\"";
    for (const char c : text) {
        if (c == '"' || c == '\\')
            out += '\\';
        out += c == '\n' ? std::string("\\n") : std::string(1, c);
    }
    return out + "\"";
}

/// What outputs do while a machine is in a state: of claims that ask for nothing else.
std::vector<std::string> acts_in(const rig::Rig& rig, size_t machine, size_t state) {
    std::vector<std::string> out;
    for (const rig::Drive& drive : rig.drives)
        for (const rig::RigClaim& claim : drive.claims) {
            const auto& facts = claim.when.facts();
            if (facts.size() != 1)
                continue;
            const rig::Fact& fact = rig.facts[facts.front()];
            if (fact.kind == rig::Fact::Kind::in_state && fact.of == machine &&
                fact.number == state && claim.text == fact.name)
                out.push_back(fmt::format("{} {}", drive.name, claim.says));
        }
    return out;
}

/// Whether a state has no way out.
bool ends(const rig::RigMachine& machine, size_t state) {
    return std::none_of(machine.moves.begin(), machine.moves.end(), [&](const MachineMove& move) {
        return move.leaves(static_cast<uint8_t>(state)) && move.to != state;
    });
}

std::string label_of(const rig::RigMachine& machine, const MachineMove& move) {
    std::string out;
    if (move.has_event())
        out += machine.events[move.when].text;
    if (move.after > 0)
        out += fmt::format("{}after {}", out.empty() ? "" : ",\n", rig::span_to_text(move.after));
    return out;
}

} // namespace

std::string dot_of(const rig::Rig& rig, const rig::RigMachine& machine) {
    const auto index = static_cast<size_t>(&machine - rig.machines.data());
    std::string out = fmt::format(
        "digraph {} {{\n"
        "  graph [label={}, labelloc=t, labeljust=l, fontname=\"DejaVu Sans\", fontsize=16, "
        "fontcolor=\"{}\", rankdir=TB, nodesep=0.8, ranksep=0.7, pad=0.3]\n"
        "  node [shape=box, style=\"rounded,filled\", fillcolor=white, color=\"{}\", penwidth=1.5, "
        "fontname=\"DejaVu Sans\", fontsize=12, fontcolor=\"{}\"]\n"
        "  edge [color=\"{}\", arrowsize=0.8, fontname=\"DejaVu Sans\", fontsize=10, "
        "fontcolor=\"{}\"]\n"
        "  \"power up\" [shape=circle, label=\"\", width=0.18, fillcolor=\"{}\"]\n",
        dot_text(machine.name), dot_text(fmt::format("{} of {}", machine.name, rig.name)),
        plot::ink, plot::colours[0], plot::ink, plot::faint, plot::ink, plot::ink);
    for (size_t i = 0; i < machine.states.size(); ++i) {
        std::string label = machine.states[i];
        const std::vector<std::string> acts = acts_in(rig, index, i);
        for (const std::string& act : acts)
            label += "\n" + act;
        out += fmt::format("  {} [label={}{}{}]\n", dot_text(machine.states[i]), dot_text(label),
                           acts.empty() ? "" : fmt::format(", fillcolor=\"{}\"", plot::band_fill),
                           ends(machine, i) ? ", peripheries=2" : "");
    }
    out += fmt::format("  \"power up\" -> {}\n", dot_text(machine.states[machine.start]));
    for (const MachineMove& move : machine.moves) {
        const std::string label = dot_text(label_of(machine, move));
        if (move.from != MachineMove::any) {
            out += fmt::format("  {} -> {} [label={}]\n", dot_text(machine.states[move.from]),
                               dot_text(machine.states[move.to]), label);
            continue;
        }
        // A move from any state begins at a place of its own, so that the picture stays clear.
        const std::string any = fmt::format("\"any {}\"", &move - machine.moves.data());
        out += fmt::format("  {0} [label=\"any\", style=\"rounded,dashed\"]\n"
                           "  {0} -> {1} [label={2}, style=dashed]\n",
                           any, dot_text(machine.states[move.to]), label);
    }
    return out + "}\n";
}

std::string scxml_of(const rig::RigMachine& machine, std::vector<std::string>& left_out) {
    rig::NameMaker names;
    std::vector<std::string> events;
    std::string out =
        fmt::format("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n"
                    "<scxml xmlns=\"http://www.w3.org/2005/07/scxml\" version=\"1.0\" "
                    "datamodel=\"null\" name=\"{}\" initial=\"{}\">\n",
                    machine.name, machine.states[machine.start]);
    for (const rig::WrittenCondition& event : machine.events) {
        events.push_back(names.make(event.text));
        // No condition has the two hyphens that may not stand in a comment.
        out += fmt::format("  <!-- event {}: {} -->\n", events.back(), event.text);
    }
    for (size_t i = 0; i < machine.states.size(); ++i) {
        const std::string& name = machine.states[i];
        if (ends(machine, i)) {
            out += fmt::format("  <final id=\"{}\"/>\n", name);
            continue;
        }
        std::string timers, cancels, moves;
        for (const MachineMove& move : machine.moves) {
            if (!move.leaves(static_cast<uint8_t>(i)))
                continue;
            const std::string& to = machine.states[move.to];
            if (move.has_event()) {
                if (move.after > 0)
                    left_out.push_back(fmt::format(
                        "from {} to {}: the event \"{}\" counts only after {}; SCXML takes it at "
                        "once",
                        name, to, machine.events[move.when].text, rig::span_to_text(move.after)));
                moves += fmt::format("    <transition event=\"{}\" target=\"{}\"/>\n",
                                     events[move.when], to);
                continue;
            }
            const std::string timer =
                fmt::format("after.{}.{}", name, &move - machine.moves.data());
            timers += fmt::format("      <send id=\"{0}\" event=\"{0}\" delay=\"{1}ms\"/>\n", timer,
                                  move.after);
            cancels += fmt::format("      <cancel sendid=\"{}\"/>\n", timer);
            moves += fmt::format("    <transition event=\"{}\" target=\"{}\"/>\n", timer, to);
        }
        out += fmt::format("  <state id=\"{}\">\n", name);
        if (!timers.empty())
            out += fmt::format("    <onentry>\n{}    </onentry>\n    <onexit>\n{}    </onexit>\n",
                               timers, cancels);
        out += moves + "  </state>\n";
    }
    return out + "</scxml>\n";
}

void draw_diagram(const std::string& path, const std::string& dot) {
    const std::string ending = path.size() < 4 ? "" : path.substr(path.size() - 4);
    rig::OutputFile file(path);
    if (ending == ".dot")
        file.write(dot);
    else
        file.write(plot::output_of(ending == ".svg" ? "dot -Tsvg" : "dot -Tpng -Gdpi=110", dot,
                                   "Graphviz", "graphviz"));
    file.commit();
}

} // namespace zorilla::bench
