// SPDX-License-Identifier: MIT
// What is kept of devices: nothing is lost, nothing is made up, whatever ends it.
#include "bench/history/compare.hpp"
#include "rig/rig_file.hpp"
#include "rig/text/files.hpp"
#include "tests/live/box.hpp"
#include "tests/winter.hpp"

#include <gtest/gtest.h>

#include <sys/syscall.h>
#include <unistd.h>

#include <cmath>
#include <filesystem>
#include <random>

namespace {
int synced = 0; ///< how often something was brought to the disk
} // namespace

// Here instead of the library's own, so that they can be counted.
extern "C" int fdatasync(int file) {
    ++synced;
    return static_cast<int>(syscall(SYS_fdatasync, file));
}
extern "C" int fsync(int file) {
    ++synced;
    return static_cast<int>(syscall(SYS_fsync, file));
}

namespace {

using namespace zorilla;
using bench::History;
using bench::HistoryWriter;
using bench::Utc;
using desk::has;
using desk::Outcome;
using live::box;

const std::string hen_house = ZORILLA_SOURCE "/examples/hen_house/hen_house.toml";
constexpr Utc day = 86'400'000;

TEST(History, of_three_days_says_what_a_run_says_and_gives_the_trace_back) {
    const desk::Folder folder;
    const rig::RigFile file = rig::parse_rig(rig::read_file(hen_house));
    const std::string trace = folder.write("winter.csv", tests::winter_trace(file.rig));
    const std::string db = folder / "h.db";
    const Outcome kept = desk::shell(fmt::format(
        "{} live {} - --began 2026-11-17 --history {} < {}", ZORILLA_TOOL, hen_house, db, trace));
    ASSERT_EQ(kept.status, 0) << kept.err;
    bench::TraceReader rows(trace, bench::columns_of(file.rig),
                            [](uint64_t, const std::string&) {});
    size_t events = 0;
    const bench::Summary run = bench::replay(
        file.rig, rows, [&](const bench::Event&) { ++events; }, nullptr);
    History history(db);
    const auto devices = history.devices();
    ASSERT_EQ(devices.size(), 1U);
    EXPECT_EQ(devices[0].rows, static_cast<int64_t>(run.rows));
    EXPECT_EQ(devices[0].events, static_cast<int64_t>(events));
    EXPECT_EQ(bench::utc_text(devices[0].last), "2026-11-19 23:59:55");
    const Utc from = *bench::utc_of("2026-11-17");
    const auto sums = [&](const std::string& part) {
        return history.sums(devices[0].id, part, from, from + 3 * day, 3 * day).front();
    };
    for (size_t i = 0; i < file.rig.drives.size(); ++i) {
        const bench::MinuteSums is = sums(file.rig.drives[i].name);
        EXPECT_EQ(std::llround(is.on()), run.drives[i].on_time) << file.rig.drives[i].name;
        EXPECT_EQ(static_cast<uint64_t>(is.switched), run.drives[i].times_on);
    }
    for (size_t i = 0; i < file.rig.sources.size(); ++i) {
        const bench::MinuteSums is = sums(file.rig.sources[i].name);
        EXPECT_EQ(is.known, run.end - run.begin - run.sources[i].unhealthy)
            << file.rig.sources[i].name;
        EXPECT_LE(is.least, is.most);
        EXPECT_GE(is.least, run.sources[i].lowest);
        EXPECT_LE(is.most, run.sources[i].highest);
    }
    // The trace comes back as it was, and draws.
    ASSERT_EQ(desk::zorilla("history " + db + " --csv " + folder / "out.csv").status, 0);
    const auto timeline = [&](const std::string& of) {
        const std::string out = desk::zorilla("run " + hen_house + " --trace " + of).out;
        return out.substr(out.find('\n'));
    };
    EXPECT_EQ(timeline(folder / "out.csv"), timeline(trace));
    EXPECT_EQ(desk::zorilla("history " + db + " --last '36 h' --figure " + folder / "w.svg").status,
              0);
    EXPECT_TRUE(has(desk::read_all(folder / "w.svg"), "Hen house from 2026-11-18 11:59:55 UTC on"));
    // Its promises are judged as a run judges them.
    const auto promises = [](const std::string& out) {
        const size_t at = out.find("  roost at least");
        return out.substr(at, out.find("\n", out.find("not lost(yard_light)", at)) - at);
    };
    const Outcome judged = desk::zorilla("history " + db + " --promises");
    EXPECT_EQ(judged.status, 0) << judged.err;
    EXPECT_EQ(promises(judged.out),
              promises(desk::zorilla("run " + hen_house + " --trace " + trace).out));
    EXPECT_TRUE(has(judged.out, "51,840 rows were judged.")) << judged.out;
    const Outcome tells = desk::zorilla("history " + db + " --from '2026-11-19' --to '2026-11-20'");
    EXPECT_TRUE(has(tells.out, "switched on 6 times")) << tells.out;
    EXPECT_TRUE(has(tells.out, "2026-11-19 15:55:15  water_valve on: ")) << tells.out;
}

TEST(History, is_whole_but_for_its_last_second_whenever_it_is_killed) {
    const live::Box at(1000);
    const desk::Folder& folder = at.folder;
    const std::string db = folder / "h.db";
    std::mt19937 random(11);
    const int kills = std::getenv("ZORILLA_DEEP") != nullptr ? 200 : 5;
    int64_t before = 0;
    for (int i = 0; i < kills; ++i) {
        desk::Background live(folder,
                              fmt::format("live {} {} --history {} --save {}", box, folder / "port",
                                          db, folder / fmt::format("{}.csv", i)),
                              "log");
        // Counted in naps: where a busy machine stands still, so does the one who keeps.
        const std::string saved = folder / fmt::format("{}.csv", i);
        std::vector<int64_t> came;
        for (size_t naps = 6 + random() % 44; came.size() < naps;) {
            std::this_thread::sleep_for(std::chrono::milliseconds(50));
            came.push_back(desk::lines_of(desk::read_all(saved)) - 1);
        }
        live.end(SIGKILL);
        // What had come more than a second before is kept.
        constexpr size_t second = 26;
        const int64_t least = came.size() > second ? came[came.size() - second - 1] : 0;
        History history(db);
        const auto devices = history.devices();
        ASSERT_EQ(devices.size(), 1U);
        const int64_t here = devices[0].rows - before;
        before = devices[0].rows;
        EXPECT_GE(here, least) << i;
        // Its rows follow one another without a gap.
        const auto stretches = history.stretches(devices[0].id, 0, INT64_MAX);
        if (here == 0)
            continue;
        int64_t last = -5000;
        history.rows(stretches.back().id, INT64_MAX, [&](int64_t clock, const std::string&) {
            EXPECT_EQ(clock, last + 5000) << i;
            last = clock;
        });
    }
    EXPECT_GT(before, 0);
}

TEST(History, refuses_a_second_writer_another_file_and_goes_on_watching_on_a_full_disk) {
    const desk::Folder folder;
    const std::string db = folder / "h.db";
    const rig::RigFile file = rig::parse_rig(rig::read_file(box));
    const std::string dough = ZORILLA_SOURCE "/examples/proofing_box/dough.csv";
    {
        HistoryWriter writer(std::make_shared<bench::HistoryFile>(db, day), file.rig,
                             rig::read_file(box));
        const Outcome second =
            desk::zorilla(fmt::format("live {} - --history {} < /dev/null", box, db));
        EXPECT_EQ(second.status, 2);
        EXPECT_TRUE(has(second.err, "another zorilla live writes it already")) << second.err;
        // The same file by another name is the same file.
        const std::string other = folder / "other.db";
        std::filesystem::create_hard_link(db, other);
        const Outcome third =
            desk::zorilla(fmt::format("live {} - --history {} < /dev/null", box, other));
        EXPECT_EQ(third.status, 2);
        EXPECT_TRUE(has(third.err, "another zorilla live writes it already")) << third.err;
    }
    const std::string text = folder.write("text.db", "no history at all, but a text\n");
    EXPECT_TRUE(has(desk::zorilla(fmt::format("live {} - --history {} < /dev/null", box, text)).err,
                    "text.db: "));
    EXPECT_EQ(desk::read_all(text), "no history at all, but a text\n");
    EXPECT_TRUE(has(desk::zorilla("history " + text).err, "is no history"));
    EXPECT_TRUE(has(desk::zorilla("history " + folder / "none.db").err, "is not there"));
    // A disk that is full: files may not grow beyond 512 kB.
    std::string rows = "time (s),air (code)\n";
    for (int i = 0; i < 40'000; ++i)
        rows += fmt::format("{},{}\n", i, 500 + i % 7);
    const std::string sent = folder.write("rows.csv", rows);
    const Outcome full =
        desk::shell(fmt::format("ulimit -f 1000; {} live {} - --began 2026-11-01 --history {} < {}",
                                ZORILLA_TOOL, box, folder / "full.db", sent));
    EXPECT_EQ(full.status, 0) << full.err;
    EXPECT_TRUE(has(full.err, "the history is kept no longer")) << full.err;
    EXPECT_TRUE(has(full.out, "40,000 rows came")) << full.out;
}

TEST(History, maps_a_clock_that_drifts_keeps_rows_for_a_while_and_minutes_for_ever) {
    const desk::Folder folder;
    const std::string db = folder / "h.db";
    const rig::RigFile file = rig::parse_rig(rig::read_file(box));
    const Utc begin = *bench::utc_of("2026-03-01 12:00:00");
    constexpr double fast = 1.003; // a poor resonator
    {
        HistoryWriter writer(std::make_shared<bench::HistoryFile>(db, 2 * day), file.rig,
                             rig::read_file(box));
        writer.begin(begin, 0, true);
        for (int64_t clock = 0; clock < 5 * day; clock += 30'000) {
            const Utc now = begin + std::llround(static_cast<double>(clock) / fast);
            writer.row(now, clock, "500,,0,0,0");
            for (size_t part = 0; part < 6; ++part)
                writer.passed(now, part, {true, static_cast<int64_t>(clock / 1000), part > 3});
            writer.done();
        }
    }
    History history(db);
    const auto device = history.devices().front();
    const auto stretches = history.stretches(device.id, 0, INT64_MAX);
    ASSERT_EQ(stretches.size(), 1U);
    for (int64_t clock = stretches[0].first; clock < stretches[0].last; clock += 7'654'321)
        EXPECT_NEAR(static_cast<double>(history.clock_of(stretches[0].id).at(clock) - begin),
                    static_cast<double>(clock) / fast, 1000.0);
    // Two of five days, within the hour in which it is looked at.
    EXPECT_NEAR(
        static_cast<double>(device.last - history.clock_of(stretches[0].id).at(stretches[0].first)),
        static_cast<double>(2 * day), 3'700'000.0);
    const auto air = history.sums(device.id, "air", begin, begin + 6 * day, 6 * day).front();
    EXPECT_NEAR(static_cast<double>(air.known), 5 * day / fast, 60'000.0);
    EXPECT_EQ(air.least, 0);
}

TEST(History, is_on_the_disk_with_each_commit_so_that_a_power_cut_takes_a_second) {
    const desk::Folder folder;
    const rig::RigFile file = rig::parse_rig(rig::read_file(box));
    HistoryWriter writer(std::make_shared<bench::HistoryFile>(folder / "h.db", day), file.rig, "");
    writer.begin(day, 0, true);
    for (int64_t clock = 0; clock < 30'000; clock += 1000) {
        writer.row(day + clock, clock, "500,,0,0,0");
        const int before = synced;
        writer.commit();
        EXPECT_GT(synced, before) << clock;
    }
}

TEST(History, holds_times_right_where_the_clock_of_the_desk_is_set) {
    for (const int64_t set : {-day, day, -30'000L, 30'000L}) {
        const desk::Folder folder;
        const std::string db = folder / "h.db";
        const rig::RigFile file = rig::parse_rig(rig::read_file(box));
        const Utc begin = *bench::utc_of("2026-03-01 12:00:00");
        {
            HistoryWriter writer(std::make_shared<bench::HistoryFile>(db, 9 * day), file.rig, "");
            writer.begin(begin, 0, true);
            for (int64_t clock = 0; clock < 7'200'000; clock += 5000)
                writer.row(begin + clock + (clock > 3'600'000 ? set : 0), clock, "500,,0,0,0");
        }
        History history(db);
        const auto stretch = history.stretches(history.devices().front().id, 0, INT64_MAX).front();
        const bench::ClockMap map = history.clock_of(stretch.id);
        for (int64_t clock = 0; clock < 7'200'000; clock += 5000)
            ASSERT_NEAR(static_cast<double>(map.at(clock) - begin - clock),
                        static_cast<double>(clock > 3'600'000 ? set : 0), 1000)
                << set << " " << clock;
    }
}

TEST(History, judges_each_row_of_a_rig_with_never_alone_whatever_the_clock_was_set_to) {
    const desk::Folder folder;
    const std::string rig = folder.write("rig.toml", R"([rig]
never = ["lamp and not dark"]
[sense.light]
part = "percent"
pin = "ADC0"
code_at_0 = 60
code_at_100 = 960
[decide.dark]
of = "light"
below = "30 %"
release = "40 %"
[drive.lamp]
part = "relay"
pin = "PD2"
active = "high"
safe = "off"
claims = [ { when = "dark", then = "on" } ]
)");
    const rig::RigFile file = rig::parse_rig(rig::read_file(rig));
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    const std::string db = folder / "h.db";
    {
        HistoryWriter writer(std::make_shared<bench::HistoryFile>(db, 9 * day), file.rig,
                             rig::read_file(rig));
        const Outcome none = desk::zorilla("history " + db);
        EXPECT_TRUE(has(none.out, "nothing of it has come yet")) << none.out << none.err;
        EXPECT_FALSE(has(none.out, "1970")) << none.out;
        writer.begin(10 * day, 0, true);
        for (int64_t clock = 0; clock < 600'000; clock += 1000)
            writer.row((clock > 300'000 ? 9 : 10) * day + clock, clock,
                       clock % 2000 == 0 ? "100,1" : "900,0");
    }
    const Outcome judged = desk::zorilla("history " + db + " --from 1970-01-09 --promises");
    EXPECT_EQ(judged.status, 0) << judged.out << judged.err;
    EXPECT_TRUE(has(judged.out, "600 rows were judged")) << judged.out;
    EXPECT_TRUE(has(judged.out, "never lamp and not dark")) << judged.out;
}

TEST(History, compares_days_with_the_error_of_so_few) {
    const desk::Folder folder;
    const rig::RigFile file = rig::parse_rig(rig::read_file(box));
    std::mt19937 random(4);
    std::normal_distribution<> noise;
    int held = 0;
    constexpr int times = 30;
    for (int n = 0; n < times; ++n) {
        const std::string db = folder / fmt::format("{}.db", n);
        const Utc begin = *bench::utc_of("2026-05-01");
        {
            HistoryWriter writer(std::make_shared<bench::HistoryFile>(db, 1000 * day), file.rig,
                                 "");
            writer.begin(begin, 0, true);
            double of_day = 0;
            for (int64_t hour = 0; hour <= 24 * 9; ++hour) {
                if (hour % 24 == 0) // five days, then four that are two degrees warmer
                    of_day = noise(random) * 700 + 20'000 + (hour >= 5 * 24 ? 2000 : 0);
                for (int part = 0; part < 10; ++part)
                    writer.passed(begin + hour * 3'600'000 + part * 360'000, 0,
                                  {true, std::llround(of_day), false});
            }
        }
        History history(db);
        const auto device = history.devices().front();
        const auto spans = [&](const char* text) {
            return bench::history_span(text, begin, begin + 9 * day - 1);
        };
        const auto is = bench::compare(history, device.id, {"air", bench::DailyOf::mean},
                                       spans("before 2026-05-06"), spans("after 2026-05-06"));
        ASSERT_EQ(is.a.days, 5U);
        ASSERT_EQ(is.b.days, 4U);
        held += std::abs(is.by - 2) <= is.error ? 1 : 0;
    }
    // At 95 %: of 30, seldom fewer than 25.
    EXPECT_GE(held, 25);
    EXPECT_LE(held, times);
    for (const char* text : {"2026-13-01", "before noon", "2026-02-30", "2026-01-02 to 2026-01-01"})
        EXPECT_THROW(bench::history_span(text, 0, day), rig::InputError) << text;
}

TEST(History, hours_outside_of_a_wish_are_those_of_its_minutes) {
    const desk::Folder folder;
    const rig::RigFile file = rig::parse_rig(rig::read_file(box));
    const Utc begin = *bench::utc_of("2026-05-01");
    std::mt19937 random(9);
    double minutes_outside = 0;
    {
        HistoryWriter writer(std::make_shared<bench::HistoryFile>(folder / "db", 1000 * day),
                             file.rig, "");
        writer.begin(begin, 0, true);
        for (int64_t minute = 0; minute <= 24 * 60; ++minute) {
            const int32_t value = static_cast<int32_t>(random() % 5) * 1000;
            minutes_outside += minute < 24 * 60 && (value < 1000 || value > 3000) ? 1 : 0;
            writer.passed(begin + minute * 60'000, 0, {true, value, false});
        }
    }
    History history(folder / "db");
    const bench::HistorySpan span = bench::history_span("2026-05-01", begin, begin + day);
    const auto is = bench::compare(history, history.devices().front().id,
                                   {"air", bench::DailyOf::outside_hours, 1000, 3000}, span, span);
    EXPECT_NEAR(is.a.mean, minutes_outside / 60, 1e-9);
    EXPECT_EQ(is.by, 0);
}

} // namespace
