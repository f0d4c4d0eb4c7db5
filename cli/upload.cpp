// SPDX-License-Identifier: MIT
// upload: a program onto a chip.
#include "bench/upload/upload.hpp"
#include "bench/upload/drive.hpp"
#include "cli/command.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <filesystem>

namespace zorilla::cli {

namespace {

/// Onto the drive that an RP2040 shows.
Status copy(const std::string& uf2, const std::string& where, Page& page) {
    const std::vector<bench::Drive> found = bench::drives(where);
    if (found.empty())
        throw rig::InputError(fmt::format(
            "{}; hold the board's BOOTSEL button while you plug it in, wait until its drive is "
            "mounted{}, and try again",
            where.empty() ? std::string("no drive with an INFO_UF2.TXT is there")
                          : fmt::format("{}: has no INFO_UF2.TXT", where),
            where.empty() ? ", or say where it is with --drive" : ""));
    if (found.size() > 1)
        throw rig::InputError(fmt::format("there are {} such drives, {} and {} among them; say "
                                          "which with --drive",
                                          found.size(), found[0].path, found[1].path));
    const size_t bytes = bench::copy_to_drive(uf2, found.front());
    page.line(fmt::format("{} bytes of {} are on the drive {}; the chip starts with them.",
                          rig::count_to_text(bytes), uf2, found.front().path));
    page.finish();
    return done;
}

Status upload(bench::UploadPlan plan, const std::string& drive, Page& page) {
    if (std::filesystem::is_directory(plan.hex))
        plan.hex +=
            std::filesystem::exists(plan.hex + "/firmware.uf2") ? "/firmware.uf2" : "/firmware.hex";
    if (std::filesystem::path(plan.hex).extension() == ".uf2")
        return copy(plan.hex, drive, page);
    if (plan.chip != "atmega328p" && plan.programmer.empty())
        throw rig::InputError(fmt::format("no boot loader of an {} is spoken to; take a "
                                          "programmer, and say which: --programmer NAME",
                                          plan.chip));
    if (plan.port.empty() && plan.programmer.empty())
        throw rig::InputError("where is the chip? --port /dev/ttyUSB0 for a board with a boot "
                              "loader, or --programmer NAME");
    const bench::Uploaded done_so = bench::upload(plan);
    if (!done_so.problem.empty())
        throw rig::InputError(done_so.problem);
    page.line(fmt::format("{} bytes of {} are on the chip, and read back the same.",
                          rig::count_to_text(done_so.bytes), plan.hex));
    if (const bench::BrownOut& is = done_so.brown_out; is.known) {
        const bool is_fine = is.millivolts >= is.wanted;
        page.line(fmt::format("Brown-out detection is {}.",
                              is.millivolts == 0 ? std::string("off")
                                                 : fmt::format("at {:g} V", is.millivolts / 1e3)));
        page.finish();
        if (!is_fine)
            message(
                fmt::format("while its supply goes, this chip may damage what it keeps: at 5 V let "
                            "it stop below {:g} V, with {}",
                            is.wanted / 1e3, is.set));
        return done;
    }
    page.finish();
    return done;
}

} // namespace

void add_upload(Command& app, Chosen& chosen) {
    auto options = std::make_shared<bench::UploadPlan>();
    auto drive = std::make_shared<std::string>();
    Command* command = app.add_subcommand(
        "upload", "Write a program to a chip, and compare what is there then; or copy it to the "
                  "drive of an RP2040.\n"
                  "Example: zorilla upload hen_house/firmware.hex --port /dev/ttyUSB0");
    command
        ->add_option("FILE", options->hex,
                     "The firmware.hex or firmware.uf2 of zorilla firmware --build, or of zorilla "
                     "look; or their folder.")
        ->required();
    command
        ->add_option("--port", options->port,
                     "The serial port of a board whose chip has a boot loader (STK500 version 1), "
                     "or of the programmer.")
        ->type_name("PORT");
    command->add_option("--baud", options->baud, "The speed of the boot loader.")
        ->capture_default_str();
    command
        ->add_option("--programmer", options->programmer,
                     "A programmer instead of the boot loader, as avrdude calls it; avrdude -c ? "
                     "lists them.")
        ->type_name("NAME");
    command->add_option("--board", options->chip, "The chip, where it is no RP2040.")
        ->one_of({"atmega328p", "atmega2560", "attiny85"})
        ->capture_default_str();
    command
        ->add_option("--drive", *drive,
                     "Where the drive of an RP2040 is mounted; without it, the one that is there.")
        ->type_name("FOLDER");
    command->callback([options, drive, &chosen] {
        chosen = [options, drive](Page& page) { return upload(*options, *drive, page); };
    });
}

} // namespace zorilla::cli
