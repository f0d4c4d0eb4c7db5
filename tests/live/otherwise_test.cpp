// SPDX-License-Identifier: MIT
// A device whose program is not quite that of the rig file: live finds it whenever what it sends is
// not what the rig would send, and never else.
#include "bench/live/sending.hpp"
#include "bench/live/watched.hpp"
#include "bench/random_raws.hpp"
#include "bench/row_check.hpp"
#include "rig/rig_file.hpp"
#include "rig/text/files.hpp"
#include "tests/desk/process.hpp"
#include "tests/prove/random_rig.hpp"

#include <zorilla/board/trace_row.hpp>

#include <gtest/gtest.h>

#include <map>
#include <random>
#include <regex>

namespace {

using namespace zorilla;

struct Change {
    std::string kind, text;
};

/// Every rig that differs from a text in one thing.
std::vector<Change> changes_of(const std::string& text) {
    std::vector<Change> out;
    const auto each = [&](const char* kind, const char* form, auto instead) {
        const std::regex regex(form);
        for (auto i = std::sregex_iterator(text.begin(), text.end(), regex);
             i != std::sregex_iterator(); ++i) {
            std::string changed = text;
            changed.replace(static_cast<size_t>(i->position()), static_cast<size_t>(i->length()),
                            instead(*i));
            out.push_back({kind, std::move(changed)});
        }
    };
    const auto nothing = [](const std::smatch&) { return std::string(); };
    each("a claim left out", R"(\{ when = [^{}]*\},?)", nothing);
    each("a guard left out",
         R"(\n(min_on|min_off|longest_on|warn|warn_off|fade|ramp|kick|kick_for) = [^\n]*)",
         nothing);
    each("on for off", R"x(then = "(on|off)")x", [](const std::smatch& found) {
        return std::string(found[1] == "on" ? "then = \"off\"" : "then = \"on\"");
    });
    each("a point moved", R"x((below|above) = "(-?[0-9]+)[0-9.]* )x", [](const std::smatch& found) {
        return fmt::format("{} = \"{} ", found[1].str(),
                           std::stoi(found[2]) + (found[1] == "below" ? -9 : 9));
    });
    return out;
}

/// A row without its check, and with that of another rig.
std::string bare(std::string row) { return row.erase(row.rfind(',')); }
std::string checked(const std::string& row, uint16_t start) {
    uint16_t check = start;
    for (const char c : row)
        check = next_check(check, c);
    return fmt::format("{},{:04x}\n", row, check);
}

struct Count {
    int all = 0, differed = 0, wrong = 0;
};

/// Lets a device of each changed rig live beside the rig as it was.
void try_changes(const std::string& text, uint64_t seed, std::map<std::string, Count>& counts) {
    const rig::RigFile mine = rig::parse_rig(text);
    if (!mine.mistakes.empty())
        return;
    std::mt19937 choose(static_cast<unsigned>(seed));
    for (const Change& change : changes_of(text)) {
        const rig::RigFile other = rig::parse_rig(change.text);
        if (!other.mistakes.empty() || (seed > 0 && choose() % 4 != 0))
            continue;
        std::mt19937 random(static_cast<unsigned>(seed) + 7);
        bench::SendingDevice device(other.rig), rigs(mine.rig);
        std::string told;
        bench::Watched watched(mine.rig, {[&](const bench::Event& event) {
                                              if (event.who.empty() && told.empty())
                                                  told = event.what;
                                          },
                                          [](const std::string&) {}});
        watched.take(rigs.header());
        const std::string header = rigs.header();
        const uint16_t start =
            check_start(*bench::check_number(header.substr(header.rfind(',') + 1, 16)));
        std::vector<rig::Raw> raws(mine.rig.senses.size());
        bench::random_raws(mine.rig, random, raws);
        bool differ = false;
        std::string first;
        for (int pass = 0; pass < 1000; ++pass) {
            if (random() % 5 == 0)
                bench::random_raws(mine.rig, random, raws);
            const Instant now(static_cast<uint32_t>(pass * 500));
            const std::string sent = bare(device.pass(now, raws)),
                              by_rig = bare(rigs.pass(now, raws));
            if (sent != by_rig && !differ)
                first = sent + " for " + by_rig;
            differ = differ || sent != by_rig;
            watched.take(checked(sent, start));
            // What is sent is told in the pass that sends it.
            if (differ != !told.empty())
                break;
        }
        Count& count = counts[change.kind];
        ++count.all;
        count.differed += differ;
        if (differ != !told.empty() && count.wrong++ == 0)
            ADD_FAILURE() << change.kind << ": " << (differ ? "not told: " + first : told) << "\n"
                          << change.text;
    }
}

TEST(Companion, finds_a_device_that_does_otherwise_whenever_its_rows_do_and_never_else) {
    std::map<std::string, Count> counts;
    for (const char* name : {"aquarium_light", "bilge_pump", "fume_hood", "hen_house", "heat_lamp",
                             "pellet_feeder", "proofing_box", "rain_barrel", "dew_heater"})
        try_changes(rig::read_file(fmt::format("{0}/examples/{1}/{1}.toml", ZORILLA_SOURCE, name)),
                    0, counts);
    for (uint64_t seed = 1; seed <= 60; ++seed)
        try_changes(random_rig::Maker(seed).text(), seed, counts);
    int differed = 0;
    for (const auto& [kind, count] : counts) {
        fmt::print("{}: {} devices, {} of them sent otherwise, {} of those were not told, or told "
                   "for nothing\n",
                   kind, count.all, count.differed, count.wrong);
        EXPECT_EQ(count.wrong, 0) << kind;
        EXPECT_GT(count.differed, 5) << kind;
        differed += count.differed;
    }
    EXPECT_EQ(counts.size(), 4U);
    EXPECT_GT(differed, 100);
}

} // namespace
