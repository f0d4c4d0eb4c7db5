// SPDX-License-Identifier: MIT
// faults: every fault of every part.
#include "bench/world/breaking.hpp"
#include "cli/worlds.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::cli {

namespace {

struct FaultOptions : WorldOptions {
    uint64_t moments = 8, threads = 0;
    std::string lasts, after = "2 h", save, figure;
};

Status faults(const FaultOptions& options, Page& page) {
    const Meeting meeting = meet(options);
    const rig::ShownUnits units(meeting.device->show);
    bench::BreakingPlan plan;
    plan.around = around_plan(options, meeting);
    plan.before = length_of(options);
    plan.moments = options.moments;
    plan.lasts = options.lasts.empty() ? bench::settling_time(*meeting.wiring)
                                       : time_option("--lasts", options.lasts, "1 h");
    plan.after = time_option("--after", options.after, "2 h");
    plan.threads = static_cast<unsigned>(options.threads);
    if (!options.save.empty())
        rig::check_output(options.save);
    const bench::Broken is = bench::break_everything(*meeting.wiring, plan);
    const std::string title = fmt::format(
        "{} in \"{}\": every fault for {}, at {} moments of a day", meeting.device->name,
        meeting.world->name, rig::span_to_text(plan.lasts), plan.moments);
    page.line(page.bold(title));
    for (const std::string& says : is.broken_without)
        page.line(page.warning(fmt::format("Without any fault, this is broken already: {}", says)));
    page.line();
    size_t width = 4;
    for (const bench::Breaking& one : is.all)
        width = std::max(width, one.part.size());
    page.line(
        page.bold(fmt::format("{:<{}}  {:<10}{:>8}{:>8}  {:<13}{:>12}  {}", "part", width, "is",
                              "kept", "told", "after at most", "well again", "what breaks")));
    const bench::Breaking* worst = nullptr;
    for (const bench::Breaking& one : is.all) {
        const auto share = [&](size_t n) { return fmt::format("{}/{}", n, one.moments); };
        std::string broke;
        for (const std::string& says : one.broke)
            broke += (broke.empty() ? "" : "; ") + says;
        const std::string told = one.told == 0 && !one.to_be_told ? "-" : share(one.told);
        std::string line =
            fmt::format("{:<{}}  {:<10}{:>8}", one.part, width, one.how, share(one.kept));
        line += one.to_be_told && one.told < one.moments ? page.warning(fmt::format("{:>8}", told))
                                                         : fmt::format("{:>8}", told);
        line += fmt::format("  {:<13}{:>12}",
                            one.longest_told ? rig::span_to_text(*one.longest_told) : "-",
                            share(one.recovered));
        page.line(broke.empty() ? line : line + "  " + page.warning(broke));
        if (one.worst && (worst == nullptr ||
                          std::pair(one.kept, one.told) < std::pair(worst->kept, worst->told)))
            worst = &one;
    }
    page.line();
    page.line(is.tells ? "Told: as a promise says that faults are told."
                       : "Told: no promise says how faults are told, so what counts is that a "
                         "sensor is lost or an output takes its safe value.");
    for (const std::string& says : is.open)
        page.line(page.warning(fmt::format(
            "Open: \"{}\" is about 24 h, and each case was watched for {}; where nothing broke it, "
            "nobody knows. Watch longer: --after \"{} h\"",
            says, rig::span_to_text(plan.lasts + plan.after),
            (86'400'000 - plan.lasts + 3'599'999) / 3'600'000)));
    page.line(
        fmt::format("Well again: {} after it has healed, every sensor reads, and no output has "
                    "its safe value.",
                    rig::span_to_text(plan.after)));
    if (worst != nullptr) {
        page.line(fmt::format("The worst: {} {} at {}.", worst->part, worst->how,
                              rig::time_to_text(*worst->worst)));
        if (!options.save.empty()) {
            bench::trace_of_breaking(*meeting.wiring, plan, *worst, options.save);
            page.line(fmt::format("What its pins read: zorilla run {} --trace {}", options.rig,
                                  options.save));
        } else {
            page.line(fmt::format("See it: zorilla try {} --world {} --pass \"{}\" --seed {} --for "
                                  "\"{} d\" --fault \"{} {} at {} for {}\"",
                                  options.rig, options.world, options.every, options.seed,
                                  *worst->worst / 86'400'000 + 1, worst->part, worst->how,
                                  rig::time_to_text(*worst->worst), rig::span_to_text(plan.lasts)));
        }
    }
    if (!options.figure.empty())
        bench::draw_breaking(options.figure, title, is);
    page.finish();
    return worst == nullptr && is.broken_without.empty() ? done : found_wanting;
}

} // namespace

void add_faults(Command& app, Chosen& chosen) {
    auto options = std::make_shared<FaultOptions>();
    options->length = "1 d";
    Command* command = app.add_subcommand(
        "faults",
        "Break each part of a rig in each way, at many moments of a day, and tell whether "
        "the device stays safe, tells it and recovers.\nExample: zorilla faults "
        "hen_house.toml --world winter.toml");
    add_world_options(*command, options);
    command->add_option("--moments", options->moments, "At how many moments of a day.")
        ->type_name("N")
        ->between(1, 1440)
        ->capture_default_str();
    command
        ->add_option("--lasts", options->lasts,
                     "How long each fault lasts. Default: until all has settled, by the slowest "
                     "body of the world and the longest time that a promise allows.")
        ->type_name("TIME");
    command->add_option("--after", options->after, "How long it is watched then.")
        ->type_name("TIME")
        ->capture_default_str();
    add_threads(*command, options->threads);
    command->add_option("--save", options->save, "Write what the pins read in the worst case here.")
        ->type_name("FILE.csv");
    command->add_option("--figure", options->figure, "Draw the matrix here.")
        ->type_name("FILE.png|.svg");
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return faults(*options, page); }; });
}

} // namespace zorilla::cli
