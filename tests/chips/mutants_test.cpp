// SPDX-License-Identifier: MIT
// Whether a rehearsal finds a device that does otherwise: each example's firmware with one thing of
// it broken, over a trace that moves what was broken.
#include "tests/desk/process.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cstdlib>
#include <map>
#include <regex>
#include <set>
#include <string>
#include <vector>

namespace {

using desk::has;
using desk::Outcome;
using desk::zorilla;

struct Mutant {
    std::string kind, what, file, text;
};

/// The arguments of a call that begins behind `at`, each on its own, with where they begin and end.
std::vector<std::pair<size_t, size_t>> arguments_at(const std::string& text, size_t at) {
    std::vector<std::pair<size_t, size_t>> out = {{at, at}};
    int depth = 0;
    for (size_t i = at; i < text.size(); ++i) {
        const char c = text[i];
        if (c == ')' && depth == 0) {
            out.back().second = i;
            return out;
        }
        depth += c == '(' ? 1 : c == ')' ? -1 : 0;
        if (c == ',' && depth == 0) {
            out.back().second = i;
            out.emplace_back(i + 1, i + 1);
        }
    }
    return {};
}

/// Everything that can be broken of a firmware, one thing at a time.
class Breaker {
  public:
    Breaker(const std::string& folder, std::set<std::string> still, std::set<std::string> unmoved)
        : main_(desk::read_all(folder + "/main.cpp")),
          device_(desk::read_all(folder + "/device.hpp")), still_(std::move(still)),
          unmoved_(std::move(unmoved)) {}

    std::vector<Mutant> all() {
        inputs();
        outputs();
        claims();
        guards();
        return std::move(out_);
    }

  private:
    template <class Found>
    static void each(const std::string& text, const char* form, Found found) {
        const std::regex regex(form);
        for (auto i = std::sregex_iterator(text.begin(), text.end(), regex);
             i != std::sregex_iterator(); ++i)
            found(*i);
    }
    void add(const char* kind, std::string what, const char* file, std::string text, size_t at,
             size_t length, const std::string& instead) {
        out_.push_back({kind, std::move(what), file, text.replace(at, length, instead)});
    }
    void inputs() {
        each(main_, R"(        in\.(\w+) = Wires::read<[^;]*;\n)", [&](const std::smatch& found) {
            if (still_.count(found[1]) == 0)
                add("input ignored", found[1], "main.cpp", main_,
                    static_cast<size_t>(found.position()), static_cast<size_t>(found.length()), "");
        });
    }
    void outputs() {
        std::vector<std::pair<std::string, std::string>> switched; // name and pin
        std::map<std::string, std::string> name_of;                // of a role
        each(main_, R"(Wires::write<pins::(\w+)>\(.*device\.(\w+)\.value)",
             [&](const std::smatch& found) { name_of[found[1]] = found[2]; });
        each(main_, R"(using (\w+) = Switched<(Board::\w+)(, active_low)?>;)",
             [&](const std::smatch& found) {
                 const std::string name = name_of[found[1]];
                 if (name.empty() || unmoved_.count(name) != 0)
                     return;
                 switched.emplace_back(name, found[2]);
                 add("polarity turned", name, "main.cpp", main_,
                     static_cast<size_t>(found.position()), static_cast<size_t>(found.length()),
                     fmt::format("using {} = Switched<{}{}>;", found[1].str(), found[2].str(),
                                 found[3].matched ? "" : ", active_low"));
             });
        for (size_t i = 1; i < switched.size(); ++i) {
            std::string text =
                std::regex_replace(main_, std::regex(switched[0].second + "\\b"), "Board::swap");
            text = std::regex_replace(text, std::regex(switched[i].second + "\\b"),
                                      switched[0].second);
            text = std::regex_replace(text, std::regex("Board::swap"), switched[i].second);
            out_.push_back({"pins swapped", switched[0].first + " and " + switched[i].first,
                            "main.cpp", text});
        }
        each(main_, R"(using (\w+) = Dimmed<)", [&](const std::smatch& found) {
            const std::string name = name_of[found[1]], shown = "device." + name + ".value()";
            const size_t at =
                main_.find(shown, main_.find("Wires::write<pins::" + found[1].str() + ">"));
            if (!name.empty() && unmoved_.count(name) == 0 && at != std::string::npos)
                add("duty off by 3 %", name, "main.cpp", main_, at, shown.size(),
                    fmt::format("Duty::from_255ths(static_cast<uint8_t>({0}.of_255() < 247 ? "
                                "{0}.of_255() + 8 : "
                                "{0}.of_255() - 8))",
                                shown));
        });
    }
    void claims() {
        each(device_, R"(        (\w+)\.drive(_unless)?\()", [&](const std::smatch& found) {
            if (unmoved_.count(found[1]) != 0)
                return;
            const auto all =
                arguments_at(device_, static_cast<size_t>(found.position() + found.length()));
            std::vector<size_t> which;
            for (size_t i = 0; i < all.size(); ++i)
                if (std::regex_search(
                        device_.substr(all[i].first, all[i].second - all[i].first),
                        std::regex(
                            "^\\s*(on_when|off_when|set_when|follow|follow_when|\\w+\\.claim)\\(")))
                    which.push_back(i);
            for (const size_t i : which)
                if (which.size() > 1 && i > 0)
                    add("claim left out", fmt::format("{}, number {}", found[1].str(), i),
                        "device.hpp", device_, all[i].first - 1, all[i].second - all[i].first + 1,
                        "");
        });
    }
    void guards() {
        each(device_, R"(\.(min_on|min_off|longest_on|warn|warn_off|ramp|fade|kick)\([^()]*\))",
             [&](const std::smatch& found) {
                 add("guard left out", found[0], "device.hpp", device_,
                     static_cast<size_t>(found.position()), static_cast<size_t>(found.length()),
                     "");
             });
    }

