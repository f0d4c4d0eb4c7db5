// SPDX-License-Identifier: MIT
// draw and machine: state machines as pictures, as SCXML, and back; and the wires as a picture.
#include "bench/diagram.hpp"
#include "bench/scxml.hpp"
#include "bench/wiring.hpp"
#include "cli/command.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <filesystem>

namespace zorilla::cli {

namespace {

struct DrawOptions {
    std::string rig;
    std::string machine;
    std::string out;
    bool wires = false;
};

const rig::RigMachine& machine_of(const DrawOptions& options, const rig::Rig& rig) {
    std::vector<std::string> names;
    const rig::RigMachine* machine = nullptr;
    for (const rig::RigMachine& one : rig.machines) {
        names.push_back(one.name);
        if (options.machine.empty() ? rig.machines.size() == 1 : one.name == options.machine)
            machine = &one;
    }
    if (names.empty())
        throw rig::InputError(fmt::format("{}: has no machine to draw; see [machine.NAME] in "
                                          "docs/rig-file.md, or draw its wires with --wires",
                                          options.rig));
    if (machine == nullptr && options.machine.empty())
        throw rig::InputError(fmt::format("{}: has {} machines; choose one with --machine {}",
                                          options.rig, names.size(), names.front()));
    if (machine == nullptr)
        throw rig::InputError(fmt::format("{}: there is no [machine.{}]{}", options.rig,
                                          options.machine,
                                          rig::suggestion(options.machine, names)));
    return *machine;
}

Status draw(const DrawOptions& options, Page& page) {
    const rig::Rig rig = usable_rig(options.rig);
    if (options.wires)
        known_chip(options.rig, rig);
    const rig::RigMachine* machine = options.wires ? nullptr : &machine_of(options, rig);
    const std::string dot = options.wires ? bench::wiring_dot(rig) : bench::dot_of(rig, *machine);
    const std::string ending = std::filesystem::path(options.out).extension().string();
    std::vector<std::string> left_out;
    if (options.out.empty())
        page.line(dot);
    else if (ending == ".scxml" && machine != nullptr)
        write_file(options.out, bench::scxml_of(*machine, left_out));
    else if (ending == ".dot" || ending == ".svg" || ending == ".png")
        bench::draw_diagram(options.out, dot);
    else
        throw rig::InputError(fmt::format("{}: a diagram's name must end in .svg, .png{}",
                                          options.out,
                                          options.wires ? " or .dot" : ", .dot or .scxml"));
    for (const std::string& sentence : left_out)
        message(sentence);
    page.finish();
    return left_out.empty() ? done : found_wanting;
}

Status machine(const std::string& path, Page& page) {
    std::vector<std::string> left_out;
    const std::string table = bench::machine_of_scxml(rig::read_file(path), path, left_out);
    page.line(table.substr(0, table.size() - 1));
    for (const std::string& sentence : left_out)
        message(fmt::format("{}: left out: {}", path, sentence));
    page.finish();
    return left_out.empty() ? done : found_wanting;
}

} // namespace

void add_draw(Command& app, Chosen& chosen) {
    auto options = std::make_shared<DrawOptions>();
    Command* command =
        app.add_subcommand("draw", "Draw a state machine of a rig, or write it as SCXML; or draw "
                                   "its wires.\n"
                                   "Example: zorilla draw feeder.toml --out hatch.svg");
    command->add_option("RIG", options->rig, "The rig file.")->required();
    command->add_option("--machine", options->machine, "Which machine, where there are several.")
        ->type_name("NAME");
    command->add_flag("--wires", options->wires,
                      "Draw which part goes to which leg of the chip, and through what.");
    command
        ->add_option("--out", options->out,
                     "Where to; without it, the text for Graphviz is printed.")
        ->type_name("FILE.svg|.png|.dot|.scxml");
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return draw(*options, page); }; });
}

void add_machine(Command& app, Chosen& chosen) {
    auto path = std::make_shared<std::string>();
    Command* command = app.add_subcommand(
        "machine", "Read a state machine from SCXML and print it as a table of a rig file.\n"
                   "Example: zorilla machine hatch.scxml");
    command->add_option("FILE.scxml", *path, "The machine, as SCXML 1.0.")->required();
    command->callback(
        [path, &chosen] { chosen = [path](Page& page) { return machine(*path, page); }; });
}

} // namespace zorilla::cli
