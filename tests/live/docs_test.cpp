// SPDX-License-Identifier: MIT
// What docs/live.md lets people type, typed.
#include "rig/rig_file.hpp"
#include "rig/text/files.hpp"
#include "tests/desk/background.hpp"
#include "tests/live/hens.hpp"
#include "tests/winter.hpp"

#include <gtest/gtest.h>

#include <regex>
#include <sstream>

namespace {

using namespace zorilla;
using desk::has;

TEST(Docs, every_command_of_live_does_what_it_is_there_for) {
    const desk::Folder folder;
    const std::string text = rig::read_file(ZORILLA_SOURCE "/examples/hen_house/hen_house.toml");
    folder.write("RIG.toml", text);
    folder.write("hen_house.toml", text);
    folder.write("winter.csv", tests::winter_trace(rig::parse_rig(text).rig));
    for (const char* name : {"data", "examples"})
        std::filesystem::create_symlink(std::string(ZORILLA_SOURCE "/") + name, folder / name);
    const desk::Background board(folder,
                                 fmt::format("device {} --trace {} --pace 1000 --link {}",
                                             folder / "RIG.toml", folder / "winter.csv",
                                             folder / "port"),
                                 "board");
    ASSERT_TRUE(desk::is_there(folder / "port"));
    std::vector<std::string> lines, first;
    std::istringstream docs(rig::read_file(ZORILLA_SOURCE "/docs/live.md"));
    for (std::string line; std::getline(docs, line);)
        if (line.rfind("    zorilla ", 0) == 0)
            (has(line, "--began") ? first : lines).push_back(line.substr(12));
    // What was recorded is there before it is looked at, and what is watched comes last.
    lines.insert(lines.begin(), first.begin(), first.end());
    std::stable_partition(lines.begin(), lines.end(), [](const std::string& line) {
        return !has(line, "--history hens.db") || has(line, "--began");
    });
    std::string begun; // the stand-in that they begin
    for (const std::string& line : lines)
        if (line.rfind("device ", 0) == 0)
            begun = line;
    for (std::string line : lines) {
        if (line == begun)
            continue;
        line = std::regex_replace(line, std::regex("/dev/ttyUSB0"), "port");
        line = std::regex_replace(line, std::regex("--page 8080"),
                                  fmt::format("--page {}", desk::free_port()));
        if (line.rfind("live ", 0) == 0 && !has(line, " < "))
            line += " --for '1500 ms'";
        if (line.rfind("demo ", 0) == 0) { // ended once it says what is read
            line +=
                fmt::format(" --page {} > demo.log & for i in $(seq 600); do "
                            "grep -q ' reads ' demo.log && break; sleep 0.1; done; "
                            "kill -s INT $!; cat demo.log; wait $! && grep -q ' reads ' demo.log",
                            desk::free_port());
        }
        const bool needs_box = has(line, " box");
        const desk::Outcome out = desk::shell(fmt::format(
            "cd '{0}'; {1}{2} {3}; status=$?; {4} exit $status", folder.path().string(),
            needs_box ? fmt::format("rm -f box; {} {} --once > box.log & for i in $(seq 600); do "
                                    "[ -e box ] && break; sleep 0.1; done; ",
                                    ZORILLA_TOOL, begun)
                      : "",
            ZORILLA_TOOL, line, needs_box ? "kill $!;" : ""));
        EXPECT_EQ(out.status, 0) << line << "\n" << out.out << out.err;
        EXPECT_FALSE(out.out.empty() && !has(line, "--figure")) << line;
    }
    EXPECT_GE(lines.size(), 11U);
    EXPECT_TRUE(std::filesystem::exists(folder / "week.png"));
}

TEST(Docs, every_request_of_live_is_answered) {
    const desk::Folder folder;
    const std::string rig = ZORILLA_SOURCE "/data/live/hen_house.toml";
    const int port = desk::free_port();
    const desk::Background board(folder,
                                 fmt::format("device {} --in {} --pass 5s --pace 20 --link {}", rig,
                                             live::hens_world, folder / "port"),
                                 "board");
    ASSERT_TRUE(desk::is_there(folder / "port"));
    const desk::Background live(
        folder, fmt::format("live {} {} --page {}", rig, folder / "port", port), "live");
    ASSERT_TRUE(desk::wait_for([&] { return has(live.log(), "heat_lamp"); })) << live.log();
    std::string script;
    std::istringstream docs(rig::read_file(ZORILLA_SOURCE "/docs/live.md"));
    int requests = 0;
    for (std::string line; std::getline(docs, line);)
        if (line.rfind("    curl ", 0) == 0 || line.rfind("    at=", 0) == 0 ||
            line.rfind("    token=", 0) == 0) {
            script += line.substr(4) + "; echo\n";
            requests += has(line, "curl") ? 1 : 0;
        }
    script = std::regex_replace(script, std::regex("8080"), fmt::format("{}", port));
    const desk::Outcome out =
        desk::shell(fmt::format("cd '{}'; {}", folder.path().string(), script));
    EXPECT_EQ(requests, 5);
    EXPECT_TRUE(has(out.out, "{\"part\":\"roost\",\"from\":")) << out.out << out.err;
    EXPECT_TRUE(has(out.out, "{\"answer\":\"ventilator at ")) << out.out;
    EXPECT_TRUE(has(out.out, "{\"answer\":\"ok\"}")) << out.out;
    EXPECT_TRUE(has(out.out, "# EOF")) << out.out;
    EXPECT_FALSE(has(out.out, "\"error\"")) << out.out;
}

} // namespace
