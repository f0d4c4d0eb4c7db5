// SPDX-License-Identifier: MIT
// What may include what, and how long a file may be.
#include "tests/desk/process.hpp"
#include "tests/house/source.hpp"

#include <gtest/gtest.h>

#include <filesystem>
#include <functional>
#include <map>

namespace {

using house::between;
using house::source;
namespace fs = std::filesystem;

TEST(Layers, includes_point_only_downwards) {
    // From the bottom to the top; a file may include its own layer and those before it. What is
    // both a folder and what stands in it counts as the longer of them.
    const std::vector<std::string> layers = {"include/zorilla/units",
                                             "include/zorilla/sense",
                                             "include/zorilla/derive",
                                             "include/zorilla/decide",
                                             "include/zorilla/drive",
                                             "include/zorilla/board/chips",
                                             "include/zorilla/board",
                                             "rig/text",
                                             "rig/model",
                                             "rig/read",
                                             "rig/sense",
                                             "rig/derive",
                                             "rig/circuit",
                                             "rig/decide",
                                             "rig/drive",
                                             "rig",
                                             "rig/run",
                                             "rig/prove",
                                             "rig/emit",
                                             "bench",
                                             "cli"};
    constexpr int first_on_host = 7;
    const auto layer_of = [&](const std::string& path) {
        int out = -1;
        for (size_t i = 0; i < layers.size(); ++i)
            if (path.rfind(layers[i] + "/", 0) == 0 &&
                (out < 0 || layers[i].size() > layers[static_cast<size_t>(out)].size()))
                out = static_cast<int>(i);
        return out;
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
    EXPECT_GT(checked, 400);
}

/// What a header includes of this project, as a path from its root.
std::vector<std::string> included_by(const std::string& path) {
    std::vector<std::string> out;
    for (const std::string& line : between(desk::read_all(source / path), "#include ", "\n")) {
        const std::string to = line.substr(1, line.size() - 2);
        for (const std::string& candidate : {to, "include/" + to})
            if (fs::exists(source / candidate))
                out.push_back(candidate);
    }
    return out;
}

TEST(Layers, no_header_comes_back_to_itself) {
    std::map<std::string, int> state; // 1: on the way, 2: done
    std::vector<std::string> cycles;
    const std::function<void(const std::string&)> visit = [&](const std::string& path) {
        state[path] = 1;
        for (const std::string& to : included_by(path)) {
            if (state[to] == 1)
                cycles.push_back(path + " includes " + to);
            else if (state[to] == 0)
                visit(to);
        }
        state[path] = 2;
    };
    for (const std::string top : {"include", "rig", "bench", "cli"})
        for (const auto& entry : fs::recursive_directory_iterator(source / top))
            if (const std::string path = fs::relative(entry.path(), source).string();
                entry.path().extension() == ".hpp" && state[path] == 0)
                visit(path);
    EXPECT_TRUE(cycles.empty()) << cycles.front();
    EXPECT_GT(state.size(), 100u);
}

TEST(Files, none_of_code_is_longer_than_400_lines) {
    int checked = 0;
    for (const std::string top :
         {"include", "rig", "bench", "cli", "examples", "firmware", "tests"})
        for (auto entry = fs::recursive_directory_iterator(source / top);
             entry != fs::recursive_directory_iterator(); ++entry) {
            if (entry->path().filename() == "node_modules") {
                entry.disable_recursion_pending();
                continue;
            }
            const std::string kind = entry->path().extension().string();
            if (kind != ".hpp" && kind != ".cpp" && kind != ".h" && kind != ".c")
                continue;
            EXPECT_LE(desk::lines_of(desk::read_all(entry->path())), 400) << entry->path();
            ++checked;
        }
    EXPECT_GT(checked, 600);
}

} // namespace
