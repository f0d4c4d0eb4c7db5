// SPDX-License-Identifier: MIT
// tune: numbers of a rig, tried in a world.
#include "bench/world/tune.hpp"
#include "bench/live/write_back.hpp"
#include "cli/quantities.hpp"
#include "cli/worlds.hpp"
#include "rig/decide/part.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::cli {

namespace {

struct TuneOptions : WorldOptions {
    std::vector<std::string> vary;
    std::string output, wish, least = "knee", figure;
    uint64_t runs = 0, threads = 0;
    bool write_back = false;
};

/// Whose switchings count: the output that is asked for, else the first one that a claim of the
/// varied decision switches, else the first that acts on the world.
size_t output_of(const TuneOptions& options, const Meeting& meeting,
                 const std::vector<bench::Vary>& vary) {
    const rig::Rig& rig = *meeting.device;
    std::vector<std::string> names;
    for (const rig::Drive& drive : rig.drives)
        names.push_back(drive.name);
    if (!options.output.empty()) {
        const auto is = std::find(names.begin(), names.end(), options.output);
        if (is == names.end())
            throw rig::InputError(fmt::format("--output: there is no [drive.{}]{}", options.output,
                                              rig::suggestion(options.output, names)));
        return static_cast<size_t>(is - names.begin());
    }
    for (const bench::Vary& one : vary)
        for (size_t i = 0; i < rig.drives.size(); ++i) {
            if (one.group == "drive" && rig.drives[i].name == one.part)
                return i;
            for (const rig::RigClaim& claim : rig.drives[i].claims)
                for (const size_t fact : claim.when.facts())
                    if (rig.facts[fact].kind == rig::Fact::Kind::decision &&
                        rig.decides[rig.facts[fact].of].name == one.part)
                        return i;
        }
    if (meeting.wiring->outputs().empty())
        throw rig::InputError(fmt::format("{}: no output of the rig acts on it, so that there is "
                                          "nothing to tune",
                                          options.world));
    return meeting.wiring->outputs().front();
}

/// "roost=4 degC..6 degC", or "roost=4 degC"; without it what the first varied threshold stands at.
bool wished_of(const TuneOptions& options, const Meeting& meeting,
               const std::vector<bench::Vary>& vary, bench::Wished& out) {
    const rig::Rig& rig = *meeting.device;
    if (options.wish.empty()) {
        for (const bench::Vary& one : vary)
            for (const rig::Decide& decide : rig.decides)
                if (decide.name == one.part && decide.judges && !rig::points_of(decide).empty()) {
                    const double at = rig::points_of(decide).front().at.thousandths() / 1000.0;
                    out = {decide.of, at, at};
                    return meeting.wiring->truly(bench::WorldLife(*meeting.world, 1, 0), decide.of)
                        .has_value();
                }
        return false;
    }
    const Wish wish = wish_of(options.wish, rig, true);
    out = {wish.source, wish.lowest / 1000.0, wish.highest / 1000.0};
    if (!meeting.wiring->truly(bench::WorldLife(*meeting.world, 1, 0), out.source))
        throw rig::InputError(fmt::format("--wish: the world does not know what {} really is",
                                          rig.sources[wish.source].name));
    return true;
}

void print_points(Page& page, const Meeting& meeting, const std::vector<bench::Vary>& vary,
                  const bench::TunePlan& plan, const bench::Tuned& tuned) {
    const std::string unit = plan.has_wish ? rig::stored_unit_of(rig::difference_of(
                                                 meeting.device->sources[plan.wished.source].kind))
                                           : "";
    std::string head;
    for (const bench::Vary& one : vary)
        head += fmt::format("{:>{}}", one.name, std::max<size_t>(one.name.size(), 12) + 2);
    head += fmt::format("{:>14}", "times a day");
    if (plan.has_wish)
        head += fmt::format("{:>14}", "off by " + unit);
    page.line(page.bold(head + "     kWh a day  promises"));
    std::vector<size_t> rows;
    for (size_t i = 0; i < tuned.points.size(); ++i)
        rows.push_back(i);
    const size_t all = rows.size();
    // Of many, those of which none is better, and what the rig is now.
    if (vary.size() > 1) {
        rows = tuned.front;
        rows.push_back(0);
        if (tuned.best)
            rows.push_back(*tuned.best);
    }
    std::sort(rows.begin(), rows.end(),
              [&](size_t a, size_t b) { return tuned.points[a].values < tuned.points[b].values; });
    rows.erase(std::unique(rows.begin(), rows.end()), rows.end());
    for (const size_t i : rows) {
        const bench::TunePoint& point = tuned.points[i];
        std::string line;
        for (size_t v = 0; v < vary.size(); ++v)
            line += fmt::format("{:>{}}", rig::to_text(point.values[v], vary[v].kind),
                                std::max<size_t>(vary[v].name.size(), 12) + 2);
        if (!point.impossible.empty()) {
            page.line(line + "  " + page.warning("cannot be: " + point.impossible));
            continue;
        }
        line += fmt::format("{:>14.1f}", point.times_a_day);
        if (plan.has_wish)
            line += fmt::format("{:>14.3f}", point.lived.deviation);
        line += fmt::format("{:>14.2f}", point.kwh_a_day);
        std::string broken;
        for (const size_t verdict : point.broken) {
            const bool promise = verdict < meeting.device->promises.size();
            broken +=
                (broken.empty() ? "" : ", ") + (promise ? meeting.device->promises[verdict].name
                                                        : point.lived.verdicts[verdict].says);
        }
        line += "  " + (broken.empty() ? "kept" : page.warning("breaks " + broken));
        if (point.holds) {
            const std::string holds =
                fmt::format(", in {} of {} other weathers too", *point.holds, bench::Tuned::others);
            line += *point.holds == bench::Tuned::others ? holds : page.warning(holds);
        }
        if (i == 0)
            line += "  (as it is)";
        if (tuned.best == i)
            line = page.bold(line + "  <- recommended");
        page.line(line);
    }
    if (rows.size() < all)
        page.line(fmt::format("  and {} more, of which each keeps less or is no better in any way",
                              all - rows.size()));
}

Status tune_rig(const TuneOptions& options, Page& page) {
    const Meeting meeting = meet(options);
    const rig::ShownUnits units(meeting.device->show);
    std::vector<bench::Vary> vary;
    for (const std::string& text : options.vary)
        vary.push_back(bench::parse_vary(text, *meeting.device));
    bench::TunePlan plan;
    plan.around = around_plan(options, meeting);
    plan.length = length_of(options);
    plan.runs = options.runs;
    plan.threads = static_cast<unsigned>(options.threads);
    plan.has_wish = wished_of(options, meeting, vary, plan.wished);
    plan.output = output_of(options, meeting, vary);
    using Least = bench::TunePlan::Least;
    plan.least = options.least == "switchings"  ? Least::switchings
                 : options.least == "deviation" ? Least::deviation
                 : options.least == "energy"    ? Least::energy
                                                : Least::knee;
    if (plan.least == Least::deviation && !plan.has_wish)
        throw rig::InputError("--least deviation: say from what, such as --wish \"roost=4 degC..6 "
                              "degC\"");
    if (!options.figure.empty())
        rig::check_output(options.figure);
    const bench::Tuned tuned = bench::tune(*meeting.device, *meeting.world, vary, plan);
    page.line(page.bold(fmt::format("{} in \"{}\", {} each, all in the same weather",
                                    meeting.device->name, meeting.world->name,
                                    rig::span_to_text(plan.length))));
    std::string wished;
    if (plan.has_wish) {
        const rig::Source& source = meeting.device->sources[plan.wished.source];
        const auto text = [&](double value) {
            return rig::to_text(static_cast<int32_t>(std::lround(value * 1000)), source.kind);
        };
        wished = plan.wished.lowest == plan.wished.highest
                     ? fmt::format("; {} is to be near {}", source.name, text(plan.wished.lowest))
                     : fmt::format("; {} is to be {} to {}", source.name, text(plan.wished.lowest),
                                   text(plan.wished.highest));
    }
    page.line(fmt::format("Switchings are those of {}{}.", meeting.device->drives[plan.output].name,
                          wished));
    page.line();
    print_points(page, meeting, vary, plan, tuned);
    page.line();
    if (!tuned.best) {
        page.line(page.warning(fmt::format("Nothing is recommended: {}.", tuned.why)));
        page.line("Vary it further, vary something else too, or promise less.");
    } else {
        std::string says;
        for (size_t i = 0; i < vary.size(); ++i)
            says += fmt::format("{}{} = \"{}\"", i == 0 ? "" : ", ", vary[i].name,
                                rig::to_text(tuned.points[*tuned.best].values[i], vary[i].kind));
        page.line(fmt::format("Recommended: {}: {}.", says, tuned.why));
    }
    if (!options.figure.empty())
        bench::draw_trade(options.figure,
                          fmt::format("{} in \"{}\"", meeting.device->name, meeting.world->name),
                          *meeting.device, vary, plan, tuned);
    if (options.write_back && tuned.best) {
        std::string text = rig::read_file(options.rig);
        for (size_t i = 0; i < vary.size(); ++i)
            text = bench::with_text_at(
                text, bench::number_of(rig::parse_rig(text).rig, vary[i]),
                rig::exact_text(tuned.points[*tuned.best].values[i], vary[i].kind));
        rig::OutputFile file(options.rig, true);
        file.write(text);
        file.commit();
        page.line(fmt::format("Written into {}; all else in it is as it was.", options.rig));
    }
    page.finish();
    return tuned.best ? done : found_wanting;
}

} // namespace

