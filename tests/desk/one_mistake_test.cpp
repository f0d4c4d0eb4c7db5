// SPDX-License-Identifier: MIT
// One mistake in a rig file is one message, at its line, however many parts name what it is in.
#include "tests/desk/process.hpp"
#include "tests/desk/rig_text.hpp"

#include <algorithm>
#include <filesystem>
#include <map>
#include <regex>
#include <vector>

namespace {

using Lines = std::vector<std::string>;

struct Slip {
    std::string kind;
    size_t line;
    std::string text; ///< what stands there instead; a line that is left out if empty
};

std::string short_by_one(std::string word) {
    word.pop_back();
    return word;
}

/// What people mistype in a line.
std::vector<Slip> slips_of(const std::string& line, size_t number) {
    static const std::regex value("^(\\w+) = (.*)$"), quantity("^\"(-?[0-9.]+) (\\S+)\"$"),
        word("^\"([a-z_]{4,})\"(.*)$"), part("^\\[(\\w+)\\.(\\w{4,})\\]$");
    std::vector<Slip> out;
    const auto slip = [&](const char* kind, std::string text) {
        out.push_back({kind, number, std::move(text)});
    };
    std::smatch is, inside;
    if (std::regex_match(line, is, part)) {
        slip("group", "[" + short_by_one(is[1]) + "." + is[2].str() + "]");
    } else if (std::regex_match(line, is, value)) {
        const std::string key = is[1], rest = is[2];
        if (key.size() > 3) {
            std::string swapped = key;
            std::swap(swapped[key.size() - 1], swapped[key.size() - 2]);
            if (swapped == key)
                swapped.pop_back();
            slip("key", swapped + " = " + rest);
        }
        slip("left out", "");
        if (std::regex_match(rest, inside, quantity)) {
            slip("no unit", key + " = \"" + inside[1].str() + "\"");
            slip("bare", key + " = " + inside[1].str());
            slip("wrong unit", key + " = \"" + inside[1].str() + " kg\"");
        } else if (std::regex_match(rest, inside, word)) {
            slip("word", key + " = \"" + short_by_one(inside[1]) + "\"" + inside[2].str());
        }
    }
    return out;
}

/// Where nothing is said to be wrong, each part is there.
void expect_whole(const zorilla::rig::Rig& rig, const std::string& text) {
    for (const auto& sense : rig.senses)
        EXPECT_NE(sense.part, nullptr) << sense.name << "\n" << text;
    for (const auto& derive : rig.derives)
        EXPECT_NE(derive.part, nullptr) << derive.name << "\n" << text;
    for (const auto& decide : rig.decides)
        EXPECT_NE(decide.part, nullptr) << decide.name << "\n" << text;
    for (const auto& drive : rig.drives)
        EXPECT_NE(drive.part, nullptr) << drive.name << "\n" << text;
}

TEST(Mistakes, are_told_once_each) {
    std::map<std::string, std::map<size_t, int>> messages;
    std::map<std::string, std::string> shown;
    for (const auto& file :
         std::filesystem::recursive_directory_iterator(ZORILLA_SOURCE "/examples")) {
        if (file.path().extension() != ".toml")
            continue;
        const std::string text = desk::read_all(file.path());
        if (!zorilla::rig::parse_rig(text).mistakes.empty())
            continue; // a world
        Lines lines;
        for (size_t at = 0; at < text.size();) {
            const size_t end = std::min(text.find('\n', at), text.size());
            lines.push_back(text.substr(at, end - at));
            at = end + 1;
        }
        for (size_t i = 0; i < lines.size(); ++i)
            for (const Slip& slip : slips_of(lines[i], i)) {
                std::string changed;
                for (size_t k = 0; k < lines.size(); ++k)
                    changed += (k == i ? slip.text : lines[k]) + "\n";
                const auto read = zorilla::rig::parse_rig(changed);
                const auto& mistakes = read.mistakes;
                if (mistakes.empty())
                    expect_whole(read.rig, changed);
                ++messages[slip.kind][mistakes.size()];
                if (mistakes.size() > 1)
                    shown[slip.kind] +=
                        fmt::format("{} line {}: {}\n{}", file.path().filename().string(), i + 1,
                                    slip.text, desk::mistakes_of(changed));
            }
    }
    for (const char* kind : {"group", "no unit", "bare", "wrong unit", "word"}) {
        EXPECT_EQ(messages[kind].size(), 1U) << kind << "\n" << shown[kind];
        EXPECT_GT(messages[kind][1], 20) << kind;
    }
    // A key that is mistyped or left out may take the meaning of a whole table with it.
    for (const char* kind : {"key", "left out"}) {
        int all = 0, more = 0;
        for (const auto& [count, times] : messages[kind]) {
            all += times;
            more += count > 1 ? times : 0;
        }
        EXPECT_GT(all, 200) << kind;
        EXPECT_LT(more * 25, all) << kind << "\n" << shown[kind];
    }
}

TEST(Mistakes, of_a_name_that_is_not_there_tell_where_it_is_named) {
    const std::string all = desk::mistakes_of(
        desk::with(desk::read_all(ZORILLA_SOURCE "/examples/hen_house/hen_house.toml"),
                   "[sense.roost]", "[sense.rost]"));
    EXPECT_EQ(desk::lines_of(all), 1) << all;
    EXPECT_NE(all.find("there is no [sense.roost]"), std::string::npos) << all;
    EXPECT_NE(all.find("it is named in lines 74, 115, 144, "), std::string::npos) << all;
}

} // namespace
