// SPDX-License-Identifier: MIT
// yield: how many of many devices behave.
#include "bench/world/yield.hpp"
#include "cli/worlds.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

namespace zorilla::cli {

namespace {

struct YieldOptions : WorldOptions {
    uint64_t devices = 1000, threads = 0;
    std::string save, figure;
    bool strays = false;
};

std::string percent(const bench::Share& share) {
    return fmt::format("{:.1f} %", 100 * share.value());
}
std::string interval(const bench::Share& share) {
    return fmt::format("{:.1f} to {:.1f} % at 95 %", 100 * share.lowest(), 100 * share.highest());
}
std::string tolerance(const bench::Stray& stray, const rig::Rig& rig) {
    if (!stray.offset)
        return fmt::format("+-{:g} %", 100 * stray.tolerance);
    const rig::Source& source = rig.sources[rig.senses[stray.sense].source];
    return "+-" + rig::to_text(static_cast<int32_t>(std::lround(stray.tolerance * 1000)),
                               rig::difference_of(source.kind));
}

Status yield(const YieldOptions& options, Page& page) {
    const Meeting meeting = meet(options);
    const rig::ShownUnits units(meeting.device->show);
    if (meeting.device->promises.empty() && meeting.device->nevers.empty())
        throw rig::InputError(fmt::format("{}: promises nothing, so that every device would keep "
                                          "it; add a [promise.NAME], such as of = \"roost\" and "
                                          "at_least = \"2 degC\"",
                                          options.rig));
    bench::YieldPlan plan;
    plan.around = around_plan(options, meeting);
    plan.length = length_of(options);
    plan.devices = options.devices;
    plan.threads = static_cast<unsigned>(options.threads);
    const std::vector<bench::Stray> strays = bench::strays_of(*meeting.device, *meeting.world);
    if (!options.save.empty())
        rig::check_output(options.save);
    const bench::Yielded is = bench::yield_of(*meeting.wiring, strays, plan);

    const std::string title =
        fmt::format("{} in \"{}\": {} devices, {} each", meeting.device->name, meeting.world->name,
                    rig::count_to_text(plan.devices), rig::span_to_text(plan.length));
    page.line(page.bold(title));
    page.line("Each is made of parts within their tolerances, and lives in weather of its own.");
    page.line(
        "Taken as exact: what outputs give (a heater's power, a pump's flow), and the world.");
    page.line();
    page.line(
        page.bold(fmt::format("{} keep every promise ({})", percent(is.kept), interval(is.kept))));
    size_t width = 0;
    for (const std::string& says : is.says)
        width = std::max(width, std::min<size_t>(says.size(), 72));
    for (size_t i = 0; i < is.says.size(); ++i)
        page.line(fmt::format(
            "  {:<{}}  {}{}", is.says[i], width, percent(is.each[i]),
            is.each[i].of < is.each[i].all ? fmt::format(" ({})", interval(is.each[i])) : ""));
    if (is.impossible > 0)
        page.line(page.warning(fmt::format("Parts of {} of them would be so far off that there is "
                                           "no such sensor, and were taken as "
                                           "exact: give [parts.SENSOR] smaller tolerances",
                                           is.impossible)));
    if (is.looked_at > 0) {
        page.line();
        page.line(page.bold(fmt::format(
            "What is to blame: of {} that fail, so many keep all once that one number is exact",
            is.looked_at)));
        for (const auto& blame : is.blames) {
            if (blame.mended == 0)
                continue;
            page.line(fmt::format("  {:<24}{:>12}{:>6}", blame.stray.sensor + "." + blame.stray.key,
                                  tolerance(blame.stray, *meeting.device), blame.mended));
        }
        page.line(fmt::format("  {:<36}{:>6}{}", "weather and the rig itself", is.weather,
                              "  fail with every part exact"));
    }
    if (!is.calibrated.empty()) {
        std::string names;
        for (const std::string& name : is.calibrated_sensors)
            names += (names.empty() ? "" : ", ") + name;
        page.line();
        page.line(page.bold(fmt::format("Calibrated ({}), of the first {}", names,
                                        is.calibrated.front().kept.all)));
        for (const auto& how : is.calibrated)
            page.line(
                fmt::format("  {:<16}{:>8} ({})", how.how, percent(how.kept), interval(how.kept)));
    }
    if (options.strays) {
        page.line();
        page.line(page.bold("What strays, evenly to both sides"));
        for (const bench::Stray& stray : strays)
            page.line(fmt::format("  {:<24}{:>12}{}", stray.sensor + "." + stray.key,
                                  tolerance(stray, *meeting.device),
                                  stray.usual ? "  (usual)" : ""));
    }
    if (is.worst) {
        page.line();
        page.line(fmt::format("The worst is device {}: it breaks {}", *is.worst, is.worst_says));
        if (!options.save.empty()) {
            bench::trace_of_device(*meeting.wiring, strays, plan, *is.worst, options.save);
            page.line(fmt::format("What its pins read: zorilla run {} --trace {}", options.rig,
                                  options.save));
        }
    }
    if (!options.figure.empty())
        bench::draw_yield(options.figure, title, is);
    page.finish();
    return is.worst ? found_wanting : done;
}

} // namespace

void add_yield(Command& app, Chosen& chosen) {
    auto options = std::make_shared<YieldOptions>();
    Command* command = app.add_subcommand(
        "yield", "Build many devices from parts within their tolerances, let each live in other "
                 "weather, and tell how many keep every promise.\nExample: zorilla yield "
                 "hen_house.toml --world winter.toml --devices 1000");
    add_world_options(*command, options);
    command->add_option("--devices", options->devices, "How many.")
        ->type_name("N")
        ->between(1, 1e7)
        ->capture_default_str();
    add_threads(*command, options->threads);
    command->add_flag("--parts", options->strays, "List what strays, and by how much.");
    command->add_option("--save", options->save, "Write what the pins of the worst one read here.")
        ->type_name("FILE.csv");
    command->add_option("--figure", options->figure, "Draw shares and what is to blame here.")
        ->type_name("FILE.png|.svg");
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return yield(*options, page); }; });
}

} // namespace zorilla::cli
