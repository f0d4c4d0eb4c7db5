// SPDX-License-Identifier: MIT
// The desk beside a device that runs: what it takes for true of it, whatever the line does.
#include "bench/live/sending.hpp"
#include "bench/live/watched.hpp"
#include "bench/random_raws.hpp"
#include "bench/row_check.hpp"
#include "rig/rig_file.hpp"
#include "rig/text/files.hpp"
#include "tests/desk/process.hpp"
#include "tests/prove/random_rig.hpp"
#include "tests/winter.hpp"

#include <zorilla/board/trace_row.hpp>

#include <gtest/gtest.h>

#include <random>
#include <sstream>

namespace {

using namespace zorilla;
using bench::Companion;
using bench::Standing;

/// A device at work: inputs that change now and then, and passes every 100 ms, but for the first,
/// which comes as soon as it can.
class Working {
  public:
    Working(const rig::Rig& rig, uint64_t seed)
        : rig_(rig), device(rig), random_(static_cast<unsigned>(seed)), raws_(rig.senses.size()),
          other_(rig.senses.size()) {
        bench::random_raws(rig, random_, raws_);
    }
    std::string pass() {
        now_ = now_ == 0 ? 7 + static_cast<int64_t>(random_() % 90) : (now_ / 100 + 1) * 100;
        bench::random_raws(rig_, random_, other_);
        for (size_t i = 0; i < raws_.size(); ++i) {
            if (random_() % 40 == 0)
                raws_[i] = other_[i];
            if (rig_.senses[i].raw == rig::RawKind::frame)
                raws_[i] = random_() % 25 == 0 ? other_[i] : rig::Raw();
        }
        return device.pass(Instant(static_cast<uint32_t>(now_)), raws_);
    }
    const rig::Rig& rig_;
    bench::SendingDevice device;

  private:
    std::mt19937 random_;
    std::vector<rig::Raw> raws_, other_;
    int64_t now_ = 0;
};

/// What is known of a device, and how much of that is wrong.
struct Known {
    uint64_t asked = 0, open = 0, wrong = 0;
    std::string first;

