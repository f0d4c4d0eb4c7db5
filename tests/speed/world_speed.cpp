// SPDX-License-Identifier: MIT
// How long a year of the hen house takes in its world, whether memory grows with it, and how much
// quicker a yield is on two cores than on one, beside two of them at once, which is all that two
// cores can give; measured in turn in this run. Ends with 1 if a bound is not kept.
#include <fcntl.h>
#include <fmt/format.h>
#include <spawn.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <stdexcept>
#include <string>
#include <thread>
#include <vector>

namespace {

const std::string examples = ZORILLA_SOURCE "/examples/hen_house/";

struct Took {
    double seconds;
    long kilobytes;
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
    return {took.count(), usage.ru_maxrss};
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
    const Took days = run({"try", "--for", "3 d", "--summary"});
    const Took year = run({"try", "--for", "365 d", "--summary"});
    const auto yields = [](const char* threads) {
        return run({"yield", "--devices", "12", "--threads", threads}).seconds;
    };
    std::vector<double> ratios, shares;
    for (int turn = 0; turn < 3; ++turn) {
        const double one = yields("1"), two = yields("2");
        double beside = 0;
        std::thread other([&] { beside = yields("1"); });
        const double both = yields("1");
        other.join();
        ratios.push_back(one / two);
        shares.push_back(std::max(both, beside) / (2 * two));
    }
    const auto median = [](std::vector<double>& of) {
        std::sort(of.begin(), of.end());
        return of[of.size() / 2];
    };
    fmt::print("\nThe hen house in its world, a pass a second\n");
    print("zorilla try: seconds for a year, on one core", year.seconds, 10, true);
    print(
        fmt::format("zorilla try: memory of a year, {} KiB, to that of three days", year.kilobytes),
        static_cast<double>(year.kilobytes) / static_cast<double>(days.kilobytes), 1.1, true);
    print("zorilla yield: times as fast on two cores as on one", median(ratios), 1.9, false);
    print("zorilla yield: of what two at once show that two cores give", median(shares), 0.95,
          false);
    return all_kept ? 0 : 1;
}
