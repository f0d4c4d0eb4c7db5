// SPDX-License-Identifier: MIT
// The house: layers, what the README shows, and that an outside project can use what is installed.
#include "bench/world/element.hpp"
#include "rig/decide/part.hpp"
#include "rig/derive/part.hpp"
#include "rig/drive/part.hpp"
#include "rig/read/keys.hpp"
#include "rig/rig_file.hpp"
#include "tests/desk/process.hpp"
#include "tests/house/source.hpp"

#include <gtest/gtest.h>

#include <regex>
#include <set>
#include <sstream>
#include <vector>

namespace {

using desk::has;
using house::between;
using house::source;
namespace fs = std::filesystem;

/// The first fenced block of a language in the README.
std::string block_of_readme(const std::string& language) {
    const std::string text = desk::read_all(source / "README.md");
    const size_t begin = text.find("```" + language + "\n") + language.size() + 4;
    return text.substr(begin, text.find("```", begin) - begin);
}

TEST(Readme, its_rig_file_has_no_mistakes_and_its_device_does_the_same) {
    const zorilla::rig::RigFile file = zorilla::rig::parse_rig(block_of_readme("toml"));
    EXPECT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    const zorilla::rig::RigFile example =
        zorilla::rig::load_rig(source / "examples/heat_lamp/heat_lamp.toml");
    for (size_t code = 0; code < 1024; ++code)
        EXPECT_EQ(file.rig.senses[0].by_code[code].value_or({}),
                  example.rig.senses[0].by_code[code].value_or({}));
    EXPECT_EQ(file.rig.drives[0].part->relay()->longest_on(),
              example.rig.drives[0].part->relay()->longest_on());

    const std::string device = block_of_readme("cpp");
    EXPECT_LE(desk::lines_of(device), 25);
    const desk::Folder folder;
    folder.write("device.cpp", device + R"(
int main() {
    using namespace zorilla;
    my_device::HeatLamp device;
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

/// A chapter of docs/rig-file.md from its heading on, up to the next of its rank or above.
std::string chapter(const std::string& heading) {
    const std::string text = desk::read_all(source / "docs/rig-file.md");
    const size_t begin = text.find(heading + "\n");
    const size_t begin_with_more = begin == std::string::npos ? text.find(heading) : begin;
    EXPECT_NE(begin_with_more, std::string::npos) << heading;
    const std::string marks = heading.substr(0, heading.find(' '));
    size_t end = text.size();
    for (std::string rank = "#"; rank.size() <= marks.size(); rank += '#')
        end = std::min(end, text.find("\n" + rank + " ", begin_with_more));
    return text.substr(begin_with_more, end - begin_with_more);
}

/// The keys that the tables of a chapter tell about: what stands in their first column.
std::set<std::string> told_in(const std::string& text) {
    std::set<std::string> out;
    const std::regex word("`([a-z_0-9]+)`");
    bool in_table = false;
    std::stringstream lines(text);
    for (std::string line; std::getline(lines, line);) {
        if (line.rfind("| key |", 0) == 0)
            in_table = true;
        else if (line.rfind("|", 0) != 0)
            in_table = false;
        else if (in_table) {
            const std::string first = line.substr(0, line.find('|', 1));
            for (std::sregex_iterator it(first.begin(), first.end(), word), end; it != end; ++it)
                out.insert((*it)[1]);
        }
    }
    return out;
}

template <class Keys> std::set<std::string> names_of(const Keys& keys) {
    std::set<std::string> out;
    for (const zorilla::rig::PartKey& key : keys)
        out.insert(key.name);
    return out;
}

TEST(Docs, tell_of_each_key_of_each_part_and_of_no_other) {
    using namespace zorilla::rig;
    const std::set<std::string> shared =
        told_in(chapter("## `[sense.NAME]`: a sensor")
                    .substr(0, chapter("## `[sense.NAME]`: a sensor").find("### ")));
    std::set<std::string> used_of_shared = names_of(keys::of_sense);
    for (const SenseKind& kind : sense_kinds()) {
        const std::string text = chapter(fmt::format("### `{}`", kind.word));
        const std::set<std::string> told = told_in(text);
        const std::set<std::string> known = names_of(kind.keys);
        for (const std::string& key : known) {
            EXPECT_TRUE(shared.count(key) || has(text, "`" + key + "`")) << kind.word << " " << key;
            used_of_shared.insert(key);
        }
        for (const auto& [pin, why] : kind.other_pins)
            EXPECT_TRUE(told.count(pin)) << kind.word << " " << pin;
        for (const std::string& key : told) {
            const bool is_pin = key.find("_pin") != std::string::npos;
            EXPECT_TRUE(known.count(key) || is_pin) << kind.word << " has no " << key;
        }
    }
    for (const std::string& key : shared)
        EXPECT_TRUE(used_of_shared.count(key)) << "no sensor has " << key;

    const std::string derived = chapter("## `[derive.NAME]`: a quantity made from others");
    for (const DeriveKind& kind : derive_kinds()) {
        EXPECT_TRUE(has(derived, fmt::format("`\"{}\"`", kind.word))) << kind.word;
        for (const PartKey& key : kind.keys)
            EXPECT_TRUE(has(derived, fmt::format("`{}`", key.name))) << key.name;
    }

    std::set<std::string> of_decides, of_drives = names_of(keys::of_drive);
    for (const DecideKind& kind : decide_kinds())
        of_decides.merge(names_of(kind.keys));
    EXPECT_EQ(told_in(chapter("## `[decide.NAME]`: a decision")), of_decides);
    for (const DriveKind& kind : drive_kinds())
        of_drives.merge(names_of(kind.keys));
    of_drives.merge(names_of(keys::of_claim));
    of_drives.merge(names_of(keys::of_hand));
    const std::string drives = chapter("## `[drive.NAME]`: an output");
    std::set<std::string> told = told_in(drives);
    for (const char* key : {"red_pin", "green_pin", "blue_pin", "pins", "lights"}) {
        EXPECT_TRUE(has(drives, fmt::format("`{}`", key))) << key;
        told.insert(key);
    }
    EXPECT_EQ(told, of_drives);

    const struct {
        const char* heading;
        std::vector<PartKey> keys;
    } tables[] = {
        {"## `[rig]`", keys::of_rig},
        {"## `[board]`", keys::of_board},
        {"## `[rig.shutdown]`", keys::of_shutdown},
        {"## `[rig.self_test]`", keys::of_self_test},
        {"## `[machine.NAME]`", keys::with(keys::of_machine, keys::of_move)},
        {"## `[pattern.NAME]`", keys::of_pattern},
        {"## `[promise.NAME]`", keys::of_promise},
    };
    for (const auto& table : tables)
        EXPECT_EQ(told_in(chapter(table.heading)), names_of(table.keys)) << table.heading;
}

TEST(Docs, tell_of_each_key_of_each_element_of_a_world_and_of_no_other) {
    const std::string page = desk::read_all(source / "docs/worlds.md");
    for (const auto& kind : zorilla::bench::element_kinds()) {
        const size_t begin = page.find(fmt::format("### `[{}.NAME]`", kind.word));
        ASSERT_NE(begin, std::string::npos) << kind.word;
        const std::set<std::string> told =
            told_in(page.substr(begin, page.find("\n### ", begin + 1) - begin));
        std::set<std::string> known = names_of(kind.keys);
        if (std::string_view(kind.word) == "turning") // jams as people do things
            for (const char* key : {"at", "times_a_day", "for"})
                known.erase(key);
        EXPECT_EQ(told, known) << kind.word;
    }
}

TEST(Parts, each_kind_has_a_test_of_its_own) {
    const auto look_for = [](const auto& kinds) {
        for (const auto& kind : kinds)
            EXPECT_TRUE(fs::exists(source / "tests/parts" / (std::string(kind.word) + ".cpp")))
                << "write tests/parts/" << kind.word << ".cpp";
    };
    look_for(zorilla::rig::sense_kinds());
    look_for(zorilla::rig::derive_kinds());
    look_for(zorilla::rig::decide_kinds());
    look_for(zorilla::rig::drive_kinds());
}

TEST(Docs, every_claim_of_memory_in_a_header_is_held_true_by_the_chips_compiler) {
    const std::string claims = desk::read_all(source / "tests/chips/ram_claims.hpp");
    int found = 0;
    for (const auto& entry : fs::recursive_directory_iterator(source / "include")) {
        if (!entry.is_regular_file())
            continue;
        const std::string header = fs::relative(entry.path(), source / "include/zorilla").string();
        for (const std::string& words : between(desk::read_all(entry.path()), "RAM: ", " byte")) {
            EXPECT_TRUE(has(claims, fmt::format("\"{}: {} byte", header, words)))
                << header << ": " << words;
            ++found;
        }
    }
    EXPECT_GT(found, 25);
}

TEST(Docs, link_only_what_exists) {
    for (const char* page :
         {"README.md", "docs/rig-file.md", "docs/architecture.md", "docs/sensors.md",
          "docs/accuracy.md", "docs/blocks.md", "docs/examples.md", "docs/first-sensor.md"})
        for (const std::string& link : between(desk::read_all(source / page), "](", ")"))
            EXPECT_TRUE(has(link, "://") || fs::exists((source / page).parent_path() / link))
                << page << " links " << link;
}

TEST(Docs, table_of_accuracy_is_what_the_program_prints) {
    const desk::Outcome report = desk::shell(ZORILLA_BINARY "/tests/zorilla_accuracy");
    EXPECT_EQ(report.status, 0) << report.out;
    EXPECT_TRUE(has(desk::read_all(source / "docs/accuracy.md"), report.out)) << report.out;
}

TEST(Docs, blocks_in_cpp_are_compiled_and_every_open_loop_of_the_core_is_explained) {
    const std::string page = desk::read_all(source / "docs/blocks.md");
    std::string code;
    for (const std::string& block : between(page, "```cpp", "```"))
        code += block + "\n";
    const desk::Folder folder;
    folder.write("blocks.cpp", code + R"(
namespace other_device {
using namespace zorilla;
int fan = 1, led = 2, at = 3; // called as ours are
int sum() { return fan + led + at; }
} // namespace other_device
int main() {
    using namespace zorilla;
    my_device::Trough trough;
    bool as_told = trough.pass(Instant(0), Sample(150)) == Level::high; // off: power-up, must rest
    as_told &= trough.pass(Instant(60'000), Sample(150)) == Level::low;
    as_told &= trough.pass(Instant(61'000), Sample(1023)) == Level::high; // a wire is off
    return as_told && other_device::sum() == 6 ? 0 : 1;
}
)");
    const std::string program = folder / "blocks";
    const desk::Outcome built = desk::shell(
        fmt::format("{} -std=c++17 -Wall -Wextra -Wpedantic -Werror -I{}/include {} -o {}",
                    ZORILLA_CXX, source.string(), folder / "blocks.cpp", program));
    ASSERT_EQ(built.status, 0) << built.err;
    EXPECT_EQ(desk::shell(program).status, 0);

    int loops = 0;
    for (const auto& entry : fs::recursive_directory_iterator(source / "include/zorilla"))
        if (entry.is_regular_file()) {
            const std::string text = desk::read_all(entry.path());
            if (!has(text, "while (") && !has(text, "for (;;)"))
                continue;
            ++loops;
            EXPECT_TRUE(has(
                page, "`" + fs::relative(entry.path(), source / "include/zorilla").string() + "`"))
                << "say in docs/blocks.md why the loops of " << entry.path() << " end";
        }
    EXPECT_GT(loops, 10);
}

TEST(Help, man_page_and_completion_name_every_command_and_option) {
    const std::string tool = ZORILLA_BINARY "/zorilla";
    const std::string man = desk::shell(tool + " --print-man-page").out;
    const desk::Folder folder;
    folder.write("completion", desk::shell(tool + " --print-completion").out);
    /// What bash offers behind some words.
    const auto offered = [&](const std::string& words) {
        return " " +
               desk::shell(fmt::format("bash -c 'source {}; COMP_WORDS=({} \"\"); COMP_CWORD=$(("
                                       "${{#COMP_WORDS[@]}} - 1)); _zorilla; echo "
                                       "${{COMPREPLY[@]}}' | tr '\\n' ' '",
                                       folder / "completion", words))
                   .out;
    };
    int options = 0, commands = 0;
    std::vector<std::string> left = {"zorilla"};
    while (!left.empty()) {
        const std::string command = left.back();
        left.pop_back();
        ++commands;
        const std::string help = desk::shell(ZORILLA_BINARY "/" + command + " --help").out;
        const std::string offers = offered(command);
        bool lists_commands = false;
        std::istringstream lines(help);
        for (std::string line; std::getline(lines, line);) {
            line.erase(0, std::min(line.find_first_not_of(' '), line.size()));
            lists_commands = lists_commands || line == "Subcommands:";
            const size_t at = line.rfind("-h,--", 0) == 0 ? 3 : 0;
            const std::string word = line.substr(at, line.find_first_of(" =", at) - at);
            if (word.rfind("--", 0) == 0) {
                ++options;
                EXPECT_TRUE(has(offers, " " + word + " ")) << command << ": " << offers;
                std::string escaped;
                for (const char c : word)
                    escaped += c == '-' ? "\\-" : std::string(1, c);
                EXPECT_TRUE(has(man, escaped)) << escaped;
            } else if (lists_commands && !word.empty() && has(help, "\n  " + word + "  ")) {
                EXPECT_TRUE(has(offers, " " + word + " ")) << command << ": " << offers;
                EXPECT_TRUE(has(man, ".SS " + command + " " + word + "\n")) << word;
                left.push_back(command + " " + word);
            }
        }
    }
    EXPECT_EQ(commands, 28);
    EXPECT_GT(options, 60);
}

TEST(Install, an_outside_project_builds_against_it_by_cmake_and_by_pkg_config) {
    const desk::Folder folder;
    const std::string prefix = folder / "prefix";
    const desk::Outcome installed =
        desk::shell(fmt::format("cmake --install {} --prefix {}", ZORILLA_BINARY, prefix));
    ASSERT_EQ(installed.status, 0) << installed.err;
    EXPECT_EQ(desk::shell(prefix + "/bin/zorilla --version").out, "zorilla 0.1.0\n");
    for (const char* file :
         {"share/man/man1/zorilla.1", "share/bash-completion/completions/zorilla"})
        EXPECT_GT(desk::read_all(fs::path(prefix) / file).size(), 1000U) << file;
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
