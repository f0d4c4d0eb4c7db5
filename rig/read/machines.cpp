// SPDX-License-Identifier: MIT
// The state machines of a rig file.
#include "rig/read/machines.hpp"

#include "rig/read/keys.hpp"
#include "rig/text/names.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

/// The states of a machine and its moves, without their events.
void MachineReader::machine(const Key& key, TableReader& keys) {
    RigMachine out;
    out.name = key.text;
    out.place = key.place;
    keys.allow(rig::keys::of_machine);
    const std::string example = "[ { from = \"shut\", to = \"open\", when = \"dawn\" } ]";
    Waiting waiting{keys.find("start"), rig_.machines.size(), keys.label(), {}, {}};
    keys.require("start", "the state that it starts in", "\"shut\"");
    if (const auto start = keys.text("start", "shut"))
        out.start = state_number(out, *start, keys.find("start"));
    keys.require("moves", "its transitions", example);
    if (const auto* moves = keys.list("moves", 1, 127, example))
        for (const Node& node : moves->inside()) {
            const auto* table = node.as_table();
            if (table == nullptr) {
                findings_.add(node, fmt::format("a move must look like {}",
                                                example.substr(2, example.size() - 4)));
                continue;
            }
            move(*table, out);
            waiting.moves.push_back(table);
        }
    // What it may end in.
    if (const auto* ends = keys.list("ends_in", 1, 32, "[\"done\"]"))
        for (const Node& node : ends->inside()) {
            const auto* name = node.as_text();
            const size_t before = out.states.size();
            const uint8_t state = name == nullptr ? uint8_t{0} : state_number(out, *name, &node);
            if (name == nullptr || out.states.size() > before)
                findings_.add(node, fmt::format("{} has no such state{}", out.name,
                                                name == nullptr ? std::string()
                                                                : suggestion(*name, out.states)));
            waiting.ends.push_back(state);
        }
    waiting_.push_back(std::move(waiting));
    rig_.machines.push_back(std::move(out));
}

uint8_t MachineReader::state_number(RigMachine& machine, const std::string& name,
                                    const Node* node) {
    for (size_t i = 0; i < machine.states.size(); ++i)
        if (machine.states[i] == name)
            return static_cast<uint8_t>(i);
    if (name.size() > longest_name)
        findings_.add(*node, fmt::format("this state has {} characters; write one of at most {}",
                                         name.size(), longest_name));
    else if (!is_plain_name(name))
        findings_.add(*node, fmt::format("\"{}\" cannot be a state; use lower-case letters, "
                                         "digits and _, beginning with a letter",
                                         name));
    else if (is_cpp_word(name))
        findings_.add(*node, fmt::format("\"{0}\" is a word of C++, which every rig can be written "
                                         "as; choose another state, such as \"{0}_one\"",
                                         name));
    if (machine.states.size() == 32)
        findings_.add(*node, "a machine has at most 32 states");
    machine.states.push_back(name);
    return static_cast<uint8_t>(std::min<size_t>(machine.states.size() - 1, 31));
}

void MachineReader::move(const Node& table, RigMachine& out) {
    TableReader keys(table, "a move", findings_, rig::keys::of_move);
    MachineMove result;
    keys.require("from", "the state that it leaves, or \"any\"", "\"shut\"");
    const auto from = keys.text("from", "shut");
    if (from && *from != "any")
        result.from = state_number(out, *from, keys.find("from"));
    keys.require("to", "the state that it goes to", "\"open\"");
    if (const auto to = keys.text("to", "open"))
        result.to = state_number(out, *to, keys.find("to"));
    if (const auto after = keys.quantity("after", Kind::duration, "20 s")) {
        result.after = static_cast<uint32_t>(std::max(*after, 0));
        keys.expect(*after > 0 && Duration::from_thousandths(*after) <= MachineState::longest,
                    "after", "above 0, and up to 24 d");
    }
    if (keys.find("when") == nullptr && keys.find("after") == nullptr)
        keys.complain("a move needs \"when\", its event, or \"after\", how long the state lasts; "
                      "for example after = \"20 s\"");
    keys.finish();
    out.moves.push_back(result);
}

/// The events of all machines, now that every name is known, and what is wrong with their
/// tables.
void MachineReader::finish() {
    for (const Waiting& waiting : waiting_) {
        RigMachine& machine = rig_.machines[waiting.machine];
        for (size_t i = 0; i < waiting.moves.size(); ++i) {
            TableReader keys(*waiting.moves[i], "a move", findings_, rig::keys::of_move);
            WrittenCondition when = scope_.condition(keys, "when");
            if (!when.given())
                continue;
            size_t event = 0;
            while (event < machine.events.size() && machine.events[event].text != when.text)
                ++event;
            if (event == machine.events.size())
                machine.events.push_back(std::move(when));
            machine.moves[i].when = static_cast<uint8_t>(event);
        }
        look_at(waiting, machine);
    }
}

void MachineReader::look_at(const Waiting& waiting, const RigMachine& machine) {
    if (waiting.moves.size() != machine.moves.size() || machine.moves.empty())
        return;
    const auto at = [&machine](uint8_t i) { return machine.moves[i]; };
    const MachineChecks<decltype(at)> checks{at, static_cast<uint8_t>(machine.moves.size()),
                                             static_cast<uint8_t>(machine.states.size()),
                                             machine.start};
    const Node& first = *waiting.moves.front();
    const bool start_is_named =
        std::any_of(machine.moves.begin(), machine.moves.end(), [&](const MachineMove& move) {
            return move.from == machine.start || move.to == machine.start;
        });
    if (!start_is_named && waiting.start != nullptr) {
        const Names others(machine.states.begin() + 1, machine.states.end());
        return findings_.add(*waiting.start,
                             fmt::format("no move leaves \"{}\", or leads there{}",
                                         machine.states[machine.start],
                                         suggestion(machine.states[machine.start], others)));
    }
    for (size_t i = 0; i < machine.states.size(); ++i) {
        const auto state = static_cast<uint8_t>(i);
        const auto place = [&]() -> const Node& {
            for (const Node* move : waiting.moves)
                for (const char* key : {"to", "from"})
                    if (const Node* node = move->get(key);
                        node != nullptr && node->as_text() && *node->as_text() == machine.states[i])
                        return *node;
            return first;
        };
        if (!checks.is_reachable(state))
            findings_.add(place(), fmt::format("{} can never come into \"{}\": no way leads there "
                                               "from \"{}\", where it starts",
                                               machine.name, machine.states[i],
                                               machine.states[machine.start]));
        const bool ends =
            std::find(waiting.ends.begin(), waiting.ends.end(), state) != waiting.ends.end();
        if (!checks.has_way_out(state) && !ends)
            findings_.add(place(),
                          fmt::format("{} can never leave \"{}\"; if that is meant, write ends_in "
                                      "= [\"{}\"] in {}",
                                      machine.name, machine.states[i], machine.states[i],
                                      waiting.label));
    }
    for (uint8_t i = 0; i < machine.moves.size(); ++i)
        if (checks.is_hidden(i))
            findings_.add(*waiting.moves[i],
                          "this move can never be taken: one above it always is, or another's "
                          "\"after\" runs out earlier; drop it, or put it first");
}

} // namespace zorilla::rig
