// SPDX-License-Identifier: MIT
// What raw readings look like: noise, drift, two values or many, and where a threshold belongs.
#include "bench/replay.hpp"
#include "bench/survey/survey.hpp"
#include "rig/rig_file.hpp"
#include "rig/run/running_rig.hpp"
#include "rig/sense/forward.hpp"
#include "tests/desk/process.hpp"
#include "tests/desk/random_samples.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <map>
#include <random>

namespace {

using namespace zorilla;
using bench::ColumnSurvey;
using bench::Nature;
using desk::has;
using rig::Noise;

/// A file of codes, ten a second, condition by condition.
class Samples {
  public:
    template <class Value> Samples& add(const std::string& condition, int count, Value value) {
        for (int i = 0; i < count; ++i) {
            text_ += fmt::format("{:.1f},{},{}\n", time_, value(i), condition);
            time_ += 0.1;
        }
        return *this;
    }
    Samples& normal(const std::string& condition, int count, double middle, double deviation,
                    double drift = 0) {
        return add(condition, count, [&](int i) {
            return std::lround(
                std::clamp(middle + drift * i / count + deviation * noise_.normal(), 0.0, 1023.0));
        });
    }
    ColumnSurvey survey() const {
        const std::string path = folder_.write("x.csv", text_);
        return bench::survey_file(path, 0,
                                  [](uint64_t, const std::string& text) { ADD_FAILURE() << text; })
            .columns.at(0);
    }
    desk::Outcome tool(const std::string& options = "") const {
        return desk::zorilla(fmt::format("survey '{}' {}", folder_.write("x.csv", text_), options));
    }
    const desk::Folder& folder() const { return folder_; }

