// SPDX-License-Identifier: MIT
// How long the hen house takes in its world beside a loop by hand that decides the same of what its
// sensors were, whether memory grows with a year of it, and how much quicker a yield is on two
// cores than on one, beside two of them at once, which is all that two cores can give; measured in
// turn in this run. Ends with 1 if a bound is not kept.
#include "tests/speed/by_hand.hpp"
#include "tests/speed/least.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <spawn.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <filesystem>
#include <fstream>
#include <stdexcept>
#include <string>
#include <thread>
#include <vector>

namespace {

const std::string examples = ZORILLA_SOURCE "/examples/hen_house/";

struct Took {
    double seconds;
    double at_work; ///< of all cores together, s
    rusage usage;
};
Took run(std::vector<std::string> words) {
    words.insert(words.begin(), ZORILLA_TOOL);
    words.insert(words.begin() + 2,
                 {examples + "hen_house.toml", "--world", examples + "winter.toml"});
    std::vector<char*> arguments;
    for (std::string& word : words)
        arguments.push_back(word.data());
    arguments.push_back(nullptr);
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_addopen(&actions, 1, "/dev/null", O_WRONLY, 0);
    const auto begin = std::chrono::steady_clock::now();
    pid_t child = 0;
    int status = 0;
    rusage usage = {};
    if (posix_spawn(&child, ZORILLA_TOOL, &actions, nullptr, arguments.data(), environ) != 0 ||
        wait4(child, &status, 0, &usage) != child || !WIFEXITED(status) || WEXITSTATUS(status) > 1)
        throw std::runtime_error("zorilla " + words[1] + " failed");
    posix_spawn_file_actions_destroy(&actions);
    const std::chrono::duration<double> took = std::chrono::steady_clock::now() - begin;
    return {took.count(), speed::at_work(usage), usage};
}

/// What the sensors were in so many days, without what the outputs were. \return  rows
long write_sensors(const std::string& directory, const std::string& days, const std::string& path) {
    constexpr int columns = 8; // the time, and seven sensors
    const std::string saved = directory + "/saved.csv";
    run({"try", "--for", days, "--summary", "--save", saved});
    std::ifstream in(saved);
    std::ofstream out(path);
    std::string line;
    long rows = -1; // the header
    for (; std::getline(in, line); ++rows) {
        size_t end = 0;
        for (int column = 0; column < columns; ++column)
            end = line.find(',', end) + 1;
        out << line.substr(0, end - 1) << '\n';
    }
    return rows;
}

double seconds_of_hand(const std::string& trace) {
    const auto begin = std::chrono::steady_clock::now();
    if (speed::decide_by_hand(trace) == 0)
        throw std::runtime_error("nothing was decided by hand");
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
}

bool all_kept = true;
void print(const std::string& text, double measured, double bound, bool most) {
    const bool kept = most ? measured <= bound : measured >= bound;
    all_kept = all_kept && kept;
    fmt::print("  {:<60} {:.2f}, at {} {:.2f}: {}\n", text, measured, most ? "most" : "least",
               bound, kept ? "kept" : "NOT KEPT");
}

} // namespace

int main() {
    const auto some_days =
        static_cast<double>(speed::memory_of(run({"try", "--for", "3 d", "--summary"}).usage));
    const Took year = run({"try", "--for", "365 d", "--summary"});
    const long kilobytes = speed::memory_of(year.usage);
    const std::string days = "12 d";
    const auto directory =
        std::filesystem::temp_directory_path() / fmt::format("zorilla-worlds-{}", getpid());
    std::filesystem::create_directories(directory);
    const std::string trace = directory / "sensors.csv";
    const long rows = write_sensors(directory, days, trace);
    const speed::Least tries = speed::least_of(6, [&] {
        return speed::Round{seconds_of_hand(trace),
                            run({"try", "--for", days, "--summary"}).seconds};
    });
    std::filesystem::remove_all(directory);

    const auto yields = [](const char* threads) {
        return run({"yield", "--devices", "100", "--for", "6 h", "--threads", threads});
    };
    double quickest = HUGE_VAL, at_work = 0; // of two cores, in that round
    const speed::Least yield = speed::least_of(5, [&] {
        const double one = yields("1").seconds;
        const Took two = yields("2");
        if (two.seconds < quickest) {
            quickest = two.seconds;
            at_work = two.at_work / (2 * two.seconds);
        }
        double beside = 0;
        std::thread other([&] { beside = yields("1").seconds; });
        const double both = yields("1").seconds;
        other.join();
        return speed::Round{one, two.seconds, std::max(both, beside)};
    });
    const double one = yield.seconds[0], two = yield.seconds[1], twice = yield.seconds[2];
    fmt::print(
        "\nThe hen house in its world, a pass a second; the least of {} rounds of try and of {} "
        "of yield\n",
        tries.rounds, yield.rounds);
    print("zorilla try: seconds for a year, on one core", year.seconds, 10, true);
    print(fmt::format("zorilla try, {} passes: time, to a loop by hand", rows),
          tries.seconds[1] / tries.seconds[0], 4, true);
    print(fmt::format("zorilla try: memory of a year, {} KiB, to that of three days", kilobytes),
          static_cast<double>(kilobytes) / some_days, 1.1, true);
    print(fmt::format("zorilla yield: times as fast on two cores as on one (at once {:.2f})",
                      2 * one / twice),
          one / two, 1.9, false);
    print("zorilla yield: of what two at once show that two cores give", twice / (2 * two), 0.95,
          false);
    print("zorilla yield: of the time of two cores, how much it is at work", at_work, 0.95, false);
    return all_kept ? 0 : 1;
}
