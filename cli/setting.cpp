// SPDX-License-Identifier: MIT
// setting: changes a value on a running device, and in its rig file if that is wanted.
#include "bench/live/setting.hpp"
#include "bench/conversation.hpp"
#include "bench/live/watched.hpp"
#include "bench/live/write_back.hpp"
#include "cli/command.hpp"
#include "cli/listening.hpp"
#include "cli/signals.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <optional>

namespace zorilla::cli {

namespace {

using rig::InputError;

struct SettingOptions {
    std::string rig, port, name, value;
    int baud = 38'400;
    bool write_back = false;
};

/// Says it to the device; its answer.
std::string say(bench::Port& port, const std::string& name, const rig::Rig& rig,
                const std::string& command, std::string& before, const rig::Sense& setting) {
    bench::Conversation conversation({command});
    std::optional<std::string> answer;
    bench::Watched watched(rig,
                           {[](const bench::Event&) {},
                            [&](const std::string& heard) { conversation.hear(heard); }, [] {}});
    Listening listening(
        port, -1,
        {[&](std::string_view bytes) { watched.take(bytes); }, [] {}, [](const std::string&) {}});
    while (!answer && !asked_to_end() && !listening.over() && listening.now() < 10'000) {
        listening.wait(listening.now() + 50);
        if (!watched.companion().any())
            continue;
        if (before.empty())
            before = rig::to_text(
                watched.companion().running().readings()[setting.source].value_or({}).thousandths(),
                rig.sources[setting.source].kind);
        conversation.step(port, listening.now(),
                          [&](const std::string&, const std::string& is) { answer = is; });
    }
    if (!answer)
        throw InputError(
            watched.is_foreign()
                ? name + ": the device was made of another rig file"
                : name + ": no row came that this rig file explains; is it the right port, and was "
                         "the program built with --send?");
    return *answer;
}

Status setting(const SettingOptions& options, Page& page) {
    const rig::Rig rig = usable_rig(options.rig);
    const bench::NewSetting asked = bench::new_setting(rig, options.name, options.value);
    const rig::Sense& setting = *asked.setting;
    const std::string text = rig::read_file(options.rig);
    const rig::Kind kind = rig.sources[setting.source].kind;
    const std::string exact = rig::exact_text(asked.thousandths, kind);
    // Whatever cannot be written back is found before the device is told.
    const std::string changed =
        options.write_back ? bench::with_setting(text, rig, setting, exact) : text;
    bench::Port port(options.port, options.baud, true);
    open_or_explain(port, options.port);
    end_on_signals();
    std::string before;
    const std::string answer = say(port, options.port, rig, asked.command, before, setting);
    if (answer != "ok") {
        message(fmt::format("{}: {}", options.port, answer));
        return found_wanting;
    }
    page.line(fmt::format("{} is {} on the device from now on; it was {}", setting.name,
                          rig::to_text(asked.thousandths, kind), before));
    if (options.write_back) {
        rig::OutputFile file(options.rig, true);
        file.write(changed);
        file.commit();
        page.line(fmt::format("{} says so too", options.rig));
    }
    page.finish();
    return done;
}

} // namespace

void add_setting(Command& app, Chosen& chosen) {
    auto options = std::make_shared<SettingOptions>();
    Command* command = app.add_subcommand(
        "setting", "Change a value on a running device, where the rig has it as a line_setting.\n"
                   "Example: zorilla setting box.toml /dev/ttyUSB0 rise_at \"24 degC\"");
    command->add_option("RIG", options->rig, "The rig file that the device was made of.")
        ->required();
    command->add_option("PORT", options->port, "Its serial port.")->required();
    command->add_option("NAME", options->name, "The setting.")->required();
    command->add_option("VALUE", options->value, "What it is to be, with its unit.")->required();
    command->add_option("--baud", options->baud, "The speed of the line.")
        ->between(300, 4'000'000)
        ->capture_default_str();
    command->add_flag("--write-back", options->write_back,
                      "Put it into the rig file, too, in its place.");
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return setting(*options, page); }; });
}

} // namespace zorilla::cli
