// SPDX-License-Identifier: MIT
// rehearse: a rig's firmware on an emulated chip, with a trace on its pins.
#include "bench/busiest.hpp"
#include "bench/firmware.hpp"
#include "bench/replay.hpp"
#include "cli/command.hpp"
#include "rig/text/files.hpp"
#include "rig/text/moments.hpp"
#include "rig/text/text.hpp"

#ifdef ZORILLA_REHEARSES
#include "bench/rehearse/rehearse.hpp"
#endif

#include <fmt/format.h>

#include <cstdlib>
#include <filesystem>

namespace zorilla::cli {

namespace {

struct RehearseOptions {
    std::string rig;
    std::string trace;
    std::string from;
    std::string span = "10 min";
    std::string folder;
    std::vector<std::string> faults;
    std::string pass = "100 ms";
    bool sends = false;
    bool wraps = false;
};

#ifdef ZORILLA_REHEARSES

/// A folder for the firmware that goes away again.
class Scratch {
  public:
    Scratch() {
        std::string pattern =
            (std::filesystem::temp_directory_path() / "zorilla-rehearsal-XXXXXX").string();
        if (mkdtemp(pattern.data()) == nullptr)
            throw rig::InputError(pattern + ": cannot be made");
        path_ = pattern;
    }
    ~Scratch() {
        std::error_code ignored;
        std::filesystem::remove_all(path_, ignored);
    }
    Scratch(const Scratch&) = delete;
    Scratch& operator=(const Scratch&) = delete;
    const std::string& path() const { return path_; }

