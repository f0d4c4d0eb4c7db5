// SPDX-License-Identifier: MIT
// firmware: a rig as the C++ of its device, and of a program for a chip.
#include "bench/firmware.hpp"
#include "cli/command.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#ifdef ZORILLA_REHEARSES
#include "bench/rehearse/rehearse.hpp"
#endif

#include <fmt/format.h>

#include <filesystem>

namespace zorilla::cli {

namespace {

struct FirmwareOptions {
    std::string rig;
    std::string out;
    std::string pass = "100 ms";
    bool send = false;
    bool build = false;
    bool force = false;
};

/// What its passes cost, on the emulated chip.
Status tried_out(const FirmwareOptions& options, const rig::Rig& rig, const bench::Built& built,
                 Page& page) {
#ifdef ZORILLA_REHEARSES
    constexpr int64_t tried = 20'000;
    bench::Rehearsal is;
    try {
        is = bench::rehearse(rig, options.out, bench::random_rows(rig, tried), tried,
                             {false, {}, false});
    } catch (const rig::InputError& without) {
        // The program is there all the same.
        page.line(fmt::format("  {:<16}not measured: {}", "stack, time", without.what()));
        page.finish();
        return done;
    }
    const uint32_t ram = built.ram + is.stack, most = rig.chip_facts()->ram;
    const double per_ms = rig.chip_facts()->hertz / 1e3;
    page.line("");
    page.line(
        fmt::format("  In {} of inputs at random on the emulated chip", rig::span_to_text(tried)));
    page.line(fmt::format("  {:<16}at most {} bytes, so that {} of RAM are never touched", "stack",
                          is.stack, ram < most ? rig::count_to_text(most - ram) : "none"));
    page.line(fmt::format("  {:<16}at worst {:.2f} ms, on average {:.2f} ms", "a pass",
                          static_cast<double>(is.worst_cycles) / per_ms, is.mean_cycles / per_ms));
    page.finish();
    if (ram <= most && static_cast<double>(is.worst_cycles) < 250 * per_ms)
        return done;
    message(ram > most ? "its variables and its stack take more RAM than there is: leave parts out"
                       : "a pass takes longer than the watchdog waits, 250 ms: leave parts out");
    return found_wanting;
#else
    (void)options, (void)rig, (void)built;
    page.line("  stack           not measured: this tool was built without an emulated chip");
    page.finish();
    return done;
#endif
}

Status firmware(const FirmwareOptions& options, Page& page) {
    const rig::Rig rig = usable_rig(options.rig);
    const ChipFacts& chip = known_chip(options.rig, rig);
    const rig::FirmwarePlan plan = firmware_plan(options.rig, rig, options.pass, options.send);
    const std::string stem = std::filesystem::path(options.rig).stem().string();
    const bench::FirmwareFolder folder =
        bench::firmware_folder(rig, stem, rig::read_file(options.rig), plan);
    if (!folder.gaps.empty()) {
        for (const rig::Firmware::Gap& gap : folder.gaps)
            message(fmt::format("{}:{}: {} cannot be written as C++ yet; wire this part by hand "
                                "(docs/blocks.md), or leave it out",
                                options.rig, gap.place.line, gap.text));
        return bad_input;
    }
    fill_folder(options.out, folder, options.force);
    page.line(fmt::format("{} as C++, in {}:", rig.name, options.out));
    page.line("");
    for (const auto& [name, text] : folder.files)
        if (name[0] != '.')
            page.line(fmt::format("  {:<16}{}", name, bench::purpose_of(name)));
    if (options.build) {
        const bench::Built built = bench::build_firmware(chip, options.out);
        if (!built.problem.empty())
            throw rig::InputError(built.problem);
        page.line("");
        page.line(fmt::format("  {:<16}{} of {} bytes", "flash", rig::count_to_text(built.flash),
                              rig::count_to_text(chip.flash)));
        page.line(fmt::format("  {:<16}{} of {} bytes, without the stack", "RAM",
                              rig::count_to_text(built.ram), rig::count_to_text(chip.ram)));
        page.line(fmt::format("  {:<16}{}/{}, and .elf", "for the chip", options.out, built.file));
        if (!built.fits.empty()) {
            message(built.fits);
            page.finish();
            return found_wanting;
        }
        return tried_out(options, rig, built, page);
    }
    page.finish();
    return done;
}

} // namespace

const ChipFacts& known_chip(const std::string& path, const rig::Rig& rig) {
    const ChipFacts* chip = rig.chip_facts();
    if (chip == nullptr)
        throw rig::InputError(fmt::format("{}: of chip = \"{}\" nothing is known but its "
                                          "converter; name one of {}",
                                          path, rig.chip, rig::chip_names()));
    return *chip;
}

void fill_folder(const std::string& path, const bench::FirmwareFolder& folder, bool force) {
    const std::string changed = bench::changed_by_hand(path, folder);
    if (!changed.empty() && !force)
        throw rig::InputError(fmt::format("{}: was not written by this command, or was changed "
                                          "since; --force overwrites it",
                                          changed));
    std::filesystem::create_directories(path);
    for (const auto& [name, text] : folder.files)
        write_file(path + "/" + name, text);
}

void add_firmware(Command& app, Chosen& chosen) {
    auto options = std::make_shared<FirmwareOptions>();
    Command* command = app.add_subcommand(
        "firmware", "Write a rig as C++: its device, and a program that wires it to the chip.\n"
                    "Example: zorilla firmware hen_house.toml --out hen_house --build");
    command->add_option("RIG", options->rig, "The rig file.")->required();
    command->add_option("--out", options->out, "The folder to write; it is made if need be.")
        ->required()
        ->type_name("FOLDER");
    command
        ->add_option("--pass", options->pass,
                     "How often the device looks and decides. Default: 100 ms.")
        ->type_name("TIME");
    command->add_flag("--send", options->send,
                      "Let it send what it reads in each pass, as a trace, for capture.");
    command->add_flag("--build", options->build,
                      "Compile it too (clang 19), and say what it takes of the chip.");
    command->add_flag("--force", options->force, "Overwrite files that were changed by hand.");
    command->callback([options, &chosen] {
        chosen = [options](Page& page) { return firmware(*options, page); };
    });
}

} // namespace zorilla::cli