    std::string main_, device_;
    std::set<std::string> still_, unmoved_;
    std::vector<Mutant> out_;
};

/// The names in a row of what a rehearsal has not tried.
std::set<std::string> names_behind(const std::string& text, const std::string& words) {
    std::set<std::string> out;
    const size_t at = text.find(words);
    if (at == std::string::npos)
        return out;
    const size_t begin = at + words.size();
    const std::string line = text.substr(begin, text.find('\n', begin) - begin);
    const std::regex name("[a-z]\\w*");
    for (auto i = std::sregex_iterator(line.begin(), line.end(), name); i != std::sregex_iterator();
         ++i)
        out.insert(i->str());
    return out;
}

struct Tried {
    const char* example;
    const char* trace;
    bool deep = true;
};

TEST(Rehearsal, finds_what_was_broken_of_a_firmware) {
    const bool is_deep = std::getenv("ZORILLA_DEEP") != nullptr;
    std::map<std::string, std::pair<int, int>> found; // of each kind: found, and all
    std::string missed;
    for (const Tried& one : {Tried{"rain_barrel", "shower", false},
                             Tried{"bilge_pump", "rough_day"}, Tried{"fume_hood", "evening"},
                             Tried{"aquarium_light", "day"}, Tried{"dew_heater", "night"},
                             Tried{"proofing_box", "dough"}, Tried{"pellet_feeder", "half_hour"}}) {
        if (one.deep && !is_deep)
            continue;
        const std::string rig =
            fmt::format("{0}/examples/{1}/{1}.toml", ZORILLA_SOURCE, one.example);
        const desk::Folder whole, broken;
        const std::string rehearse = fmt::format(
            "rehearse {} --trace {}/examples/{}/{}.csv --from busiest --for '{}' --firmware ", rig,
            ZORILLA_SOURCE, one.example, one.trace, is_deep ? "10 min" : "5 min");
        ASSERT_EQ(
            zorilla(fmt::format("firmware {} --out {} --force", rig, whole.path().string())).status,
            0);
        const Outcome plain = zorilla(rehearse + whole.path().string());
        ASSERT_EQ(plain.status, 0) << plain.out << plain.err;
        std::set<std::string> unmoved = names_behind(plain.out, "these outputs were never on: ");
        unmoved.merge(names_behind(plain.out, "these outputs were on all the time: "));
        Breaker breaker(whole.path().string(),
                        names_behind(plain.out, "these inputs never changed: "), unmoved);
        for (const Mutant& mutant : breaker.all()) {
            std::filesystem::remove_all(broken.path());
            std::filesystem::copy(whole.path(), broken.path());
            broken.write(mutant.file, mutant.text);
            const Outcome out = zorilla(rehearse + broken.path().string());
            if (has(out.err, "does not compile")) // the compiler has found it
                continue;
            ASSERT_NE(out.status, 2) << mutant.kind << " " << mutant.what << "\n" << out.err;
            auto& [caught, all] = found[mutant.kind];
            caught += out.status == 1;
            ++all;
            if (out.status != 1)
                missed += fmt::format("  {}: {} of {}\n", one.example, mutant.kind, mutant.what);
        }
    }
    for (const auto& [kind, count] : found)
        fmt::print("{}: {} of {}\n", kind, count.first, count.second);
    fmt::print("not found:\n{}", missed);
    for (const char* kind : {"input ignored", "polarity turned", "pins swapped", "duty off by 3 %"})
        EXPECT_EQ(found[kind].first, found[kind].second) << kind;
    // A claim or a guard is missed only where the trace comes to it; which were not is printed.
    EXPECT_GT(found["claim left out"].first, 0);
}

// One frame that is garbled on its way is asked for again; a program that garbles all of them is
// told, though it hears the sensor each time.
TEST(Rehearsal, finds_a_program_that_garbles_each_frame) {
    const std::string example = ZORILLA_SOURCE "/examples/dew_heater/";
    const desk::Folder folder;
    ASSERT_EQ(zorilla(fmt::format("firmware {}dew_heater.toml --out {} --force", example,
                                  folder.path().string()))
                  .status,
              0);
    std::string text = desk::read_all(folder / "main.cpp");
    const std::string reads = "in.air = Wires::read<pins::Air>();\n";
    const size_t at = text.find(reads);
    ASSERT_NE(at, std::string::npos) << text;
    folder.write("main.cpp", text.insert(at + reads.size(), "if (in.air.tried()) in.air = "
                                                            "FrameSample::garbled();\n"));
    const Outcome out =
        zorilla(fmt::format("rehearse {0}dew_heater.toml --trace {0}night.csv --for "
                            "'1 min' --firmware {1}",
                            example, folder.path().string()));
    EXPECT_EQ(out.status, 1) << out.out << out.err;
    EXPECT_TRUE(has(out.out + out.err, "garbled time after time")) << out.out << out.err;
}

// The same codes mean another voltage on a wider converter; no row by itself shows that.
TEST(Rehearsal, doubts_a_trace_that_uses_a_quarter_of_the_converter) {
    const std::string example = ZORILLA_SOURCE "/examples/heat_lamp/heat_lamp";
    const desk::Folder folder;
    ASSERT_EQ(zorilla("move " + example + ".toml --board rp2040 --out " + folder / "lamp").status,
              0);
    std::string narrow = "time (s),roost (code)\n", wide = narrow;
    for (int i = 0; i < 20; ++i) {
        narrow += fmt::format("{},{}\n", i, 700 + i);
        wide += fmt::format("{},{}\n", i, 2800 + i);
    }
    const char* const doubt = "is it of a converter of 10 bits?";
    for (const auto& [trace, doubted] : {std::pair(narrow, true), std::pair(wide, false)}) {
        const Outcome out = zorilla("rehearse " + folder / "lamp/heat_lamp.toml" +
                                    " --for '2 s' --trace " + folder.write("t.csv", trace));
        EXPECT_EQ(has(out.err, doubt), doubted) << out.status << out.out << out.err;
    }
}

} // namespace