  private:
    desk::Folder folder_;
    std::string text_ = "time (s),x (code),condition\n";
    double time_ = 0;
    Noise noise_{77};
};

TEST(Survey, noise_and_spread_are_those_of_the_data_and_drift_is_no_noise) {
    for (const double deviation : {0.8, 2.0, 7.0})
        for (const double drift : {0.0, 60.0, -60.0}) {
            const ColumnSurvey column = Samples().normal("a", 6000, 500, deviation, drift).survey();
            const bench::ConditionSurvey& a = column.conditions.at(0);
            // Rounding to whole codes adds its own 0.29.
            const double expected = std::hypot(deviation, 0.289);
            EXPECT_NEAR(a.noise, expected, 0.08 * expected) << deviation << " " << drift;
            EXPECT_EQ(a.drifts(), drift != 0) << deviation;
            EXPECT_NEAR(*a.drift_per_minute, drift / 10, 0.3 * deviation);
            if (drift == 0) {
                EXPECT_NEAR(a.spread, expected, 0.08 * expected);
            }
            EXPECT_NEAR(a.median(), 500 + drift / 2, 0.2 + std::fabs(drift) * 0.01);
        }
}

TEST(Survey, one_wild_sample_in_a_hundred_moves_neither_noise_nor_median) {
    const ColumnSurvey column = Samples()
                                    .normal("a", 2000, 500, 1.5)
                                    .add("a", 20, [](int i) { return i % 2 == 0 ? 1023 : 0; })
                                    .survey();
    EXPECT_NEAR(column.conditions[0].noise, std::hypot(1.5, 0.289), 0.15);
    EXPECT_NEAR(column.conditions[0].median(), 500, 0.3);
}

TEST(Survey, two_values_or_many) {
    struct Case {
        const char* what;
        Samples samples;
        Nature::Kind kind;
        bool sure;
    };
    Case cases[5] = {
        {"a contact that toggles", {}, Nature::Kind::two_valued, true},
        {"two levels in two conditions", {}, Nature::Kind::two_valued, false},
        {"a slow change", {}, Nature::Kind::continuous, true},
        {"two tight conditions inside", {}, Nature::Kind::continuous, false},
        {"always the same", {}, Nature::Kind::unknown, false},
    };
    cases[0].samples.add("a", 400, [](int i) { return i / 50 % 2 == 0 ? 3 : 1021; });
    cases[1].samples.normal("off", 200, 2, 0.5).normal("on", 200, 1020, 0.5);
    cases[2].samples.add("a", 400, [](int i) { return 200 + i; });
    cases[3].samples.normal("a", 200, 300, 1).normal("b", 200, 600, 1);
    cases[4].samples.add("a", 200, [](int) { return 512; });
    for (Case& c : cases) {
        const Nature nature = c.samples.survey().nature;
        EXPECT_EQ(nature.kind, c.kind) << c.what << ": " << nature.reason;
        EXPECT_EQ(nature.sure, c.sure) << c.what << ": " << nature.reason;
    }
}

/// How many samples a threshold without hysteresis misjudges, in equal weights of both conditions.
double cost(const bench::ConditionSurvey& low, const bench::ConditionSurvey& high, double at) {
    return static_cast<double>(low.values.above(at)) / static_cast<double>(low.count()) +
           static_cast<double>(high.values.below(at)) / static_cast<double>(high.count());
}

TEST(Survey, no_other_threshold_misjudges_fewer) {
    Noise random(5);
    for (int i = 0; i < 40; ++i) {
        const double gap = 1 + 60 * random.even();
        const ColumnSurvey column = Samples()
                                        .normal("a", 500, 400, 0.5 + 12 * random.even())
                                        .normal("b", 700, 400 + gap, 0.5 + 12 * random.even())
                                        .survey();
        const bench::Separation& part = column.separations.at(0);
        const auto& low = column.conditions[part.low];
        const auto& high = column.conditions[part.high];
        double best = 2;
        for (double at = low.median() - 0.5; at <= high.median() + 0.5; at += 0.5)
            best = std::min(best, cost(low, high, std::floor(at) + 0.5));
        // The centre is moved by at most a count, so that both points are whole codes.
        const double here =
            std::min({cost(low, high, part.centre), cost(low, high, part.centre - 1),
                      cost(low, high, part.centre + 1)});
        EXPECT_LE(here, best + 0.01) << gap;
        EXPECT_EQ(part.judged, 1200u);
        EXPECT_GE(part.share_at_most(),
                  static_cast<double>(part.misjudged) / static_cast<double>(part.judged));
    }
}

TEST(Survey, hysteresis_keeps_a_hovering_value_from_chattering) {
    for (const double deviation : {1.0, 3.0, 6.0}) {
        const ColumnSurvey column =
            Samples().normal("a", 2000, 300, deviation).normal("b", 2000, 700, deviation).survey();
        const bench::Separation& part = column.separations.at(0);
        EXPECT_LT(part.switchings, 1) << "a day";
        EXPECT_TRUE(part.fits);
        // A day of ten samples a second right at the centre.
        Noise noise(9);
        int switchings = 0, without = 0;
        bool yes = false, bare = false;
        for (int i = 0; i < 864'000; ++i) {
            const double value = part.centre + deviation * noise.normal();
            if (yes ? value < part.release : value > part.threshold) {
                yes = !yes;
                ++switchings;
            }
            if (bare != (value > part.centre)) {
                bare = !bare;
                ++without;
            }
        }
        EXPECT_LE(switchings, 4) << deviation;
        EXPECT_NEAR(without, part.switchings_without, 0.02 * part.switchings_without);
    }
}

TEST(Survey, tool_tells_nonsense_and_what_to_do) {
    struct Case {
        const char* what;
        std::string text;
        int status;
        const char* told;
    };
    const std::string head = "time (s),x (code),condition\n";
    const auto rows = [](const std::string& condition, int value, int count, double from) {
        std::string out;
        for (int i = 0; i < count; ++i)
            out += fmt::format("{:.1f},{},{}\n", from + i / 10.0, value + i % 2, condition);
        return out;
    };
    const std::string still = [] {
        std::string out;
        for (int i = 0; i < 40; ++i)
            out += fmt::format("{},512,{}\n", i, i < 20 ? "a" : "b");
        return out;
    }();
    const Case cases[] = {
        {"one condition", head + rows("a", 400, 30, 0), 1, "only one condition"},
        {"stuck", head + still, 1, "the sensor is stuck, or is not connected"},
        {"squeezed", head + rows("a", 400, 30, 0) + rows("b", 440, 30, 10), 1,
         "another resistor spreads it wider"},
        {"at the end", head + rows("a", 400, 30, 0) + rows("b", 1022, 30, 10), 1,
         "are at an end of the converter (1023)"},
        {"near the end", head + rows("a", 0, 30, 0) + rows("b", 6, 30, 10), 1,
         "within the noise of an end"},
        {"no difference", head + rows("a", 400, 30, 0) + rows("b", 400, 30, 10), 1,
         "cannot be told apart"},
        {"uneven", head + rows("a", 400, 30, 0) + rows("a", 400, 30, 10) + rows("b", 700, 30, 20),
         0, "samples are not even: 1 of 88 steps is longer"},
        {"not a number", head + "0,abc,a\n" + rows("a", 400, 30, 0), 1,
         "x.csv:2: \"abc\" is not a number"},
        {"no code", head + "0,70000,a\n" + rows("a", 400, 30, 0), 1,
         "x.csv:2: 70000 is not a code of a converter"},
        {"no header", "1,2\n3,4\n", 2, "the first line must be a header"},
        {"no rows", head, 2, "there is no row after the header"},
        {"empty", "", 2, "the file is empty"},
        {"time without unit", "time,x (code)\n1,2\n", 2, "write for example \"time (s)\""},
        {"only times", "time (s)\n1\n", 2, "no column holds numbers"},
        {"too many conditions",
         head +
             [] {
                 std::string out;
                 for (int i = 0; i < 80; ++i)
                     out += fmt::format("{},500,c{}\n", i, i);
                 return out;
             }(),
         2, "is condition number 65"},
    };
    for (const Case& c : cases) {
        const desk::Folder folder;
        const desk::Outcome out = desk::zorilla("survey '" + folder.write("x.csv", c.text) + "'");
        EXPECT_EQ(out.status, c.status) << c.what << "\n" << out.out << out.err;
        EXPECT_TRUE(has(out.err, c.told)) << c.what << "\n" << out.err;
    }
    const desk::Folder folder;
    const std::string wide = folder.write("x.csv", head + rows("a", 2000, 30, 0));
    EXPECT_TRUE(has(desk::zorilla("survey '" + wide + "'").out, "codes of a 12-bit converter"));
    const desk::Outcome narrow = desk::zorilla("survey --bits 10 '" + wide + "'");
    EXPECT_EQ(narrow.status, 2);
    EXPECT_TRUE(has(narrow.err, "say --bits 11")) << narrow.err;
}

TEST(Survey, fragment_is_a_rig_that_judges_as_surveyed) {
    Samples samples;
    samples.normal("lamp off", 300, 200, 2).normal("Lamp on!", 300, 640, 2);
    const ColumnSurvey column = samples.survey();
    const desk::Outcome fragment = samples.tool("--rig");
    ASSERT_EQ(fragment.status, 0) << fragment.err;
    const rig::RigFile rig = rig::parse_rig(fragment.out);
    ASSERT_TRUE(rig.mistakes.empty()) << rig.mistakes.front().text << "\n" << fragment.out;
    ASSERT_EQ(rig.rig.decides.size(), 1u);
    EXPECT_EQ(rig.rig.decides[0].name, "lamp_on");
    // Its points are at the codes that were surveyed.
    const rig::CodeScale& scale = rig::codes_of(rig.rig.senses.at(0));
    const rig::DecidePoint point = rig::points_of(rig.rig.decides[0]).at(0);
    EXPECT_NEAR(scale.code_at(point.at), column.separations[0].threshold, 1);
    EXPECT_NEAR(scale.code_at(point.release), column.separations[0].release, 1);

    Samples contact;
    contact.normal("open", 100, 3, 0.5).normal("closed", 100, 1020, 0.5);
    EXPECT_TRUE(has(contact.tool("--rig").out, "of two values, a digital pin may do too"));
}

TEST(Survey, conditions_are_told_apart_however_alike_their_names_are) {
    std::mt19937 random(5);
    const std::string all = "the door of the hen house stands open";
    std::map<std::string, uint64_t> counts;
    Samples samples;
    for (int stretch = 0; stretch < 300; ++stretch) {
        std::string name = all.substr(0, 1 + random() % 20);
        while (name.back() == ' ')
            name.pop_back();
        if (random() % 4 == 0)
            name[random() % name.size()] = 'x';
        if (name.front() == ' ' || (counts.count(name) == 0 && counts.size() >= 60))
            continue;
        const int count = 1 + static_cast<int>(random() % 5);
        samples.add(name, count, [](int i) { return 500 + i; });
        counts[name] += static_cast<uint64_t>(count);
    }
    std::map<std::string, uint64_t> found;
    for (const bench::ConditionSurvey& condition : samples.survey().conditions)
        found[condition.name] = condition.count();
    EXPECT_EQ(found, counts);
}

TEST(Survey, decimals_and_huge_numbers_keep_their_worth_in_bounded_memory) {
    bench::Histogram fine;
    for (int i = 0; i <= 1000; ++i)
        fine.add(20 + i * 0.01);
    EXPECT_NEAR(fine.median(), 25, 0.006);
    EXPECT_NEAR(fine.width(), 0.01, 1e-12);
    EXPECT_EQ(fine.above(29.995), 1u);
    bench::Histogram wide;
    for (int i = 0; i < 1000; ++i)
        wide.add(i * 1e6);
    EXPECT_EQ(wide.count(), 1000u);
    EXPECT_NEAR(wide.median(), 499.5e6, 2e6);
    EXPECT_NEAR(wide.highest(), 999e6, 1e5);
}

TEST(Survey, figure_is_drawn_in_both_formats_and_overwrites_no_samples) {
    Samples samples;
    samples.normal("a", 100, 300, 2).normal("b", 100, 700, 2);
    for (const char* name : {"x.png", "x.svg"}) {
        EXPECT_EQ(samples.tool(fmt::format("--figure '{}'", samples.folder() / name)).status, 0);
        EXPECT_GT(std::filesystem::file_size(samples.folder() / name), 5000u);
    }
    EXPECT_TRUE(has(desk::read_all(samples.folder() / "x.svg"), "code of the 10-bit converter"));
    EXPECT_EQ(samples.tool(fmt::format("--figure '{}'", samples.folder() / "x.csv")).status, 2);
    EXPECT_EQ(samples.tool(fmt::format("--figure '{}'", samples.folder() / "x.jpg")).status, 2);
}

TEST(Survey, what_it_promises_is_what_the_rig_does_with_the_very_samples) {
    const desk::Folder folder;
    std::mt19937 random(5);
    int fragments = 0, refused = 0;
    for (int i = 0; i < 300; ++i) {
        // A long file is judged in two halves at once.
        const std::string samples = desk::random_samples(random, i % 15 == 0 ? 60 : 1);
        const std::string path = folder.write("s.csv", samples);
        const bench::SurveyResult survey =
            bench::survey_file(path, 0, [](uint64_t, const std::string&) {});
        const std::string fragment = bench::rig_fragment(survey, path);
        if (fragment.empty()) {
            ++refused;
            continue;
        }
        ++fragments;
        const rig::RigFile file = rig::parse_rig(fragment);
        ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text << "\n" << fragment;
        bench::TraceReader trace(path, bench::columns_of(file.rig),
                                 [](uint64_t, const std::string&) {});
        rig::RunningRig running(file.rig);
        std::vector<uint64_t> switched(file.rig.decides.size());
        std::vector<uint64_t> misjudged(switched);
        std::vector<Truth> before(file.rig.decides.size(), Truth::no);
        const auto& separations = survey.columns[0].separations;
        ASSERT_EQ(switched.size(), separations.size());
        for (size_t line = samples.find('\n') + 1; trace.next();
             line = samples.find('\n', line) + 1) {
            const size_t end = samples.find('\n', line), comma = samples.rfind(',', end);
            const std::string condition = samples.substr(comma + 1, end - comma - 1);
            running.pass(Instant(static_cast<uint32_t>(trace.milliseconds())), trace.raws());
            for (size_t d = 0; d < switched.size(); ++d) {
                const Truth is = running.truths()[file.rig.decides[d].fact];
                if (is == Truth::unknown)
                    continue;
                switched[d] += is == Truth::yes && before[d] != Truth::yes;
                before[d] = is;
                const bench::Separation& part = separations[d];
                misjudged[d] +=
                    condition ==
                    survey.columns[0].conditions[is == Truth::yes ? part.low : part.high].name;
            }
        }
        for (size_t d = 0; d < switched.size(); ++d) {
            EXPECT_EQ(switched[d], separations[d].switched) << fragment;
            EXPECT_EQ(misjudged[d], separations[d].misjudged) << fragment;
            EXPECT_LE(separations[d].misjudged * 20, separations[d].judged);
        }
    }
    EXPECT_GT(fragments, 60);
    EXPECT_GT(refused, 60);
}

TEST(Survey, says_what_cannot_be_parted_and_gives_no_fragment) {
    const desk::Folder folder;
    std::string samples = "time (s),light (code),condition\n";
    for (int i = 0; i < 200; ++i)
        samples += fmt::format("{},{},{}\n", i, 600 + i * 7 % 31, i < 100 ? "day" : "night");
    const std::string path = folder.write("same.csv", samples);
    const desk::Outcome told = desk::zorilla("survey '" + path + "'");
    EXPECT_EQ(told.status, 1);
    EXPECT_TRUE(desk::has(told.out, "they cannot be told apart")) << told.out;
    const desk::Outcome fragment = desk::zorilla("survey '" + path + "' --rig");
    EXPECT_EQ(fragment.status, 1);
    EXPECT_TRUE(desk::has(fragment.out, "No fragment:")) << fragment.out;
    // At both ends of the converter nobody knows what lies between.
    std::string ends = "time (s),door (code),condition\n";
    for (int i = 0; i < 200; ++i)
        ends +=
            fmt::format("{},{},{}\n", i, i < 100 ? i % 3 : 1021 + i % 3, i < 100 ? "shut" : "open");
    const desk::Outcome two = desk::zorilla("survey '" + folder.write("ends.csv", ends) + "'");
    EXPECT_TRUE(desk::has(two.out, "two values, probably")) << two.out;
    EXPECT_TRUE(desk::has(two.out, "looks the same: move it slowly")) << two.out;
    EXPECT_FALSE(desk::has(two.err, "zorilla size divider")) << two.err;
}

} // namespace
