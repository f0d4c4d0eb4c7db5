// SPDX-License-Identifier: MIT
// try: a rig in a world.
#include "bench/figure/figure.hpp"
#include "cli/thinner.hpp"
#include "cli/worlds.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::cli {

namespace {

struct TryOptions : WorldOptions {
    std::string save, figure;
    std::vector<std::string> only;
    std::string rest;
    bool summary = false;
};

std::string shown(double value, rig::Kind kind) {
    return rig::reading_text(
        static_cast<int32_t>(std::lround(std::clamp(value * 1000, -2.0e9, 2.0e9))), kind);
}

void print_world(Page& page, const bench::WorldSummary& world, size_t width) {
    const auto line = [&](std::string_view name, std::string_view text) {
        page.line(fmt::format("  {:<{}}  {}", name, width, text));
    };
    for (const auto& value : world.values)
        line(value.name,
             fmt::format("{} to {}, {} on average", shown(value.least, value.kind),
                         shown(value.most, value.kind),
                         shown(value.sum / static_cast<double>(std::max<uint64_t>(world.passes, 1)),
                               value.kind)));
    for (const auto& over : world.overshoots)
        if (over.times > 0)
            line(over.decide,
                 fmt::format("after it turned, it went on for {} on average, {} at most",
                             shown(over.sum / static_cast<double>(over.times), over.kind),
                             shown(over.most, over.kind)));
    for (const auto& energy : world.energies)
        line(energy.output,
             fmt::format("{} {:.2f} kWh {} {}", energy.cools ? "took" : "gave",
                         energy.joules / 3.6e6, energy.cools ? "from" : "to", energy.body));
    std::string worst;
    double share = 0;
    for (const auto& value : world.values) {
        const double matters = bench::step_matters(value);
        if (matters > 0 && value.changed_by_half_step / matters > share) {
            share = value.changed_by_half_step / matters;
            const std::string unit = rig::stored_unit_of(rig::difference_of(value.kind));
            worst =
                value.changed_by_half_step < 0.001
                    ? fmt::format("{} by less than 0.001 {}", value.name, unit)
                    : fmt::format("{} by {:.2g} {}", value.name, value.changed_by_half_step, unit);
        }
    }
    const std::string step = rig::span_to_text(std::llround(world.step * 1000));
    if (share > 1)
        line("step", page.warning(fmt::format("{} is too long: half of it changes {}; write a "
                                              "shorter \"step\" in [world]",
                                              step, worst)));
    else if (!worst.empty())
        line("step", fmt::format("half of {} changes {}, over the first {}: nothing that "
                                 "matters",
                                 step, worst, rig::span_to_text(world.checked)));
}

Status try_rig(const TryOptions& options, Page& page) {
    const Meeting meeting = meet(options);
    const rig::ShownUnits units(meeting.device->show);
    bench::TryPlan plan;
    static_cast<bench::AroundPlan&>(plan) = around_plan(options, meeting);
    plan.length = length_of(options);
    plan.save = options.save;
    if (!plan.save.empty())
        rig::check_output(plan.save);
    std::optional<bench::Figure> figure;
    if (!options.figure.empty())
        figure.emplace(options.figure, *meeting.device);
    const std::string title =
        fmt::format("{} in \"{}\"", meeting.device->name, meeting.world->name);
    page.line(page.bold(fmt::format("{}, {}", title, rig::span_to_text(plan.length))));
    Thinner thinner(options.only, options.rest, *meeting.device);
    const bench::Tried tried = bench::try_in_world(
        *meeting.wiring, plan,
        [&](bench::Event event) {
            if (!options.summary && thinner.tells(event))
                print_event(page, *meeting.device, event);
        },
        figure
            ? std::function<void(int64_t, const rig::RunningRig&)>(
                  [&](int64_t now, const rig::RunningRig& running) { figure->add(now, running); })
            : nullptr);
    if (!options.summary)
        page.line();
    page.line(page.bold("In all"));
    print_summary(page, *meeting.device, tried.summary, 0);
    page.line();
    page.line(page.bold("In the world"));
    size_t width = 9;
    for (const auto& value : tried.world.values)
        width = std::max(width, value.name.size());
    for (const auto& energy : tried.world.energies)
        width = std::max(width, energy.output.size());
    for (const auto& over : tried.world.overshoots)
        width = std::max(width, over.decide.size());
    print_world(page, tried.world, width);
    bool kept = true;
    if (!tried.verdicts.empty()) {
        page.line();
        page.line(page.bold("Promises"));
        kept = print_verdicts(page, tried.verdicts);
    }
    if (figure)
        figure->write(title);
    if (!plan.save.empty()) {
        page.line();
        if (tried.power_back)
            page.line(fmt::format("The trace begins at {}, when the power came back.",
                                  rig::time_to_text(*tried.power_back)));
        if (!meeting.device->drives.empty())
            page.line(fmt::format(
                "Ask why of any moment: zorilla run {} --trace {} --why \"{}@{}\"", options.rig,
                plan.save, meeting.device->drives.front().name,
                rig::time_to_text(tried.summary.begin + (tried.summary.end - tried.summary.begin) /
                                                            2 / 60'000 * 60'000)));
    }
    page.finish();
    return kept ? done : found_wanting;
}

} // namespace

void add_try(Command& app, Chosen& chosen) {
    auto options = std::make_shared<TryOptions>();
    Command* command = app.add_subcommand(
        "try", "Let a rig live in simulated surroundings, which its outputs act on, and tell what "
               "it does and what comes of it.\nExample: zorilla try hen_house.toml --world "
               "winter.toml --for \"30 d\" --summary");
    add_world_options(*command, options);
    command
        ->add_option("--fault", options->faults,
                     "Something that breaks, besides what the world says: \"roost open at 2d 03:00 "
                     "for 1 h\", \"heat_lamp stuck on at ...\", \"supply lost at ...\".")
        ->type_name("TEXT");
    command->add_option("--save", options->save, "Write what its pins read, and its outputs, here.")
        ->type_name("FILE.csv");
    command->add_option("--figure", options->figure, "Draw readings, thresholds and outputs here.")
        ->type_name("FILE.png|.svg");
    command->add_option("--only", options->only, "Tell the events of these parts only.")
        ->delimiter(',')
        ->type_name("NAME,...");
    command
        ->add_option("--every", options->rest,
                     "Tell of each part at most one event in this time, and how many more there "
                     "were.")
        ->type_name("TIME");
    command->add_flag("--summary", options->summary, "Tell no events, only what came of it.");
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return try_rig(*options, page); }; });
}

} // namespace zorilla::cli
