// SPDX-License-Identifier: MIT
// world: is a world file right, and its numbers from a recorded run.
#include "bench/rig_text.hpp"
#include "bench/world/fit_world.hpp"
#include "cli/worlds.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::cli {

namespace {

struct WorldCommand {
    std::string action, file, world, rig;
    std::vector<std::string> find;
    bool write_back = false;
};

Status check_world(const WorldCommand& options, Page& page) {
    const bench::WorldFile file = bench::load_world(options.file);
    if (!file.mistakes.empty()) {
        print_mistakes(options.file, file.mistakes);
        return found_wanting;
    }
    const bench::World& world = *file.world;
    page.line(page.bold(fmt::format("{}: the world is fine", world.name)));
    for (size_t i = 0; i < world.elements.size(); ++i) {
        std::string values;
        for (const bench::WorldValue& value : world.elements[i]->values())
            if (value.kind != rig::Kind::absolute_humidity)
                values += fmt::format("{}{}", values.empty() ? "" : ", ", value.name);
        page.line(fmt::format("  {:<9}{:<16}to be seen: {}", world.words[i],
                              world.elements[i]->name, values));
    }
    for (const bench::World::Output& output : world.outputs)
        page.line(fmt::format("  output   {:<16}acts on it", output.name));
    for (const bench::WorldFault& fault : world.faults)
        page.line(
            fmt::format("  fault    {:<16}{} of {}", fault.name, bench::says_of(fault), fault.of));
    page.line(
        fmt::format("Steps of {} at most.", rig::span_to_text(std::llround(world.step * 1000))));
    if (!options.rig.empty()) {
        const rig::Rig rig = usable_rig(options.rig);
        const bench::WorldWiring wiring(world, rig);
        if (!wiring.mistakes().empty()) {
            print_mistakes(options.file, wiring.mistakes());
            page.finish();
            return found_wanting;
        }
        page.line(fmt::format("It fits {}: every sensor sees something, and every output that acts "
                              "is there.",
                              options.rig));
    }
    page.finish();
    return done;
}

std::string text_of(double thousandths, rig::Kind kind) {
    if (kind == rig::Kind::heat_loss && std::fabs(thousandths) >= 1e6)
        return fmt::format("{:.6g} W/K", thousandths / 1e6);
    return rig::to_text(static_cast<int32_t>(std::lround(thousandths)), kind);
}
/// A value as far as its error lets it be told.
double sensible(double value, double error) {
    if (!(error > 0))
        return value;
    const double grain = std::pow(10, std::floor(std::log10(error)) - 1);
    return std::round(value / grain) * grain;
}

Status fit_measured(const WorldCommand& options, Page& page) {
    if (options.world.empty() || options.rig.empty())
        throw rig::InputError("world fit: say which world, and of which rig the run is: zorilla "
                              "world fit night.csv --world winter.toml --rig hen_house.toml");
    WorldOptions of;
    of.rig = options.rig;
    of.world = options.world;
    const Meeting meeting = meet(of);
    const size_t slash = options.world.rfind('/');
    const bench::FittedWorld is = bench::fit_world(
        *meeting.world, slash == std::string::npos ? "" : options.world.substr(0, slash + 1),
        *meeting.device, bench::read_world_run(options.file, *meeting.device), options.find);
    page.line(page.bold(fmt::format("{} from {}, {} rows", meeting.world->name, options.file,
                                    rig::count_to_text(is.rows))));
    bool all = true;
    for (const bench::FoundNumber& found : is.found) {
        const std::string was =
            fmt::format("  (the file says {})", text_of(found.before, found.kind));
        if (found.told) {
            page.line(fmt::format(
                "  {:<24}{:>14} +- {}{}", found.name,
                text_of(sensible(found.value, found.error), found.kind),
                text_of(sensible(found.error, found.error), rig::difference_of(found.kind)), was));
            continue;
        }
        all = false;
        page.line(fmt::format("  {:<24}{}{}", found.name,
                              page.warning("cannot be told from this run"), was));
    }
    page.line();
    for (const auto& left : is.left) {
        page.line(fmt::format(
            "  {:<24}is off by {:.3g} {} on average (with the file's numbers {:.3g})", left.sensor,
            left.rms, rig::stored_unit_of(rig::difference_of(left.kind)), left.rms_before));
        if (left.together > 0.7 && left.rms > 0)
            page.line(page.warning(fmt::format(
                "  {:<24}what is left goes up and down slowly: something of this world is missing "
                "or wrong",
                "")));
    }
    page.line();
    page.line("Errors are standard errors: two of them to both sides hold the true value in 95 of "
              "100 runs, if the");
    const bool any = std::any_of(is.found.begin(), is.found.end(),
                                 [](const bench::FoundNumber& found) { return found.told; });
    page.line("world is like that at all.");
    if (options.write_back && any) {
        bench::RigText text(rig::read_file(options.world));
        rig::Node written = meeting.world->written;
        for (const bench::FoundNumber& found : is.found)
            if (found.told)
                text.replace(
                    *bench::number_in_world(written, found.name),
                    fmt::format("\"{}\"", text_of(sensible(found.value, found.error), found.kind)));
        rig::OutputFile file(options.world, true);
        file.write(text.text());
        file.commit();
        page.line(fmt::format("Written into {}; all else in it is as it was.", options.world));
    } else if (any) {
        page.line(fmt::format("--write-back puts these numbers into {}.", options.world));
    }
    page.finish();
    return all ? done : found_wanting;
}

} // namespace

void add_world(Command& app, Chosen& chosen) {
    auto options = std::make_shared<WorldCommand>();
    Command* command = app.add_subcommand(
        "world", "Check a world file, or find the numbers of one that nobody can guess from a "
                 "recorded run.\nExample: zorilla world check winter.toml --rig hen_house.toml");
    command->add_option("ACTION", options->action, "check or fit.")
        ->required()
        ->one_of({"check", "fit"});
    command
        ->add_option("FILE", options->file,
                     "The world to check; or to fit, the trace of a device that was in it.")
        ->required();
    command->add_option("--world", options->world, "To fit: the world, with numbers to begin with.")
        ->type_name("WORLD");
    command->add_option("--rig", options->rig, "The rig of the device.")->type_name("RIG");
    command
        ->add_option("--find", options->find,
                     "To fit: which numbers, such as roost.capacity,roost.loses.1; those of bodies "
                     "that sensors look at, if not said.")
        ->delimiter(',')
        ->type_name("NAME,...");
    command->add_flag("--write-back", options->write_back,
                      "To fit: write what is found into the world file; all else there stays.");
    command->callback([options, &chosen] {
        chosen = [options](Page& page) {
            return options->action == "fit" ? fit_measured(*options, page)
                                            : check_world(*options, page);
        };
    });
}

} // namespace zorilla::cli
