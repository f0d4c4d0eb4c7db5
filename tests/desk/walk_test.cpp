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
/// \param tools  where the tool is  \param most  blocks that are run; only those come back
std::string walked(const std::string& text, const std::vector<const char*>& files,
                   const std::string& tools, size_t most = SIZE_MAX) {
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
                         tools + ":$PATH\"\n";
    commands.resize(std::min(commands.size(), most));
    for (size_t i = 0; i < commands.size(); ++i)
        script += fmt::format("{{\n{}}} > .out-{} 2>&1\n", commands[i], i);
    script += "kill %1 2>/dev/null\nwait\n";
    const desk::Outcome end =
        desk::shell(fmt::format("timeout 300 bash '{}'", folder.write(".script", script)));
    size_t begun = 0;
    while (begun < commands.size() &&
           std::filesystem::exists(folder / fmt::format(".out-{}", begun)))
        ++begun;
    EXPECT_NE(end.status, 124) << "came to no end in block " << begun << ":\n"
                               << commands[begun == 0 ? 0 : begun - 1];

    std::string out = between[0];
    for (size_t i = 0; i < commands.size(); ++i)
        out += "```sh\n" + commands[i] + "```\n\n```text\n" +
               desk::read_all(folder / fmt::format(".out-{}", i)) + "```\n" + between[i + 1];
    return out;
}

void walk(const std::string& document, const std::vector<const char*>& files) {
    const std::string written = desk::read_all(document);
    const std::string now =
        walked(written, files, std::filesystem::path(ZORILLA_TOOL).parent_path().string());
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

TEST(Package, is_installed_and_does_the_first_half_of_the_walk) {
    const desk::Folder folder;
    const std::string root = folder / "root";
    const desk::Outcome packed =
        desk::shell(fmt::format("cd {} && cpack --config {}/CPackConfig.cmake -B . >packed.log && "
                                "dpkg-deb -I zorilla_*.deb",
                                folder.path().string(), ZORILLA_BINARY));
    ASSERT_EQ(packed.status, 0) << packed.err << desk::read_all(folder / "packed.log");
    // It needs what it is linked with, and takes the chips' compilers along if they can be had.
    for (const char* words : {"Package: zorilla", "Depends: ", "libfmt9", "libsqlite3-0",
                              "graphviz", "Recommends: avr-libc, avrdude, binutils-avr, clang-19"})
        EXPECT_TRUE(desk::has(packed.out, words)) << words << "\n" << packed.out;
    const desk::Outcome installed =
        desk::shell(fmt::format("dpkg-deb -x {}/zorilla_*.deb {}", folder.path().string(), root));
    ASSERT_EQ(installed.status, 0) << installed.err;
    for (const char* file :
         {"include/zorilla/zorilla.hpp", "include/zorilla/board/rp2040/memory.ld",
          "share/man/man1/zorilla.1", "share/doc/zorilla/examples/hen_house/hen_house.toml",
          "share/bash-completion/completions/zorilla"})
        EXPECT_TRUE(std::filesystem::exists(root + "/usr/" + file)) << file;
    const std::string written = desk::read_all(ZORILLA_SOURCE "/docs/first-sensor.md");
    constexpr size_t half = 4;
    const std::string now =
        walked(written, {"data/first_sensor/pairs.csv", "data/first_sensor/night.csv"},
               root + "/usr/bin", half);
    EXPECT_EQ(written.substr(0, now.size()), now);
    EXPECT_GT(now.size(), written.size() / 4);
}

TEST(Worlds, what_stands_under_each_command_is_what_it_prints) {
    walk(ZORILLA_SOURCE "/docs/worlds.md",
         {"examples/heat_lamp/heat_lamp.toml", "examples/heat_lamp/frost.toml",
          "examples/hen_house/hen_house.toml", "examples/hen_house/winter.toml"});
}

} // namespace
