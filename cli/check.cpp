// SPDX-License-Identifier: MIT
// check: what a rig is made of, what is wrong with it, and whether it can do what it never must.
#include "bench/budget/budget.hpp"
#include "bench/trace/trace.hpp"
#include "cli/command.hpp"
#include "cli/verdicts.hpp"
#include "rig/prove/never.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <unistd.h>

namespace zorilla::cli {

namespace {

using Verdict = rig::NeverResult::Verdict;

struct CheckOptions {
    std::string rig;
    std::string limit = "20 s";
    std::string counter_example;
    std::string board;
};

/// A line on a terminal that says what is being done, and goes away.
class Progress {
  public:
    explicit Progress(const std::string& text) : shown_(isatty(STDERR_FILENO) != 0) {
        const char* terminal = std::getenv("TERM");
        shown_ = shown_ && isatty(STDOUT_FILENO) != 0 && terminal != nullptr &&
                 std::string_view(terminal) != "dumb";
        if (shown_)
            say("\r" + text.substr(0, 76));
    }
    ~Progress() {
        if (shown_)
            say("\r\x1b[K");
    }
    Progress(const Progress&) = delete;
    Progress& operator=(const Progress&) = delete;

  private:
    static void say(const std::string& text) {
        std::fflush(stdout);
        std::fputs(text.c_str(), stderr);
        std::fflush(stderr);
    }
    bool shown_;
};

/// The trace that a replay is made of.
std::string trace_of(const rig::Rig& rig, const std::vector<rig::prove::Row>& rows) {
    std::string out = "time (s)";
    for (const rig::Sense& sense : rig.senses)
        out += fmt::format(",{} ({})", sense.name, rig::unit_of(sense.raw));
    for (const rig::prove::Row& row : rows) {
        out += fmt::format("\n{}.{:03}", row.time / 1000, row.time % 1000);
        for (size_t i = 0; i < row.raws.size(); ++i) {
            const rig::Raw raw = row.raws[i];
            out += raw.is_silent()                            ? std::string(",none")
                   : !raw.taken()                             ? std::string(",")
                   : rig.senses[i].raw == rig::RawKind::frame ? fmt::format(",{:010x}", raw.bits())
                                                              : fmt::format(",{}", raw.bits());
        }
    }
    return out + "\n";
}

/// What is said of a line, and whether it is kept.
std::pair<std::string, bool> words_of(const rig::NeverResult& result, const std::string& limit) {
    const auto steps =
        fmt::format("{} {}", result.steps.size(), result.steps.size() == 1 ? "step" : "steps");
    switch (result.verdict) {
    case Verdict::proved:
        if (!result.self_test)
            return {"proved, it cannot happen", true};
        if (*result.self_test == Verdict::broken)
            return {
                fmt::format("proved, except in a self-test: there it can happen, in {}:", steps),
                false};
        return {*result.self_test == Verdict::may
                    ? fmt::format("proved, except that in a self-test it may happen, in {}; no "
                                  "replay has come to it:",
                                  steps)
                    : fmt::format("proved, except in a self-test: that is open after {}", limit),
                false};
    case Verdict::broken: return {fmt::format("it can happen, in {}:", steps), false};
    case Verdict::may:
        return {
            fmt::format("it may happen: with waits and readings of any length and kind it does{}, "
                        "but no replay has come to it",
                        result.steps.empty() ? std::string() : ", in " + steps) +
                (result.steps.empty() ? "" : ":"),
            false};
    case Verdict::open: break;
    }
    return {fmt::format("open: neither proved nor found in {}; look longer with --limit, or split "
                        "the line",
                        limit),
            false};
}

/// What was found out about what must never be. False if one line may come true.
bool print_nevers(Page& page, const rig::Rig& rig, const CheckOptions& options) {
    const auto limit = std::chrono::milliseconds(time_option("--limit", options.limit, "20 s"));
    page.line();
    page.line(page.bold("Never"));
    rig::Nevers nevers(rig);
    bool kept = true, written = false;
    for (size_t i = 0; i < rig.nevers.size(); ++i) {
        const std::string& text = rig.nevers[i].text;
        const rig::NeverResult result = [&] {
            const Progress progress(fmt::format("  {} of {}: {}", i + 1, rig.nevers.size(), text));
            return nevers.look_at(i, limit);
        }();
        const auto [words, is_kept] = words_of(result, options.limit);
        const std::string line = fmt::format("  {}: {}", text, words);
        page.line(is_kept ? line : page.warning(line));
        for (size_t step = 0; step < result.steps.size(); ++step)
            page.line(fmt::format("    {}. {}", step + 1, result.steps[step]));
        if (!options.counter_example.empty() && !written && !result.rows.empty()) {
            write_file(options.counter_example, trace_of(rig, result.rows));
            page.line(fmt::format("    written to {}: zorilla run {} --trace {}",
                                  options.counter_example, options.rig, options.counter_example));
            written = true;
        }
        kept = kept && is_kept;
        page.flush();
    }
    if (!options.counter_example.empty() && !written)
        message(fmt::format("{}: not written, since no line of never was shown to happen",
                            options.counter_example));
    return kept;
}

/// What it will take of its chip, and which parts most of it.
void print_budget(Page& page, const rig::Rig& rig) {
    const bench::Budget budget = bench::budget_of(rig);
    const auto about = [](double n, int64_t step) {
        return rig::count_to_text(
            static_cast<uint64_t>(std::llround(n / static_cast<double>(step)) * step));
    };
    page.line();
    page.line(page.bold("On the chip, estimated"));
    // Of rigs that had no part in what is known of costs, 95 of 100 are within.
    const auto ends = [&about](double n, double share, int64_t step) {
        return fmt::format("19 of 20 rigs: {} to {}", about(n * (1 - share), step),
                           about(n * (1 + share), step));
    };
    page.line(fmt::format("  flash       {} of 32,768 bytes ({})", about(budget.all.flash, 50),
                          ends(budget.all.flash, bench::within.flash, 50)));
    page.line(fmt::format("  RAM         {} of 2,048 bytes, and {} of stack",
                          about(budget.all.ram, 5), about(budget.all.stack, 5)));
    page.line(fmt::format("  a pass      {:.2f} ms at worst",
                          std::max(budget.all.cycles, 160.0) / 16'000));
    std::string most;
    for (size_t i = 0; i < budget.parts.size() && i < 3 && budget.parts[i].second.flash >= 100; ++i)
        most += fmt::format("{}{} about {} bytes", most.empty() ? "" : ", ", budget.parts[i].first,
                            about(budget.parts[i].second.flash, 50));
    if (!most.empty())
        page.line(fmt::format("  most flash  {}", most));
}

Status check(const CheckOptions& options, Page& page) {
    const rig::RigFile file = rig::load_rig(options.rig);
    if (!file.mistakes.empty()) {
        print_mistakes(options.rig, file.mistakes);
        // Where only its pins do not fit, there may be others that do.
        if (!options.board.empty())
            print_move(page, options.rig, file, options.board);
        page.finish();
        return found_wanting;
    }
    for (const rig::Mistake& warning : file.warnings)
        message(fmt::format("{}:{}:{}: take care: {}", options.rig, warning.line, warning.column,
                            warning.text));
    const rig::ShownUnits shown(file.rig.show);
    page.line(page.bold(fmt::format("{}: {}, no mistakes", options.rig, file.rig.name)));
    if (!options.board.empty()) {
        const bool fits = print_move(page, options.rig, file, options.board);
        page.finish();
        return fits ? done : found_wanting;
    }
    print_rig(page, file.rig);
    if (file.rig.chip == "atmega328p") {
        print_budget(page, file.rig);
    } else if (const ChipFacts* chip = file.rig.chip_facts()) {
        page.line();
        page.line(fmt::format("What it takes of the {}: zorilla firmware {} --out FOLDER --build",
                              chip->title, options.rig));
    }
    if (file.rig.nevers.empty() && !options.counter_example.empty())
        throw rig::InputError(fmt::format("{}: has no \"never\" in [rig], so that there is nothing "
                                          "to look for",
                                          options.rig));
    print_promises(page, file.rig);
    const bool kept = file.rig.nevers.empty() || print_nevers(page, file.rig, options);
    page.finish();
    return kept ? done : found_wanting;
}

} // namespace

void add_check(Command& app, Chosen& chosen) {
    auto options = std::make_shared<CheckOptions>();
    Command* command =
        app.add_subcommand("check", "Check a rig file and say all that is wrong with it.\n"
                                    "Example: zorilla check heat_lamp.toml");
    command->add_option("RIG", options->rig, "The rig file.")->required();
    command
        ->add_option("--limit", options->limit,
                     "How long to look at each line of \"never\" before it is said to be open.")
        ->type_name("TIME")
        ->capture_default_str();
    command
        ->add_option("--counter-example", options->counter_example,
                     "Write here a trace with which the first line of \"never\" that can happen "
                     "does happen.")
        ->type_name("FILE.csv");
    command
        ->add_option("--board", options->board,
                     "Another chip: say what would have to change to move the rig there.")
        ->one_of(chip_words());
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return check(*options, page); }; });
}

} // namespace zorilla::cli
