// SPDX-License-Identifier: MIT
// The walk-throughs of docs/first-sensor.md and docs/worlds.md, run as a reader would: each block
// of commands in one shell, and under it what it printed. With ZORILLA_WALK=write they are written
// anew.
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <vector>

namespace {

/// The document with the output of its commands under each block.
/// \param files  those of the source that lie in its folder
std::string walked(const std::string& text, const std::vector<const char*>& files) {
    // First without the outputs that stand there now.
    std::vector<std::string> commands, between(1);
    std::istringstream lines(text);
    std::string line;
    enum { prose, block, output } where = prose;
    while (std::getline(lines, line)) {
        if (where == prose && line == "```sh") {
            where = block;
            commands.emplace_back();
        } else if (where == prose && line == "```text") {
            where = output;
            // And the empty line before it.
            std::string& before = between.back();
            if (before == "\n")
                before.clear();
        } else if (where != prose && line == "```") {
            if (where == block)
                between.emplace_back();
            where = prose;
        } else if (where == block) {
            commands.back() += line + "\n";
        } else if (where == prose) {
            between.back() += line + "\n";
        }
    }
    const desk::Folder folder;
    for (const std::filesystem::path file : files)
        std::filesystem::copy(ZORILLA_SOURCE / file, folder / file.filename().string());
    std::string script = "cd '" + folder.path().string() + "'\nexport NO_COLOR=1\nexport PATH=\"" +
                         std::filesystem::path(ZORILLA_TOOL).parent_path().string() + ":$PATH\"\n";
    for (size_t i = 0; i < commands.size(); ++i)
        script += fmt::format("{{\n{}}} > .out-{} 2>&1\n", commands[i], i);
    script += "kill %1 2>/dev/null\nwait\n";
    desk::shell(fmt::format("timeout 120 bash '{}'", folder.write(".script", script)));

    std::string out = between[0];
    for (size_t i = 0; i < commands.size(); ++i)
        out += "```sh\n" + commands[i] + "```\n\n```text\n" +
               desk::read_all(folder / fmt::format(".out-{}", i)) + "```\n" + between[i + 1];
    return out;
}

void walk(const std::string& document, const std::vector<const char*>& files) {
    const std::string written = desk::read_all(document);
    const std::string now = walked(written, files);
    const char* wish = std::getenv("ZORILLA_WALK");
    if (wish != nullptr && std::string(wish) == "write")
        std::ofstream(document, std::ios::binary) << now;
    else
        EXPECT_EQ(written, now) << "./dev walk writes the outputs anew";
}

TEST(FirstSensor, what_stands_under_each_command_is_what_it_prints) {
    walk(ZORILLA_SOURCE "/docs/first-sensor.md",
         {"data/first_sensor/pairs.csv", "data/first_sensor/night.csv"});
}

TEST(Worlds, what_stands_under_each_command_is_what_it_prints) {
    walk(ZORILLA_SOURCE "/docs/worlds.md",
         {"examples/heat_lamp/heat_lamp.toml", "examples/heat_lamp/frost.toml",
          "examples/hen_house/hen_house.toml", "examples/hen_house/winter.toml"});
}

} // namespace
