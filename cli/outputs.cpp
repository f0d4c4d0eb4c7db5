// SPDX-License-Identifier: MIT
// outputs: each output of a rig alone.
#include "cli/command.hpp"
#include "rig/drive/part.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

namespace zorilla::cli {

namespace {

struct OutputsOptions {
    std::string rig;
    std::string each = "2 s";
};

Status outputs(const OutputsOptions& options, Page& page) {
    const int64_t each = time_option("--each", options.each, "2 s");
    const rig::Rig rig = usable_rig(options.rig);
    page.line(
        page.bold(fmt::format("{}: each output alone, past its claims and guards", rig.name)));
    int64_t now = 0;
    for (const rig::Drive& drive : rig.drives)
        for (const rig::Trial& trial : drive.part->trials(drive)) {
            page.line(fmt::format("  {:<6}{:<13}{:<12}{:<19}off: {}", rig::span_to_text(now),
                                  drive.name, trial.value, trial.pin + " " + trial.level,
                                  trial.off));
            now += each;
        }
    page.line();
    for (const char* line : {
             "Whatever should click, light, sound or turn, and does not: measure the pin. Is it as "
             "it "
             "says here, look",
             "behind it (wiring, transistor, supply); if not, before it. If everything is the "
             "wrong way "
             "round, change",
             "\"active\". In C++, SelfTestState takes outputs in turn.",
         })
        page.line(line);
    page.finish();
    return done;
}

} // namespace

void add_outputs(Command& app, Chosen& chosen) {
    auto options = std::make_shared<OutputsOptions>();
    Command* command = app.add_subcommand(
        "outputs", "List each output of a rig to be tried alone, with the level that its pin must "
                   "have.\nExample: zorilla outputs heat_lamp.toml");
    command->add_option("RIG", options->rig, "The rig file.")->required();
    command->add_option("--each", options->each, "How long each is tried.")
        ->type_name("TIME")
        ->capture_default_str();
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return outputs(*options, page); }; });
}

} // namespace zorilla::cli
