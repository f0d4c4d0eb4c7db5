// SPDX-License-Identifier: MIT
// What the commands that try a rig in a world share.
#include "cli/worlds.hpp"

#include "bench/world/presses.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstdio>

namespace zorilla::cli {

void add_world_options(Command& command, const std::shared_ptr<WorldOptions>& options) {
    command.add_option("RIG", options->rig, "The rig file.")->required();
    command
        .add_option("--world", options->world,
                    "What surrounds it: a world file; docs/worlds.md tells what may stand there.")
        ->required()
        ->type_name("WORLD");
    command.add_option("--for", options->length, "How long.")
        ->type_name("TIME")
        ->capture_default_str();
    command.add_option("--pass", options->every, "The time from pass to pass of the device.")
        ->type_name("TIME")
        ->capture_default_str();
    command
        .add_option("--seed", options->seed,
                    "Another number, other weather and other noise; the same one, the same again.")
        ->between(0, 1e15)
        ->capture_default_str();
}

void add_threads(Command& command, uint64_t& threads) {
    command.add_option("--threads", threads, "On how many cores; all, if not said.")
        ->type_name("N")
        ->between(0, 1024);
}

bench::WorldFile usable_world(const std::string& path) {
    bench::WorldFile file = bench::load_world(path);
    if (!file.mistakes.empty()) {
        print_mistakes(path, file.mistakes);
        throw rig::InputError(fmt::format("{}: mend the mistakes above first", path));
    }
    return file;
}

Meeting meet(const WorldOptions& options) {
    Meeting out;
    out.device = std::make_unique<rig::Rig>(usable_rig(options.rig));
    out.world = usable_world(options.world).world;
    out.wiring = std::make_unique<bench::WorldWiring>(*out.world, *out.device);
    if (!out.wiring->mistakes().empty()) {
        print_mistakes(options.world, out.wiring->mistakes());
        throw rig::InputError(fmt::format("{}: does not fit {}: mend the mistakes above first",
                                          options.world, options.rig));
    }
    return out;
}

int64_t length_of(const WorldOptions& options) {
    // Longer than what a device's clock can tell.
    int days = 0, end = 0;
    if (std::sscanf(options.length.c_str(), "%6d d%n", &days, &end) == 1 && days > 0 &&
        static_cast<size_t>(end) == options.length.size())
        return days * INT64_C(86'400'000);
    return time_option("--for", options.length, "3 d");
}

namespace {

/// "roost open at 2d 03:00 for 1 h"
bench::WorldFault fault_of_text(const std::string& text) {
    const size_t at = text.find(" at "), length = text.find(" for ");
    const size_t space = text.find(' ');
    const auto wrong = [&](const std::string& what) {
        return rig::InputError(fmt::format("--fault: \"{}\": {}; write for example \"roost open at "
                                           "2d 03:00 for 1 h\"",
                                           text, what));
    };
    if (at == std::string::npos || length == std::string::npos || length < at || space >= at)
        throw wrong("say what breaks, how, when and for how long");
    rig::Node table = rig::Node::table();
    const auto add = [&table](const char* key, std::string value) {
        table.add({key, {}}, rig::Node::text(std::move(value)));
    };
    add("of", text.substr(0, space));
    add("is", text.substr(space + 1, at - space - 1));
    rig::Node times = rig::Node::list();
    times.add(rig::Node::text(text.substr(at + 4, length - at - 4)));
    table.add({"at", {}}, std::move(times));
    add("for", text.substr(length + 5));
    bench::WorldFault out;
    std::vector<rig::Mistake> mistakes = bench::read_fault("asked", table, out);
    if (!mistakes.empty())
        throw wrong(mistakes.front().text);
    return out;
}

} // namespace

bench::AroundPlan around_plan(const WorldOptions& options, const Meeting& meeting) {
    bench::AroundPlan out;
    out.every = time_option("--pass", options.every, "1 s");
    tell_repeated_echoes(options.rig, *meeting.device, out.every);
    for (const bench::ShortPress& press : bench::short_presses(*meeting.wiring, out.every))
        message(fmt::format("{}: {} is pressed for {}, and with a pass every {} that may go by "
                            "unseen, as on a chip; {}",
                            options.world, press.sensor, rig::span_to_text(press.lasts),
                            rig::span_to_text(out.every),
                            press.seen_with > 0 ? fmt::format("--pass \"{}\" sees each press",
                                                              rig::span_to_text(press.seen_with))
                                                : "its \"debounce\" is longer than that"));
    out.seed = options.seed;
    for (const std::string& text : options.faults)
        out.faults.push_back(fault_of_text(text));
    for (const bench::WorldFault& fault : out.faults) {
        std::string problem;
        if (!meeting.wiring->find_broken(fault, problem))
            throw rig::InputError("--fault: " + problem);
    }
    return out;
}

} // namespace zorilla::cli
