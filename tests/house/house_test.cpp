// SPDX-License-Identifier: MIT
// The house: layers, what the README shows, and that an outside project can use what is installed.
#include "rig/rig_file.hpp"
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <vector>

namespace {

using desk::has;
namespace fs = std::filesystem;

const fs::path source = ZORILLA_SOURCE;

/// Every text that stands in `text` between `before` and `after`, blanks at its ends taken off.
std::vector<std::string> between(const std::string& text, const std::string& before,
                                 const std::string& after) {
    std::vector<std::string> out;
    for (size_t at = 0; (at = text.find(before, at)) != std::string::npos;) {
        at += before.size();
        const size_t end = text.find(after, at);
        const size_t begin = std::min(text.find_first_not_of(" \n", at), end);
        out.push_back(text.substr(begin, end - begin));
    }
    return out;
}

/// The first fenced block of a language in the README.
std::string block_of_readme(const std::string& language) {
    const std::string text = desk::read_all(source / "README.md");
    const size_t begin = text.find("```" + language + "\n") + language.size() + 4;
    return text.substr(begin, text.find("```", begin) - begin);
}

TEST(Layers, includes_point_only_downwards) {
    // From the bottom to the top; a file may include its own layer and those before it.
    const std::vector<std::string> layers = {"include/zorilla/units",
                                             "include/zorilla/sense",
                                             "include/zorilla/derive",
                                             "include/zorilla/decide",
                                             "include/zorilla/drive",
                                             "include/zorilla/board",
                                             "rig",
                                             "bench",
                                             "cli"};
    constexpr int first_on_host = 6;
    const auto layer_of = [&](const std::string& path) {
        for (size_t i = 0; i < layers.size(); ++i)
            if (path.rfind(layers[i] + "/", 0) == 0)
                return static_cast<int>(i);
        return -1;
    };
    int checked = 0;
    for (const std::string top : {"include", "rig", "bench", "cli"})
        for (const auto& entry : fs::recursive_directory_iterator(source / top)) {
            const std::string from = fs::relative(entry.path(), source).string();
            const int layer = layer_of(from);
            if (!entry.is_regular_file() || layer < 0)
                continue;
            const std::string text = desk::read_all(entry.path());
            for (const std::string& line : between(text, "#include ", "\n")) {
                std::string to = line.substr(1, line.size() - 2);
                if (to.rfind("zorilla/", 0) == 0)
                    to = "include/" + to;
                const bool on_host = layer >= first_on_host;
                const bool core_wants_host = !on_host && layer_of(to) >= first_on_host;
                EXPECT_FALSE(core_wants_host || (layer_of(to) > layer))
                    << from << " includes " << to;
                checked += layer_of(to) >= 0;
            }
        }
    EXPECT_GT(checked, 60);
}

TEST(Readme, its_rig_file_has_no_mistakes_and_its_device_does_the_same) {
    const zorilla::rig::RigFile file = zorilla::rig::parse_rig(block_of_readme("toml"));
    EXPECT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    const zorilla::rig::RigFile example =
        zorilla::rig::load_rig(source / "examples/heat_lamp/heat_lamp.toml");
    for (size_t code = 0; code < 1024; ++code)
        EXPECT_EQ(file.rig.senses[0].by_code[code].value_or({}),
                  example.rig.senses[0].by_code[code].value_or({}));
    EXPECT_EQ(file.rig.drives[0].spec.longest_on(), example.rig.drives[0].spec.longest_on());

    const std::string device = block_of_readme("cpp");
    EXPECT_LE(desk::lines_of(device), 25);
    const desk::Folder folder;
    folder.write("device.cpp", device + R"(
int main() {
    HeatLamp device;
    const Sample cold(790), broken(1023);
    bool as_told = device.pass(Instant(0), cold) == Level::high;      // off: power-up, must rest
    as_told &= device.pass(Instant(300'000), cold) == Level::low;     // on after five minutes
    as_told &= device.pass(Instant(301'000), broken) == Level::high;  // off at once
    return as_told ? 0 : 1;
}
)");
    const std::string program = folder / "device";
    const desk::Outcome built = desk::shell(
        fmt::format("{} -std=c++17 -Wall -Wextra -Wpedantic -Werror -I{}/include {} -o {}",
                    ZORILLA_CXX, source.string(), folder / "device.cpp", program));
    ASSERT_EQ(built.status, 0) << built.err;
    EXPECT_EQ(desk::shell(program).status, 0);
}

TEST(Docs, name_every_key_that_the_rig_file_knows_and_link_only_what_exists) {
    const std::string reference = desk::read_all(source / "docs/rig-file.md");
    std::string parser;
    for (const char* file : {"rig_file", "outputs", "sensors", "derives", "filters"})
        parser += desk::read_all(source / "rig" / (std::string(file) + ".cpp"));
    // Keys as the parser asks for them: keys.quantity("beta", ...) and the like.
    int keys = 0;
    for (const char* asks : {"quantity(", "text(", "choice(", "on_off(", "find(", "require(",
                             "whole(", "ratio(", "list(", "source(", "time(", "(keys, "})
        for (const std::string& argument : between(parser, asks, ",")) {
            if (argument.empty() || argument[0] != '"')
                continue;
            const std::string key = argument.substr(1, argument.find('"', 1) - 1);
            EXPECT_TRUE(has(reference, "`" + key + "`")) << key;
            ++keys;
        }
    EXPECT_GT(keys, 60);

    for (const char* page :
         {"README.md", "docs/rig-file.md", "docs/architecture.md", "docs/sensors.md",
          "docs/accuracy.md", "docs/examples.md", "docs/first-sensor.md"})
        for (const std::string& link : between(desk::read_all(source / page), "](", ")"))
            EXPECT_TRUE(has(link, "://") || fs::exists((source / page).parent_path() / link))
                << page << " links " << link;
}

TEST(Docs, table_of_accuracy_is_what_the_program_prints) {
    const desk::Outcome report = desk::shell(ZORILLA_BINARY "/tests/zorilla_accuracy");
    EXPECT_EQ(report.status, 0) << report.out;
    EXPECT_TRUE(has(desk::read_all(source / "docs/accuracy.md"), report.out)) << report.out;
}

TEST(Install, an_outside_project_builds_against_it_by_cmake_and_by_pkg_config) {
    const desk::Folder folder;
    const std::string prefix = folder / "prefix";
    const desk::Outcome installed =
        desk::shell(fmt::format("cmake --install {} --prefix {}", ZORILLA_BINARY, prefix));
    ASSERT_EQ(installed.status, 0) << installed.err;
    EXPECT_EQ(desk::shell(prefix + "/bin/zorilla --version").out, "zorilla 0.1.0\n");
    folder.write("main.cpp", "#include <zorilla/zorilla.hpp>\nusing namespace zorilla;\n"
                             "int main() { return 39_degF < 4_degC ? 0 : 1; }\n");
    folder.write("CMakeLists.txt",
                 "cmake_minimum_required(VERSION 3.25)\nproject(outside CXX)\n"
                 "find_package(Zorilla 0.1 REQUIRED)\nadd_executable(outside main.cpp)\n"
                 "target_link_libraries(outside PRIVATE Zorilla::core)\n");
    const std::string build = folder / "build";
    const desk::Outcome cmake = desk::shell(fmt::format(
        "cmake -S {} -B {} -G Ninja -DCMAKE_PREFIX_PATH={} && cmake --build {} && {}/outside",
        folder.path().string(), build, prefix, build, build));
    EXPECT_EQ(cmake.status, 0) << cmake.out << cmake.err;

    // pkg-config tells where it was configured for; here that is moved to the test's prefix.
    const desk::Outcome pkg = desk::shell(fmt::format(
        "PKG_CONFIG_PATH=$(dirname $(find {0} -name zorilla.pc)) {1} $(PKG_CONFIG_PATH="
        "$(dirname $(find {0} -name zorilla.pc)) pkg-config --define-variable=prefix={0} "
        "--cflags zorilla) {2} -o {3} && {3}",
        prefix, ZORILLA_CXX, folder / "main.cpp", folder / "by-pkg-config"));
    EXPECT_EQ(pkg.status, 0) << pkg.err;
}

} // namespace
