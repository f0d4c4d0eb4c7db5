// SPDX-License-Identifier: MIT
// upload: a program onto a chip.
#include "bench/upload/upload.hpp"
#include "cli/command.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <filesystem>

namespace zorilla::cli {

namespace {

Status upload(bench::UploadPlan plan, Page& page) {
    if (std::filesystem::is_directory(plan.hex))
        plan.hex += "/firmware.hex";
    if (plan.port.empty() && plan.programmer.empty())
        throw rig::InputError("where is the chip? --port /dev/ttyUSB0 for a board with a boot "
                              "loader, or --programmer NAME");
    const bench::Uploaded done_so = bench::upload(plan);
    if (!done_so.problem.empty())
        throw rig::InputError(done_so.problem);
    page.line(fmt::format("{} bytes of {} are on the chip, and read back the same.",
                          rig::count_to_text(done_so.bytes), plan.hex));
    page.finish();
    return done;
}

} // namespace

void add_upload(Command& app, Chosen& chosen) {
    auto options = std::make_shared<bench::UploadPlan>();
    Command* command = app.add_subcommand(
        "upload", "Write a program to an ATmega328P, and compare what is there then.\n"
                  "Example: zorilla upload hen_house/firmware.hex --port /dev/ttyUSB0");
    command
        ->add_option("FILE", options->hex,
                     "The firmware.hex of zorilla firmware --build, or of zorilla look; or their "
                     "folder.")
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
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return upload(*options, page); }; });
}

} // namespace zorilla::cli