void add_tune(Command& app, Chosen& chosen) {
    auto options = std::make_shared<TuneOptions>();
    Command* command = app.add_subcommand(
        "tune",
        "Try numbers of a rig one beside the other in simulated surroundings, and recommend "
        "one.\nExample: zorilla tune hen_house.toml --world winter.toml --vary "
        "cold.release=\"4.2 degC\"..\"8 degC\"");
    add_world_options(*command, options);
    command
        ->add_option("--vary", options->vary,
                     "A number of the rig file, and from where to where: "
                     "cold.release=\"4.2 degC\"..\"8 degC\"; of a list by its place, "
                     "cool.falling.1=... Of one or two a grid is tried, of more a search.")
        ->required()
        ->type_name("PART.KEY=A..B");
    command->add_option("--output", options->output, "Whose switchings count.")->type_name("NAME");
    command
        ->add_option("--wish", options->wish,
                     "What a reading is to be: roost=\"4 degC\"..\"6 degC\". Without it, where the "
                     "varied threshold stands now.")
        ->type_name("NAME=A[..B]");
    command
        ->add_option("--least", options->least,
                     "What counts: the knee, where fewer switchings begin to cost much; or the "
                     "least switchings, deviation or energy of all that keep every promise.")
        ->one_of({"knee", "switchings", "deviation", "energy"})
        ->capture_default_str();
    command->add_option("--runs", options->runs, "How many are tried; 20, 81 or 96 if not said.")
        ->type_name("N")
        ->between(0, 100'000);
    add_threads(*command, options->threads);
    command->add_option("--figure", options->figure, "Draw the trade here.")
        ->type_name("FILE.png|.svg");
    command->add_flag("--write-back", options->write_back,
                      "Write what is recommended into the rig file; all else there stays.");
    command->callback([options, &chosen] {
        chosen = [options](Page& page) { return tune_rig(*options, page); };
    });
}

} // namespace zorilla::cli
