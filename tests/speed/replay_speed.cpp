// SPDX-License-Identifier: MIT
// How much slower `zorilla run` and `zorilla survey` are than loops that somebody would write by
// hand for the same file, whether their memory grows with it, and what share of a core `zorilla
// capture` takes. All are measured side by side in this run. Ends with 1 if a bound is not kept.
#include "rig/rig_file.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"
#include "tests/speed/by_hand.hpp"
#include "tests/speed/least.hpp"
#include "tests/winter.hpp"

#include <benchmark/benchmark.h>
#include <fast_float/fast_float.h>
#include <fcntl.h>
#include <fmt/format.h>
#include <spawn.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cstring>
#include <filesystem>
#include <functional>
#include <iterator>
#include <stdexcept>

namespace {

const std::string rig_file = ZORILLA_SOURCE "/examples/heat_lamp/heat_lamp.toml";

/// The roost of the demo's winter over and over, with the time going on; as a trace, or as samples
/// under two conditions.
void write_trace(const std::string& path, uint64_t rows, bool conditions) {
    const std::string winter = zorilla::tests::winter_trace(
        zorilla::rig::load_rig(ZORILLA_SOURCE "/examples/hen_house/hen_house.toml").rig);
    std::vector<std::string_view> codes; // the roost is the first sensor
    for (size_t at = winter.find('\n') + 1; at < winter.size();) {
        const size_t comma = winter.find(',', at), end = winter.find(',', comma + 1);
        codes.push_back(std::string_view(winter).substr(comma + 1, end - comma - 1));
        at = winter.find('\n', end) + 1;
    }
    zorilla::rig::OutputFile file(path);
    fmt::memory_buffer text;
    fmt::format_to(std::back_inserter(text), "time (s),roost (code){}\n",
                   conditions ? ",condition" : "");
    for (uint64_t i = 0; i < rows; ++i) {
        fmt::format_to(std::back_inserter(text), "{},{}{}\n", 2 * i, codes[i % codes.size()],
                       !conditions         ? ""
                       : i / 1000 % 2 == 0 ? ",door shut"
                                           : ",door open");
        if (text.size() > 1 << 20 || i + 1 == rows) {
            file.write({text.data(), text.size()});
            text.clear();
        }
    }
    file.commit();
}

/// Runs a program, its output thrown away. What it used, and all that it started.
rusage run(const std::vector<std::string>& words) {
    std::vector<char*> arguments;
    for (const std::string& word : words)
        arguments.push_back(const_cast<char*>(word.c_str()));
    arguments.push_back(nullptr);
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    for (const int stream : {1, 2})
        posix_spawn_file_actions_addopen(&actions, stream, "/dev/null", O_WRONLY, 0);
    pid_t child = 0;
    const int failed =
        posix_spawnp(&child, arguments[0], &actions, nullptr, arguments.data(), environ);
    posix_spawn_file_actions_destroy(&actions);
    int status = 0;
    rusage usage = {};
    // A survey that has something to warn of ends with 1.
    if (failed != 0 || wait4(child, &status, 0, &usage) != child || !WIFEXITED(status) ||
        WEXITSTATUS(status) > 1)
        throw std::runtime_error(words[0] + " failed");
    return usage;
}

rusage run_tool(const std::string& trace) {
    return run({ZORILLA_TOOL, "run", rig_file, "--trace", trace});
}
rusage survey_tool(const std::string& samples) { return run({ZORILLA_TOOL, "survey", samples}); }

const std::string house_file = ZORILLA_SOURCE "/examples/hen_house/hen_house.toml";

/// The hen house's winter, so many times over with the time going on. \return  rows
uint64_t write_house(const std::string& path, int times) {
    const std::string winter = zorilla::tests::winter_trace(zorilla::rig::load_rig(house_file).rig);
    zorilla::rig::OutputFile file(path);
    const size_t first = winter.find('\n') + 1;
    file.write(std::string_view(winter).substr(0, first));
    uint64_t rows = 0, seconds = 0;
    for (int i = 0; i < times; ++i)
        for (size_t at = first; at < winter.size(); ++rows, seconds += 5) {
            const size_t comma = winter.find(',', at), end = winter.find('\n', at);
            file.write(fmt::format("{}{}\n", seconds,
                                   std::string_view(winter).substr(comma, end - comma)));
            at = end + 1;
        }
    file.commit();
    return rows;
}
void run_house(const std::string& trace, const std::vector<std::string>& more = {}) {
    std::vector<std::string> words = {ZORILLA_TOOL, "run", house_file, "--trace", trace};
    words.insert(words.end(), more.begin(), more.end());
    run(words);
}

/// What a figure of a run hands gnuplot: the path of a copy. \param drawn  the figure
std::string drawn_script(const std::string& directory, const std::string& trace,
                         const std::string& drawn) {
    const std::string kept = directory + "/drawn.gp", before = std::getenv("PATH");
    std::filesystem::create_directory(directory + "/first");
    {
        zorilla::rig::OutputFile stand_in(directory + "/first/gnuplot");
        stand_in.write(fmt::format("#!/bin/sh\ncat >{0}/asked\n"
                                   "cp \"$(sed -n \"s/^load '\\(.*\\)'$/\\1/p\" {0}/asked)\" {1}\n"
                                   "PATH=${{PATH#*:}} exec gnuplot -d {0}/asked\n",
                                   directory, kept));
        stand_in.commit();
    }
    std::filesystem::permissions(directory + "/first/gnuplot", std::filesystem::perms::owner_all);
    setenv("PATH", (directory + "/first:" + before).c_str(), 1);
    run_house(trace, {"--figure", drawn});
    setenv("PATH", before.c_str(), 1);
    return kept;
}

/// The share of a core that a capture takes on a terminal that shows it, at 2,000 lines a second.
double share_of_capture(const std::string& directory) {
    constexpr int lines = 10'000;
    zorilla::rig::OutputFile recorded(directory + "/recorded.csv");
    recorded.write("time (s),light (code),probe (code)\n");
    for (int i = 0; i < lines; ++i)
        recorded.write(fmt::format("{:.4f},{},{}\n", i / 2000.0, 500 + i % 7, 300 + i % 5));
    recorded.commit();
    const std::string port = directory + "/port";
    const std::string play = fmt::format("exec {} device {}/recorded.csv --link {} --once",
                                         ZORILLA_TOOL, directory, port);
    const char* const device_arguments[] = {"sh", "-c", play.c_str(), nullptr};
    posix_spawn_file_actions_t quiet;
    posix_spawn_file_actions_init(&quiet);
    posix_spawn_file_actions_addopen(&quiet, 1, "/dev/null", O_WRONLY, 0);
    pid_t device = 0;
    if (posix_spawnp(&device, "sh", &quiet, nullptr, const_cast<char* const*>(device_arguments),
                     environ) != 0)
        throw std::runtime_error("the stand-in could not be started");
    posix_spawn_file_actions_destroy(&quiet);
    while (!std::filesystem::exists(port))
        usleep(10'000);
    const auto begin = std::chrono::steady_clock::now();
    const rusage usage = run(
        {"sh", "-c",
         fmt::format("sleep 6 | script -qec '{} capture {} --lines {} --out {}/out.csv' /dev/null",
                     ZORILLA_TOOL, port, lines, directory)});
    const std::chrono::duration<double> wall = std::chrono::steady_clock::now() - begin;
    int status = 0;
    waitpid(device, &status, 0);
    // The lines take five seconds, whatever else there was to wait for.
    return speed::at_work(usage) / std::min(wall.count(), 5.0);
}

void read_the_numbers(const std::string& path) {
    std::FILE* file = std::fopen(path.c_str(), "rb");
    if (file == nullptr)
        throw std::runtime_error(path + " cannot be read");
    std::vector<char> buffer(1 << 18);
    size_t kept = 0;
    double sum = 0;
    for (;;) {
        const size_t got = std::fread(buffer.data() + kept, 1, buffer.size() - kept, file);
        const char* at = buffer.data();
        const char* const end = at + kept + got;
        const char* whole = end;
        while (got > 0 && whole > at && whole[-1] != '\n')
            --whole;
        while (at < whole) {
            double number = 0;
            const auto parsed = fast_float::from_chars(at, whole, number);
            at = parsed.ptr;
            if (parsed.ec != std::errc()) // words are passed over
                while (at < whole && *at != ',' && *at != '\n')
                    ++at;
            sum += number;
            while (at < whole && (*at == ',' || *at == '\n'))
                ++at;
        }
        kept = static_cast<size_t>(end - whole);
        std::memmove(buffer.data(), whole, kept);
        if (got == 0)
            break;
    }
    std::fclose(file);
    benchmark::DoNotOptimize(sum);
}

/// Keeps the times in the order in which they were measured.
class Times : public benchmark::BenchmarkReporter {
  public:
    bool ReportContext(const Context&) override { return true; }
    void ReportRuns(const std::vector<Run>& runs) override {
        for (const Run& run : runs)
            seconds.push_back(run.real_accumulated_time / static_cast<double>(run.iterations));
    }
    speed::Round seconds;
};

/// Both are measured in turn, so that they meet the same moods of the machine.
struct Pace {
    double ratio;
    double seconds; ///< the tool's
};
using Run = std::function<void()>;
Pace pace_of(const char* name, const Run& tool, const Run& yardstick, size_t pairs) {
    const speed::Least least = speed::least_of(pairs, [&] {
        benchmark::ClearRegisteredBenchmarks();
        for (const Run* run : {&yardstick, &tool})
            benchmark::RegisterBenchmark(name,
                                         [run](benchmark::State& state) {
                                             for (auto _ : state)
                                                 (*run)();
                                         })
                ->UseRealTime()
                ->Iterations(1);
        Times times;
        benchmark::RunSpecifiedBenchmarks(&times);
        return times.seconds;
    });
    const double by_hand = least.seconds.at(0), tools = least.seconds.at(1);
    fmt::print("{}: {:.0f} ms, its yardstick {:.0f} ms, each the least of {} rounds\n", name,
               1000 * tools, 1000 * by_hand, least.rounds);
    std::fflush(stdout);
    return {tools / by_hand, tools};
}

bool all_kept = true;

/// A line of what was measured, and whether it is within its bound.
void print_bound(const std::string& text, double measured, double bound) {
    const bool kept = measured <= bound;
    all_kept = all_kept && kept;
    fmt::print("  {:<60} {:.2f}, at most {:.2f}: {}\n", text, measured, bound,
               kept ? "kept" : "NOT KEPT");
}

} // namespace

int main(int argc, char** argv) {
    benchmark::Initialize(&argc, argv);
    constexpr uint64_t rows = 10'000'000;
    const auto directory =
        std::filesystem::temp_directory_path() / fmt::format("zorilla-speed-{}", getpid());
    std::filesystem::create_directories(directory);
    struct Measured {
        const char* name;
        rusage (*tool)(const std::string&);
        double bound;
        double ratio;
        long short_memory, long_memory;
    };
    Measured all[] = {{"run", run_tool, 2.0, 0, 0, 0}, {"survey", survey_tool, 1.5, 0, 0, 0}};
    const std::string long_file = directory / "long.csv", short_file = directory / "short.csv";
    for (Measured& m : all) {
        write_trace(long_file, rows, m.tool == survey_tool);
        write_trace(short_file, rows / 100, m.tool == survey_tool);
        m.ratio = pace_of(
                      m.name, [&] { m.tool(long_file); }, [&] { read_the_numbers(long_file); }, 6)
                      .ratio;
        m.short_memory = speed::memory_of(m.tool(short_file));
        m.long_memory = speed::memory_of(m.tool(long_file));
    }
    const uint64_t passes = write_house(long_file, 20);
    const Pace house = pace_of(
        "run the hen house", [&] { run_house(long_file); },
        [&] { benchmark::DoNotOptimize(speed::decide_by_hand(long_file)); }, 8);
    const std::string drawn = directory / "figure.png";
    const Run with_figure = [&] { run_house(long_file, {"--figure", drawn}); };
    const Pace figure = pace_of(
        "run it with a figure", with_figure, [&] { run_house(long_file); }, 5);
    const std::string script = drawn_script(directory, long_file, drawn);
    const Pace drawing = pace_of(
        "run it with a figure", with_figure,
        [&] {
            run_house(long_file);
            run({"gnuplot", "-d", script});
        },
        5);
    const uint64_t fewer = write_house(short_file, 4);
    const std::string written = directory / "table.csv", again = directory / "again.csv";
    run_house(short_file, {"--csv", written});
    const speed::Table table(written);
    const Pace csv = pace_of(
        "run it with a table",
        [&] {
            run_house(short_file, {"--csv", written});
        },
        [&] {
            benchmark::DoNotOptimize(speed::decide_by_hand(short_file));
            table.write(again);
        },
        6);
    const bool same = zorilla::rig::read_file(written) == zorilla::rig::read_file(again);
    const double share = share_of_capture(directory);
    std::filesystem::remove_all(directory);

    fmt::print("\nOn {} samples\n", zorilla::rig::count_to_text(rows));
    for (const Measured& m : all) {
        print_bound(fmt::format("zorilla {}: time, to only reading the numbers", m.name), m.ratio,
                    m.bound);
        print_bound(fmt::format("zorilla {}: memory, {} KiB, to that of {} samples", m.name,
                                m.long_memory, zorilla::rig::count_to_text(rows / 100)),
                    static_cast<double>(m.long_memory) / static_cast<double>(m.short_memory), 1.1);
    }
    fmt::print("The complete hen house, {} passes: {} a second\n",
               zorilla::rig::count_to_text(passes),
               zorilla::rig::count_to_text(
                   static_cast<uint64_t>(static_cast<double>(passes) / house.seconds)));
    print_bound("zorilla run: time, to a loop by hand that decides the same", house.ratio, 1.7);
    print_bound("zorilla run --figure: time, to the run without", figure.ratio, 1.3);
    // How long gnuplot draws is not ours.
    print_bound("zorilla run --figure: time, to the run, then gnuplot alone", drawing.ratio, 1.3);
    print_bound(fmt::format("zorilla run --csv, {} passes: time, to a loop by hand",
                            zorilla::rig::count_to_text(fewer)),
                csv.ratio, 1.5);
    if (!same) {
        all_kept = false;
        fmt::print("  the loop by hand has written other bytes: NOT KEPT\n");
    }
    print_bound("zorilla capture, 2,000 lines a second, shown: share of a core", share, 0.2);
    return all_kept ? 0 : 1;
}
