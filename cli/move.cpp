// SPDX-License-Identifier: MIT
// move: a rig file for another chip, with a pin plan that fits and the wires anew.
#include "bench/moving.hpp"
#include "bench/plot.hpp"
#include "bench/wiring.hpp"
#include "cli/command.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

namespace zorilla::cli {

namespace {

struct MoveOptions {
    std::string rig, board, out;
    bool force = false;
};

void print_changes(Page& page, const bench::Move& move) {
    const auto part = [&page](const char* title, const std::vector<bench::Move::Change>& changes) {
        if (changes.empty())
            return;
        page.line("");
        page.line(page.bold(title));
        size_t width = 0;
        for (const bench::Move::Change& change : changes)
            width = std::max(width, change.of.size());
        for (const bench::Move::Change& change : changes)
            page.line(fmt::format("  {:<{}}  {}", change.of, width, change.what));
    };
    part("Pins", move.pins);
    part("In the file besides", move.others);
    part("For you to see to", move.to_do);
}

/// Whether all that is wrong with it is its plan of pins, which becomes another one.
bool can_be_moved(const rig::RigFile& file) {
    return std::all_of(file.mistakes.begin(), file.mistakes.end(),
                       [](const rig::Mistake& mistake) { return mistake.is_of_pins; });
}

Status move(const MoveOptions& options, Page& page) {
    const rig::RigFile file = rig::load_rig(options.rig);
    if (!can_be_moved(file)) {
        print_mistakes(options.rig, file.mistakes);
        return bad_input;
    }
    const ChipFacts& to = *rig::chip_named(options.board);
    const bench::Move move = bench::move_of(file, rig::read_file(options.rig), to);
    if (!move.problem.empty()) {
        message(fmt::format("{}: does not fit on the {}: {}", options.rig, to.name, move.problem));
        return found_wanting;
    }
    const std::filesystem::path name = std::filesystem::path(options.rig).filename();
    const std::string path = options.out + "/" + name.string();
    std::error_code error;
    if (std::filesystem::exists(path, error) && !options.force && rig::read_file(path) != move.text)
        throw rig::InputError(fmt::format("{}: is there already, and says something else; --force "
                                          "overwrites it",
                                          path));
    const rig::RigFile moved = rig::parse_rig(move.text);
    if (!moved.mistakes.empty()) {
        message(fmt::format("{}: can be moved only so far; with the new pins there is still:",
                            options.rig));
        print_mistakes(path, moved.mistakes);
    }
    std::filesystem::create_directories(options.out);
    write_file(path, move.text);
    page.line(page.bold(
        fmt::format("{} on {}, in {}:", file.rig.name, rig::with_clock(to), options.out)));
    page.line("");
    page.line(fmt::format("  {:<16}the rig file", name.string()));
    if (moved.mistakes.empty()) {
        write_file(options.out + "/wiring.md", bench::wiring_page(moved.rig));
        write_file(options.out + "/wiring.svg",
                   bench::plot::output_of("dot -Tsvg", bench::wiring_dot(moved.rig), "Graphviz",
                                          "graphviz"));
        page.line(
            fmt::format("  {:<16}which part goes to which leg, and through what", "wiring.md"));
        page.line(fmt::format("  {:<16}the same as a picture", "wiring.svg"));
    }
    print_changes(page, move);
    page.line("");
    if (moved.mistakes.empty())
        page.line(
            fmt::format("Next: zorilla firmware {} --out {}/firmware --build", path, options.out));
    page.finish();
    return moved.mistakes.empty() ? done : found_wanting;
}

} // namespace

bool print_move(Page& page, const std::string& path, const rig::RigFile& file,
                const std::string& board) {
    const ChipFacts& to = *rig::chip_named(board);
    if (!can_be_moved(file))
        return false;
    page.line("");
    if (file.rig.chip == to.name && file.mistakes.empty()) {
        page.line(fmt::format("It is for the {} already.", to.title));
        return true;
    }
    const bench::Move move = bench::move_of(file, rig::read_file(path), to);
    page.line(page.bold(file.rig.chip == to.name
                            ? fmt::format("Pins that fit, of {}", rig::with_clock(to))
                            : fmt::format("To move it to {}", rig::with_clock(to))));
    if (!move.problem.empty()) {
        page.line("  it does not fit: " + move.problem);
        return false;
    }
    print_changes(page, move);
    page.line("");
    page.line(fmt::format("zorilla move {} --board {} --out FOLDER writes that.", path, to.name));
    return true;
}

std::vector<std::string> chip_words() {
    std::vector<std::string> out;
    for (const ChipFacts* chip : rig::all_chips())
        out.emplace_back(chip->name);
    return out;
}

void add_move(Command& app, Chosen& chosen) {
    auto options = std::make_shared<MoveOptions>();
    Command* command = app.add_subcommand(
        "move", "Write a rig file for another chip: pins that fit, and the wires anew.\n"
                "Example: zorilla move hen_house.toml --board rp2040 --out hen_house_rp2040");
    command->add_option("RIG", options->rig, "The rig file.")->required();
    command->add_option("--board", options->board, "The chip to move it to.")
        ->required()
        ->one_of(chip_words());
    command->add_option("--out", options->out, "The folder to write; it is made if need be.")
        ->required()
        ->type_name("FOLDER");
    command->add_flag("--force", options->force, "Overwrite a rig file that is there already.");
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return move(*options, page); }; });
}

} // namespace zorilla::cli
