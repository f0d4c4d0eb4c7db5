// SPDX-License-Identifier: MIT
// How much slower `zorilla run` is than a loop that only reads the numbers of the same file, and
// whether its memory grows with the trace. Both are measured side by side in this run. Ends with 1
// if a bound is not kept.
#include "bench/hen_house.hpp"
#include "rig/files.hpp"
#include "rig/rig_file.hpp"
#include "rig/text.hpp"

#include <benchmark/benchmark.h>
#include <fast_float/fast_float.h>
#include <fcntl.h>
#include <fmt/format.h>
#include <spawn.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <cstring>
#include <filesystem>
#include <iterator>
#include <stdexcept>

namespace {

const std::string rig_file = ZORILLA_SOURCE "/examples/heat_lamp/heat_lamp.toml";
std::string trace_file;

/// The roost of the demo's winter over and over, with the time going on.
void write_trace(const std::string& path, uint64_t rows) {
    const std::string winter = zorilla::bench::hen_house_trace(
        zorilla::rig::load_rig(ZORILLA_SOURCE "/examples/hen_house/hen_house.toml").rig);
    std::vector<std::string_view> codes; // the roost is the first sensor
    for (size_t at = winter.find('\n') + 1; at < winter.size();) {
        const size_t comma = winter.find(',', at), end = winter.find(',', comma + 1);
        codes.push_back(std::string_view(winter).substr(comma + 1, end - comma - 1));
        at = winter.find('\n', end) + 1;
    }
    zorilla::rig::OutputFile file(path);
    fmt::memory_buffer text;
    fmt::format_to(std::back_inserter(text), "time (s),roost (code)\n");
    for (uint64_t i = 0; i < rows; ++i) {
        fmt::format_to(std::back_inserter(text), "{},{}\n", 2 * i, codes[i % codes.size()]);
        if (text.size() > 1 << 20 || i + 1 == rows) {
            file.write({text.data(), text.size()});
            text.clear();
        }
    }
    file.commit();
}

/// Runs the tool on a trace, its output thrown away. Returns its largest memory in KiB.
long run_tool(const std::string& trace) {
    const char* const arguments[] = {ZORILLA_TOOL, "run",         rig_file.c_str(),
                                     "--trace",    trace.c_str(), nullptr};
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_addopen(&actions, 1, "/dev/null", O_WRONLY, 0);
    pid_t child = 0;
    const int failed = posix_spawn(&child, ZORILLA_TOOL, &actions, nullptr,
                                   const_cast<char* const*>(arguments), environ);
    posix_spawn_file_actions_destroy(&actions);
    int status = 0;
    rusage usage = {};
    if (failed != 0 || wait4(child, &status, 0, &usage) != child || status != 0)
        throw std::runtime_error("zorilla run failed");
    return usage.ru_maxrss;
}

void read_the_numbers(benchmark::State& state) {
    for (auto _ : state) {
        std::FILE* file = zorilla::rig::open_to_read(trace_file);
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
                at = parsed.ec == std::errc() ? parsed.ptr : at + 1;
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
}

void replay_the_trace(benchmark::State& state) {
    for (auto _ : state)
        run_tool(trace_file);
}

/// Keeps the times in the order in which they were measured.
class Times : public benchmark::ConsoleReporter {
  public:
    Times() : ConsoleReporter(OO_None) {}
    void ReportRuns(const std::vector<Run>& runs) override {
        for (const Run& run : runs)
            seconds.push_back(run.real_accumulated_time / static_cast<double>(run.iterations));
        ConsoleReporter::ReportRuns(runs);
    }
    std::vector<double> seconds;
};

/// The two are measured in turn, so that both meet the same mood of the machine; the median of the
/// ratios of neighbours is what counts.
double median_ratio(int pairs) {
    for (int i = 0; i < pairs; ++i)
        for (auto* measured : {benchmark::RegisterBenchmark("read_the_numbers", read_the_numbers),
                               benchmark::RegisterBenchmark("replay_the_trace", replay_the_trace)})
            measured->Unit(benchmark::kMillisecond)->UseRealTime()->Iterations(1);
    Times times;
    benchmark::RunSpecifiedBenchmarks(&times);
    std::vector<double> ratios;
    for (size_t i = 0; i + 1 < times.seconds.size(); i += 2)
        ratios.push_back(times.seconds[i + 1] / times.seconds[i]);
    std::sort(ratios.begin(), ratios.end());
    return ratios.at(ratios.size() / 2);
}

} // namespace

int main(int argc, char** argv) {
    benchmark::Initialize(&argc, argv);
    constexpr uint64_t rows = 10'000'000;
    const auto directory =
        std::filesystem::temp_directory_path() / fmt::format("zorilla-speed-{}", getpid());
    std::filesystem::create_directories(directory);
    trace_file = directory / "long.csv";
    const std::string short_trace = directory / "short.csv";
    write_trace(trace_file, rows);
    write_trace(short_trace, rows / 100);

    const double ratio = median_ratio(11);
    const long short_memory = run_tool(short_trace);
    const long long_memory = run_tool(trace_file);
    std::filesystem::remove_all(directory);
    const double growth = static_cast<double>(long_memory) / static_cast<double>(short_memory);

    fmt::print("\nzorilla run on {} samples\n", zorilla::rig::count_to_text(rows));
    fmt::print("  time, as a ratio to only reading the numbers   {:.2f}, at most 2.0: {}\n", ratio,
               ratio <= 2.0 ? "kept" : "NOT KEPT");
    fmt::print("  memory at {} and {} samples   {} and {} KiB, ratio {:.2f}, at most 1.1: {}\n",
               zorilla::rig::count_to_text(rows / 100), zorilla::rig::count_to_text(rows),
               short_memory, long_memory, growth, growth <= 1.1 ? "kept" : "NOT KEPT");
    return ratio <= 2.0 && growth <= 1.1 ? 0 : 1;
}