  private:
    std::string path_;
};

std::vector<bench::RehearsedRow> rows_of(const RehearseOptions& options, const rig::Rig& rig,
                                         int64_t from, int64_t span) {
    Complaints complaints(options.trace);
    bench::TraceReader trace(options.trace, bench::columns_of(rig), std::ref(complaints));
    for (const std::string& name : trace.absent())
        message(fmt::format("{0}: has no column \"{1}\"; nothing is put on its pin", options.trace,
                            name));
    std::vector<bench::RehearsedRow> out;
    bench::RehearsedRow before{0, std::vector<rig::Raw>(rig.senses.size())};
    while (trace.next() && trace.milliseconds() < from + span) {
        const rig::Raw* raws = trace.raws();
        if (trace.milliseconds() < from) {
            // What lies on the pins when it begins.
            for (size_t i = 0; i < rig.senses.size(); ++i)
                before.raws[i] = raws[i].taken() ? raws[i] : before.raws[i];
            continue;
        }
        out.push_back(
            {trace.milliseconds() - from, std::vector<rig::Raw>(raws, raws + rig.senses.size())});
    }
    complaints.finish();
    if (out.empty())
        throw rig::InputError(
            fmt::format("{}: has no row from {} on", options.trace, rig::span_to_text(from)));
    out.insert(out.begin(), before);
    return out;
}

/// A trace of ten bits on a converter of twelve reads a quarter of what there was: no single row
/// shows that, but that none is ever above.
void doubt_width(const RehearseOptions& options, const rig::Rig& rig, const ChipFacts& chip,
                 const std::vector<bench::RehearsedRow>& rows) {
    int64_t most = 0;
    for (const bench::RehearsedRow& row : rows)
        for (size_t i = 0; i < row.raws.size(); ++i)
            if (rig.senses[i].raw == rig::RawKind::code && !rig.senses[i].pin.empty())
                most = std::max(most, row.raws[i].bits() >> rig.senses[i].extra_bits);
    // In its upper half at least once: what is low anyhow says nothing.
    if (chip.converter_bits == 12 && most >= 512 && most < 1024)
        message(fmt::format("{}: no code is above {}: is it of a converter of 10 bits? The {} has "
                            "12, and reads four times as much from the same pin",
                            options.trace, most, chip.title));
}

/// Where in the trace it begins: as it is said, where most comes about, or at its first row.
int64_t begin_of(const RehearseOptions& options, const rig::Rig& rig, int64_t span) {
    if (options.from == "busiest")
        return bench::busiest_of(rig, options.trace, span);
    if (!options.from.empty()) {
        if (const auto moment = rig::moment_of(options.from))
            return *moment;
        throw rig::InputError(
            fmt::format("--from: \"{}\" is no time; write it as the timeline does, "
                        "such as \"1d 06:30\", as a duration: \"30 h\", or as busiest",
                        options.from));
    }
    bench::TraceReader trace(options.trace, bench::columns_of(rig),
                             [](uint64_t, const std::string&) {});
    return trace.next() ? trace.milliseconds() : 0;
}

/// "NAME=WORD" as a fault of a sensor.
std::vector<bench::PinFault> faults_of(const RehearseOptions& options, const rig::Rig& rig) {
    std::vector<bench::PinFault> out;
    for (const std::string& text : options.faults) {
        const size_t equals = std::min(text.find('='), text.size());
        const std::string name = text.substr(0, equals);
        const std::string word = text.substr(std::min(equals + 1, text.size()));
        std::vector<std::string> names;
        const rig::Sense* sense = nullptr;
        for (const rig::Sense& one : rig.senses) {
            names.push_back(one.name);
            sense = one.name == name ? &one : sense;
        }
        if (sense == nullptr)
            throw rig::InputError(fmt::format("--fault: there is no [sense.{}]{}", name,
                                              rig::suggestion(name, names)));
        std::string possible;
        bool found = false;
        for (size_t i = 0; i < std::size(bench::pin_fault_words); ++i) {
            const auto kind = static_cast<bench::PinFault::Kind>(i);
            if (!bench::can_have(*sense, kind))
                continue;
            possible += fmt::format("{}{}={}", possible.empty() ? "" : ", ", name,
                                    bench::pin_fault_words[i]);
            if (word != bench::pin_fault_words[i])
                continue;
            out.push_back({static_cast<size_t>(sense - rig.senses.data()), kind});
            found = true;
        }
        if (!found)
            throw rig::InputError(fmt::format("--fault: \"{}\": {}", text,
                                              possible.empty()
                                                  ? "what is said over the line has no wires"
                                                  : "possible here are " + possible));
    }
    return out;
}

/// What a rehearsal says nothing of, since nothing came of it: of inputs and of outputs.
std::vector<std::pair<const char*, std::string>> not_tried(const rig::Rig& rig,
                                                           const bench::Rehearsal& is) {
    std::string still, dark, lit;
    const auto add = [](std::string& to, const std::string& name) {
        to += (to.empty() ? "" : ", ") + name;
    };
    for (size_t i = 0; i < rig.senses.size(); ++i)
        if (!is.moved[i])
            add(still, rig.senses[i].name);
    for (size_t i = 0; i < rig.drives.size(); ++i)
        if (is.changes[i] == 0)
            add(is.was_on[i] ? lit : dark, rig.drives[i].name);
    std::vector<std::pair<const char*, std::string>> out;
    for (const auto& [says, names] : {std::pair("these inputs never changed: ", still),
                                      std::pair("these outputs were never on: ", dark),
                                      std::pair("these outputs were on all the time: ", lit)})
        if (!names.empty())
            out.emplace_back(out.empty() ? "not tried" : "", says + names);
    return out;
}

Status rehearse(const RehearseOptions& options, Page& page) {
    const rig::Rig rig = usable_rig(options.rig);
    const ChipFacts& chip = known_chip(options.rig, rig);
    const double per_ms = chip.hertz / 1e3;
    const int64_t span = time_option("--for", options.span, "10 min");
    const int64_t from = begin_of(options, rig, span);
    const std::vector<bench::PinFault> faults = faults_of(options, rig);
    const auto rows = rows_of(options, rig, from, span);
    doubt_width(options, rig, chip, rows);
    const Scratch scratch;
    std::string folder = options.folder;
    if (folder.empty()) {
        folder = scratch.path();
        const std::string stem = std::filesystem::path(options.rig).stem().string();
        const bench::FirmwareFolder firmware =
            bench::firmware_folder(rig, stem, rig::read_file(options.rig),
                                   firmware_plan(options.rig, rig, options.pass, options.sends));
        for (const rig::Firmware::Gap& gap : firmware.gaps)
            message(fmt::format("{}:{}: {} cannot be written as C++ yet", options.rig,
                                gap.place.line, gap.text));
        if (!firmware.gaps.empty())
            return bad_input;
        for (const auto& [name, text] : firmware.files)
            write_file(folder + "/" + name, text);
    }
    const bench::Built built = bench::build_firmware(chip, folder);
    if (!built.problem.empty())
        throw rig::InputError(built.problem);
    const bench::Rehearsal is =
        bench::rehearse(rig, folder, rows, span, {true, faults, options.wraps});
    const auto count = [](uint64_t n) { return rig::count_to_text(n); };
    page.line(fmt::format("{}: the firmware on an emulated {}, {} of {} from {} on its "
                          "pins",
                          rig.name, chip.title, rig::span_to_text(span), options.trace,
                          rig::time_to_text(from)));
    page.line("");
    const auto row = [&page](const char* what, const std::string& text) {
        page.line(fmt::format("  {:<11}{}", what, text));
    };
    row("passes", fmt::format("{}, {} of them late", count(is.passes), count(is.missed)));
    if (options.wraps)
        row("clock", is.wrapped ? "began anew, as it does after 49.7 days"
                                : "has not come to its end; take \"70 s\" or more");
    std::string inputs =
        faults.empty() ? fmt::format("codes within {:.0f} of what lay on the pins", is.code_off)
                       : "with faults: ";
    for (const std::string& fault : options.faults)
        inputs += (&fault == &options.faults.front() ? "" : ", ") + fault;
    if (is.echoes > 0)
        inputs += fmt::format("; {} echoes", count(is.echoes)) +
                  (faults.empty() ? fmt::format(", within {:.1f} us", is.echo_off) : "");
    if (is.frames > 0)
        inputs += fmt::format("; {} frames", count(is.frames));
    row("inputs", inputs);
    for (const auto& [what, passes] : is.unhealthy)
        if (passes * 20 > is.passes) // not only as it starts
            row("unhealthy",
                fmt::format("{}: {} in {} of {} passes", rig.senses[what.first].name,
                            rig::to_text(what.second), count(passes), count(is.passes)));
    std::string moved;
    for (size_t i = 0; i < rig.drives.size(); ++i)
        if (is.changes[i] > 0)
            moved +=
                fmt::format("{}{} changed {} {}", moved.empty() ? "" : ", ", rig.drives[i].name,
                            count(is.changes[i]), is.changes[i] == 1 ? "time" : "times");
    row("outputs", !moved.empty()          ? moved
                   : is.difference.empty() ? "none has changed; choose a time with more in it"
                                           : "none has changed");
    for (const auto& [what, untried] : not_tried(rig, is))
        row(what, untried);
    row("a pass", fmt::format("at worst {:.2f} ms ({} cycles), on average {:.2f} ms",
                              static_cast<double>(is.worst_cycles) / per_ms, count(is.worst_cycles),
                              is.mean_cycles / per_ms));
    row("idle", fmt::format("{:.1f} % of the time", 100 * is.idle_share));
    row("memory", fmt::format("{} bytes of flash; {} of RAM, and at most {} of stack",
                              count(built.flash), count(built.ram), count(is.stack)));
    page.line("");
    if (is.difference.empty())
        page.line(not_tried(rig, is).empty()
                      ? "  No difference: the program has read every input as it was, and after "
                        "each pass every pin was as the rig file says."
                      : "  No difference in what was tried: the program has read every input as it "
                        "was, and after each pass every pin was as the rig file says.");
    for (const std::string& line : is.difference)
        page.line("  " + line);
    page.finish();
    return is.difference.empty() ? done : found_wanting;
}

#else

Status rehearse(const RehearseOptions&, Page&) {
    throw rig::InputError(
        "this tool was built without an emulated chip; install libsimavr-dev and "
        "libelf-dev (apt-get install libsimavr-dev libelf-dev) and build it anew");
}

#endif

} // namespace

void add_rehearse(Command& app, Chosen& chosen) {
    auto options = std::make_shared<RehearseOptions>();
    Command* command = app.add_subcommand(
        "rehearse", "Run a rig's firmware on an emulated chip, with a trace on its pins.\n"
                    "Example: zorilla rehearse hen_house.toml --trace days.csv --from \"30 h\" "
                    "--for \"10 min\"");
    command->add_option("RIG", options->rig, "The rig file.")->required();
    command->add_option("--trace", options->trace, "What lies on the pins, as for run.")
        ->required()
        ->type_name("FILE.csv");
    command
        ->add_option("--from", options->from,
                     "Where in the trace to begin: a time, or busiest, where most comes about. "
                     "Default: its start.")
        ->type_name("TIME|busiest");
    command
        ->add_option("--for", options->span, "How long. Default: 10 min, which take some seconds.")
        ->type_name("TIME");
    command
        ->add_option("--fault", options->faults,
                     "What is wrong with a sensor or its wires all the while, such as roost=open; "
                     "several one by one.")
        ->repeatable()
        ->type_name("NAME=FAULT");
    command
        ->add_option("--pass", options->pass,
                     "How often the program passes, as for firmware. Default: 100 ms.")
        ->type_name("TIME");
    command->add_flag("--send", options->sends,
                      "The program that sends what it reads, as for firmware.");
    command->add_flag("--wrap", options->wraps,
                      "Begin within 66 s before the device's clock of 49.7 days begins anew.");
    command
        ->add_option("--firmware", options->folder,
                     "A folder that zorilla firmware has written, as it is now; without it the "
                     "firmware is written anew.")
        ->type_name("FOLDER");
    command->callback([options, &chosen] {
        chosen = [options](Page& page) { return rehearse(*options, page); };
    });
}

} // namespace zorilla::cli