    void add(bool is_open, bool is_right, const std::string& what) {
        ++asked;
        open += is_open ? 1 : 0;
        if (is_open || is_right)
            return;
        if (wrong++ == 0)
            first = what;
    }
    void compare(const Companion& beside, const rig::RunningRig& device) {
        const rig::Rig& rig = device.rig();
        for (size_t i = 0; i < rig.sources.size(); ++i) {
            const rig::AnyReading here = beside.running().readings()[i],
                                  there = device.readings()[i];
            add(beside.is_open_source(i),
                here.health() == there.health() &&
                    here.value_or({}).thousandths() == there.value_or({}).thousandths(),
                rig.sources[i].name);
        }
        for (size_t i = 0; i < rig.facts.size(); ++i)
            add(beside.is_open_fact(i), beside.running().truths()[i] == device.truths()[i],
                rig.facts[i].name);
        for (size_t i = 0; i < rig.machines.size(); ++i)
            add(beside.is_open_machine(i), beside.running().state(i) == device.state(i),
                rig.machines[i].name);
        for (size_t i = 0; i < rig.drives.size(); ++i)
            add(beside.is_open_drive(i),
                beside.running().drivens()[i].cause == device.drivens()[i].cause &&
                    beside.running().drivens()[i].value.bits() == device.drivens()[i].value.bits(),
                rig.drives[i].name);
    }
};

const char* const examples[] = {"aquarium_light", "bilge_pump",   "fume_hood",  "hen_house",
                                "pellet_feeder",  "proofing_box", "rain_barrel"};

rig::RigFile example(const std::string& name) {
    return rig::parse_rig(
        rig::read_file(fmt::format("{0}/examples/{1}/{1}.toml", ZORILLA_SOURCE, name)));
}

TEST(Companion, what_is_not_open_of_a_device_that_was_on_before_is_what_it_knows) {
    const auto join = [](const rig::Rig& rig, uint64_t seed, Known& known) {
        Working working(rig, seed);
        for (int i = 0; i < 3000; ++i)
            working.pass();
        bench::Watched watched(rig, {});
        for (int i = 0; i < 3000; ++i) {
            watched.take(working.pass());
            known.compare(watched.companion(), working.device.running());
        }
        EXPECT_NE(watched.companion().standing(), Standing::whole);
    };
    Known random, real;
    for (uint64_t seed = 0; seed < 60; ++seed) {
        const rig::RigFile file = rig::parse_rig(random_rig::Maker(seed).text());
        if (file.mistakes.empty())
            join(file.rig, seed, random);
    }
    for (const char* name : examples)
        join(example(name).rig, 1, real);
    // Pasts are tried, not all of them: what random rigs remember is odd enough to be missed.
    EXPECT_GT(random.asked, 2'000'000U);
    EXPECT_LT(static_cast<double>(random.wrong), 0.002 * static_cast<double>(random.asked));
    EXPECT_LT(static_cast<double>(random.open), 0.1 * static_cast<double>(random.asked));
    EXPECT_EQ(real.wrong, 0U) << real.first;
    EXPECT_LT(static_cast<double>(real.open), 0.1 * static_cast<double>(real.asked));
}

TEST(Companion, of_a_device_that_is_seen_from_its_start_all_is_known) {
    for (uint64_t seed = 0; seed < 60; ++seed) {
        const rig::RigFile file = rig::parse_rig(random_rig::Maker(seed).text());
        if (!file.mistakes.empty())
            continue;
        Working working(file.rig, seed);
        bench::Watched watched(file.rig, {});
        watched.take(working.device.header());
        Known known;
        for (int i = 0; i < 500; ++i) {
            watched.take(working.pass());
            known.compare(watched.companion(), working.device.running());
        }
        EXPECT_EQ(known.open + known.wrong, 0U) << seed << ": " << known.first;
        EXPECT_EQ(watched.companion().standing(), Standing::whole);
        EXPECT_EQ(watched.companion().missed(), 0U);
        EXPECT_FALSE(watched.companion().differs());
    }
}

TEST(Companion, a_row_that_is_lost_right_after_power_up_is_missed_too) {
    for (uint64_t seed = 0; seed < 40; ++seed) {
        const rig::RigFile file = example(examples[seed % std::size(examples)]);
        Working working(file.rig, seed);
        bench::Watched watched(file.rig, {});
        watched.take(working.device.header());
        const auto lost = static_cast<int>(1 + seed % 4);
        for (int i = 0; i < 20; ++i)
            if (const std::string row = working.pass(); i != lost)
                watched.take(row);
        EXPECT_EQ(watched.companion().missed(), 1U) << seed;
        EXPECT_NE(watched.companion().standing(), Standing::whole) << seed;
    }
}

TEST(Companion,
     goes_on_when_the_clock_begins_anew_after_fifty_days_and_begins_when_the_device_does) {
    const rig::RigFile file = example("hen_house");
    std::vector<std::string> notices;
    bench::Watched watched(file.rig, {[&](const bench::Event& event) {
                                          if (event.who.empty())
                                              notices.push_back(event.what);
                                      },
                                      [](const std::string&) {}, [] {}});
    std::vector<rig::Raw> raws(file.rig.senses.size());
    std::mt19937 random(2);
    bench::random_raws(file.rig, random, raws);
    bench::SendingDevice device(file.rig);
    uint32_t now = 0xffff'ffff - 20'000;
    for (int i = 0; i < 400; ++i, now += 100)
        watched.take(device.pass(Instant(now), raws));
    EXPECT_LT(now, 30'000U);
    EXPECT_EQ(watched.companion().missed(), 0U);
    EXPECT_EQ(watched.companion().stretch(), 1U);
    EXPECT_GT(watched.companion().milliseconds(), int64_t{0xffff'ffff});
    // Whereas one that was reset is another story, whether its header is seen or not.
    for (const bool header : {true, false}) {
        notices.clear();
        bench::SendingDevice again(file.rig);
        if (header)
            watched.take(again.header());
        for (uint32_t at = 100; at < 3000; at += 100)
            watched.take(again.pass(Instant(at), raws));
        ASSERT_FALSE(notices.empty());
        EXPECT_EQ(notices.front(), "the device has begun anew");
        EXPECT_EQ(watched.companion().standing() == Standing::whole, header);
    }
}

TEST(Companion, a_trace_of_a_device_that_was_off_now_and_then_is_what_the_rig_does) {
    const desk::Folder folder;
    for (uint64_t seed = 1; seed <= 60; ++seed) {
        const rig::RigFile file = seed <= std::size(examples)
                                      ? example(examples[seed - 1])
                                      : rig::parse_rig(random_rig::Maker(seed).text());
        ASSERT_TRUE(file.mistakes.empty()) << seed;
        std::string sent;
        uint64_t rows = 0, lives = seed % 4 + 1;
        for (uint64_t life = 0; life < lives; ++life) {
            Working working(file.rig, 10 * seed + life);
            sent += working.device.header();
            const uint64_t passes = 1 + (7 * seed + 31 * life) % 120;
            for (uint64_t i = 0; i < passes; ++i, ++rows)
                sent += working.pass() + (i == 50 ? "ok\n" + working.device.header() : "");
        }
        bench::TraceReader trace(folder.write("sent.csv", sent), bench::columns_of(file.rig),
                                 [&](uint64_t line, const std::string& text) {
                                     ADD_FAILURE() << seed << ", " << line << ": " << text;
                                 });
        const bench::Summary is = bench::replay(file.rig, trace, [](const bench::Event&) {}, {});
        EXPECT_EQ(is.rows, rows) << seed;
        EXPECT_EQ(is.begun_anew, lives - 1) << seed;
        EXPECT_EQ(is.device.passes, rows) << seed;
        EXPECT_EQ(is.device.different, 0U) << seed;
        bench::Watched watched(file.rig, {});
        watched.take(sent);
        EXPECT_FALSE(watched.companion().differs()) << seed;
    }
}

/// A line on which each byte is turned into another one with this chance.
class BadLine {
  public:
    explicit BadLine(double chance) : chance_(chance) {}
    std::string pass(std::string text) {
        for (char& c : text)
            if (std::uniform_real_distribution<>()(random_) < chance_)
                c = static_cast<char>(c ^ (1 + static_cast<int>(random_() % 255)));
        return text;
    }

  private:
    std::mt19937 random_{5};
    double chance_;
};

TEST(Companion, a_hundredth_of_all_bytes_damaged_makes_no_false_row_and_device_and_desk_agree) {
    const std::pair<const char*, const char*> traces[] = {
        {"aquarium_light", "day"}, {"bilge_pump", "rough_day"},
        {"fume_hood", "evening"},  {"pellet_feeder", "half_hour"},
        {"proofing_box", "dough"}, {"rain_barrel", "shower"},
        {"hen_house", ""}};
    const desk::Folder folder;
    uint64_t late = 0, all = 0;
    for (const auto& [name, trace] : traces) {
        const rig::RigFile file = example(name);
        const std::string path =
            *trace == 0 ? folder.write("winter.csv", tests::winter_trace(file.rig))
                        : fmt::format("{}/examples/{}/{}.csv", ZORILLA_SOURCE, name, trace);
        bench::TraceReader rows(path, bench::columns_of(file.rig),
                                [](uint64_t, const std::string&) {});
        bench::SendingDevice device(file.rig);
        BadLine line(0.01);
        std::vector<std::string> notices;
        bench::Watched watched(file.rig, {[&](const bench::Event& event) {
                                              if (event.who.empty())
                                                  notices.push_back(event.what);
                                          },
                                          [](const std::string&) {}});
        watched.take(device.header());
        uint64_t rows_sent = 0, apart = 0;
        while (rows.next() && rows_sent < 6000) {
            const std::string sent =
                device.pass(Instant(static_cast<uint32_t>(rows.milliseconds())),
                            {rows.raws(), rows.raws() + file.rig.senses.size()});
            const std::string came = ++rows_sent == 1 ? sent : line.pass(sent);
            const uint64_t taken = watched.companion().rows();
            watched.take(came);
            if (watched.companion().rows() == taken)
                continue;
            ASSERT_EQ(sent, came) << name; // no other row was taken
            bool agrees = true, open = true;
            for (size_t i = 0; i < file.rig.drives.size(); ++i)
                if (device.running().drivens()[i].value.bits() !=
                    watched.companion().running().drivens()[i].value.bits()) {
                    agrees = false;
                    open = open && watched.companion().is_open_drive(i);
                }
            apart = agrees ? 0 : apart + 1;
            late += apart > 2 ? 1 : 0;
            // A dead band may remember a lost row for long; then it is said to be open.
            EXPECT_TRUE(apart < 20 || open) << name;
        }
        // Every row that did not come is told of, once another has come; and so is each damaged
        // line.
        EXPECT_LE(watched.companion().rows() + watched.companion().missed(), rows_sent) << name;
        EXPECT_GE(watched.companion().rows() + watched.companion().missed() + 5, rows_sent) << name;
        EXPECT_GE(watched.receiver().damaged() * 10, watched.companion().missed() * 9) << name;
        EXPECT_GT(watched.companion().missed() * 5, rows_sent) << name;
        EXPECT_FALSE(watched.companion().differs()) << name << ": " << notices.back();
        all += watched.companion().rows();
    }
    // Where what was in a lost row still matters, it takes longer than two passes.
    EXPECT_LT(late * 200, all) << late << " of " << all;
}

TEST(Companion, another_rig_is_found_by_its_rows_and_another_constant_by_its_outputs) {
    const std::string text = rig::read_file(ZORILLA_SOURCE "/examples/heat_lamp/heat_lamp.toml");
    std::string changed = text;
    const size_t at = changed.find("below = \"4 degC\"");
    ASSERT_NE(at, std::string::npos);
    changed.replace(at, 16, "below = \"-9 degC\"");
    const rig::RigFile mine = rig::parse_rig(text), other = rig::parse_rig(changed);
    Working working(other.rig, 3);
    std::vector<std::string> told;
    bench::Watched watched(mine.rig,
                           {[&](const bench::Event& event) { told.push_back(event.what); },
                            [](const std::string&) {}});
    watched.take(working.device.header());
    for (int i = 0; i < 5; ++i)
        watched.take(working.pass());
    EXPECT_TRUE(watched.is_foreign());
    EXPECT_FALSE(watched.companion().any());
    ASSERT_EQ(told.size(), 1U);
    EXPECT_EQ(told.front().rfind("the device was made of another rig file", 0), 0U);

    // A program whose number is right, and whose constant is not: its rows are made to look so.
    bench::Watched fooled(mine.rig, {[&](const bench::Event& event) {
                                         if (event.who.empty())
                                             told.push_back(event.what);
                                     },
                                     [](const std::string&) {}});
    bench::SendingDevice same(mine.rig);
    Working warmer(other.rig, 3);
    fooled.take(same.header());
    const auto number = [](const std::string& header) {
        return *bench::check_number(header.substr(header.rfind(',') + 1, 16));
    };
    const uint16_t start = check_start(number(same.header()));
    for (int i = 0; i < 20'000 && told.size() < 2; ++i) {
        std::string row = warmer.pass();
        row.erase(row.rfind(','));
        uint16_t check = start;
        for (const char c : row)
            check = next_check(check, c);
        fooled.take(fmt::format("{},{:04x}\n", row, check));
    }
    ASSERT_EQ(told.size(), 2U);
    EXPECT_EQ(told.back(),
              "device and desk differ: heat_lamp is off on the device, and on by the rig "
              "file");
    EXPECT_TRUE(fooled.companion().differs());
}

TEST(Watched, what_takes_an_output_over_is_what_is_said_for_a_while) {
    std::string text = rig::read_file(ZORILLA_SOURCE "/data/live/box.toml");
    const auto change = [&text](const std::string& from, const std::string& to) {
        text.replace(text.find(from), from.size(), to);
    };
    // Its flap follows a setting now.
    change("[decide.vent]\nof = \"too_warm\"", "[decide.vent]\nof = \"rise_at\"");
    change("[[\"2 K\", \"0 %\"], [\"6 K\"", "[[\"22 degC\", \"0 %\"], [\"26 degC\"");
    const rig::RigFile file = rig::parse_rig(text);
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text << text;
    EXPECT_EQ(bench::said_about(file.rig, 0), std::vector<std::string>());
    EXPECT_EQ(bench::said_about(file.rig, 1), std::vector<std::string>{"open_flap"});
}

TEST(RowCheck, tells_what_it_began_with_and_finds_whatever_is_wrong_within_sixteen_bits) {
    std::mt19937 random(9);
    for (int i = 0; i < 20'000; ++i) {
        std::string row = fmt::format("{}.{:03},{},,{:010x}", random() % 100'000, random() % 1000,
                                      random() % 1024, random());
        const auto start = static_cast<uint16_t>(random());
        uint16_t check = start;
        for (const char c : row)
            check = next_check(check, c);
        std::string line = fmt::format("{},{:04x}", row, check);
        std::string_view found;
        ASSERT_TRUE(bench::take_check(line, start, found));
        ASSERT_EQ(found, row);
        ASSERT_EQ(bench::start_of_check(line), start);
        const size_t at = random() % (row.size() - 1);
        const auto wrong = static_cast<uint16_t>(1 + random() % 65'535);
        line[at] = static_cast<char>(line[at] ^ static_cast<char>(wrong >> 8));
        line[at + 1] = static_cast<char>(line[at + 1] ^ static_cast<char>(wrong));
        ASSERT_FALSE(bench::take_check(line, start, found)) << line;
    }
}

} // namespace
