// SPDX-License-Identifier: MIT
// look: a program for the chip that sends what pins read, for the first evening.
#include "rig/emit/look.hpp"
#include "bench/firmware.hpp"
#include "cli/command.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

namespace zorilla::cli {

namespace {

struct LookOptions {
    std::string board = "atmega328p";
    std::vector<std::string> pins;
    std::vector<std::string> echoes, frames, pulses;
    std::string out = "look";
    std::string every = "100 ms";
    bool force = false;
};

std::vector<rig::LookPin> pins_of(const LookOptions& options) {
    std::vector<rig::LookPin> out;
    for (const std::string& pin : options.pins)
        out.push_back(
            {pin.rfind("ADC", 0) == 0 ? rig::RawKind::code : rig::RawKind::level, pin, {}});
    for (size_t i = 0; i < options.echoes.size(); i += 2)
        out.push_back({rig::RawKind::microseconds, options.echoes[i + 1], options.echoes[i]});
    for (const std::string& pin : options.frames)
        out.push_back({rig::RawKind::frame, pin, {}});
    for (const std::string& pin : options.pulses)
        out.push_back({rig::RawKind::edges, pin, {}});
    if (out.empty())
        throw rig::InputError("no pin is named; say which to look at, such as \"ADC0 PD2\", or "
                              "--echo PD7 PD4 for a ranger");
    return out;
}

/// What a pin is looked at as, in a sentence.
std::string words_of_pin(const ChipFacts& chip, const rig::LookPin& look) {
    switch (look.as) {
    case rig::RawKind::code:
        return fmt::format("its voltage, as a code from 0 to {} of the {:g} V supply",
                           (1 << chip.converter_bits) - 1, chip.supply / 1000.0);
    case rig::RawKind::microseconds:
        return fmt::format("how long an echo lasts after a ping on {}, in microseconds", look.ping);
    case rig::RawKind::frame:
        return "what a humidity sensor answers, ten hexadecimal digits each 2.5 s";
    case rig::RawKind::level: return "its level, 0 or 1; the chip holds it up at 1";
    case rig::RawKind::edges: break;
    }
    return "its falling edges, counted; the chip holds it up";
}

Status look(const LookOptions& options, Page& page) {
    const ChipFacts& chip = *rig::chip_named(options.board);
    const std::vector<rig::LookPin> pins = pins_of(options);
    const std::vector<std::string> mistakes = rig::look_mistakes(chip, pins);
    for (const std::string& mistake : mistakes)
        message(mistake);
    if (!mistakes.empty())
        return bad_input;
    const int64_t every = time_option("--every", options.every, "100 ms");
    const auto row = static_cast<int64_t>(rig::look_row_size(pins));
    if (every > 10'000)
        throw rig::InputError("--every: at most \"10 s\"");
    if (row + 5 > every)
        throw rig::InputError(fmt::format("--every: a line of these pins takes up to {} ms to "
                                          "send; take \"{} ms\" or more",
                                          row, (row + 54) / 50 * 50));
    const bench::FirmwareFolder folder = bench::looking_folder(
        rig::look_program(chip, pins, Duration::from_thousandths(static_cast<int32_t>(every))));
    fill_folder(options.out, folder, options.force);
    const bench::Built built = bench::build_firmware(chip, options.out);
    if (!built.problem.empty())
        throw rig::InputError(built.problem);
    page.line(fmt::format("A program that looks at {} of an {}, in {}:",
                          pins.size() == 1 ? "a pin" : fmt::format("{} pins", pins.size()),
                          chip.title, options.out));
    page.line("");
    for (const rig::LookPin& pin : pins)
        page.line(fmt::format("  {:<6}{}", pin.pin, words_of_pin(chip, pin)));
    page.line("");
    const bool has_plug = chip.lines[0].kind == LineKind::usb;
    const bool has_loader = &chip == rig::all_chips().front();
    page.line(fmt::format("  onto the chip  zorilla upload {}/{}{}", options.out, built.file,
                          has_plug     ? ""
                          : has_loader ? " --port /dev/ttyUSB0"
                                       : ", with your programmer's --programmer"));
    page.line(fmt::format("  then           zorilla capture {} --out look.csv",
                          has_plug ? "/dev/ttyACM0" : "/dev/ttyUSB0"));
    page.finish();
    return done;
}

} // namespace

void add_look(Command& app, Chosen& chosen) {
    auto options = std::make_shared<LookOptions>();
    Command* command = app.add_subcommand(
        "look", "Write and build a program that only sends what pins read, for a first look.\n"
                "Example: zorilla look ADC0 PD2 --echo PD7 PD4 --out look");
    command->add_option("PIN", options->pins,
                        "ADC0 to ADC7 for voltages; any other pin, such as PD2, for its level.");
    command->add_option("--board", options->board, "The chip.")
        ->one_of(chip_words())
        ->capture_default_str();
    command
        ->add_option("--echo", options->echoes,
                     "A ranger: the pin that asks for an echo, and the one that hears it.")
        ->expected(2)
        ->type_name("PING PIN");
    command->add_option("--frame", options->frames, "The line of a one-wire humidity sensor.")
        ->repeatable()
        ->type_name("PIN");
    command->add_option("--pulses", options->pulses, "A pin whose pulses are counted.")
        ->repeatable()
        ->type_name("PIN");
    command->add_option("--out", options->out, "The folder to write; it is made if need be.")
        ->type_name("FOLDER")
        ->capture_default_str();
    command->add_option("--every", options->every, "The time from line to line.")
        ->type_name("TIME")
        ->capture_default_str();
    command->add_flag("--force", options->force, "Overwrite files that were changed by hand.");
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return look(*options, page); }; });
}

} // namespace zorilla::cli
