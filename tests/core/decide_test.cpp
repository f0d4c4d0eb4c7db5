// SPDX-License-Identifier: MIT
// Decisions, each against the plainest way to say the same.
#include <zorilla/zorilla.hpp>

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>
#include <set>
#include <vector>

namespace {

using namespace zorilla;

Reading<Temperature> degrees(int32_t thousandths) {
    return Reading<Temperature>::of(Temperature::from_thousandths(thousandths));
}
const Reading<Temperature> broken = Reading<Temperature>::without_value(Health::open_circuit);

/// A value that wanders, now and then jumps, and now and then is not there.
class Wander {
  public:
    Wander(int32_t low, int32_t high) : low_(low), high_(high), value_(low) {}
    Reading<Temperature> next() {
        if (random_() % 40 == 0)
            return broken;
        const auto in = [this](int32_t a, int32_t b) {
            return std::uniform_int_distribution<int32_t>(a, b)(random_);
        };
        value_ =
            random_() % 30 == 0 ? in(low_, high_) : std::clamp(value_ + in(-700, 700), low_, high_);
        return degrees(value_);
    }
    int32_t value() const { return value_; }

  private:
    std::mt19937 random_{11};
    int32_t low_, high_, value_;
};

constexpr auto comfort = inside(18_degC, 24_degC).release(17_degC, 25_degC);
constexpr auto odd = outside(18_degC, 24_degC).release(19_degC, 23_degC);

TEST(Window, is_yes_in_its_range_and_lets_go_only_at_its_release_points) {
    Window<comfort> in;
    Window<odd> out;
    Wander air(12'000, 30'000);
    bool in_holds = false, out_holds = false;
    int changes = 0;
    for (int i = 0; i < 50'000; ++i) {
        const auto reading = air.next();
        const Truth is_in = in.decide(reading), is_out = out.decide(reading);
        if (!reading.ok()) {
            EXPECT_EQ(is_in, Truth::unknown);
            continue;
        }
        const double t = air.value() / 1000.0;
        const bool before = in_holds;
        in_holds = in_holds ? t > 17 && t < 25 : t >= 18 && t <= 24;
        out_holds = out_holds ? t < 19 || t > 23 : t < 18 || t > 24;
        ASSERT_EQ(is_in, truth_of(in_holds)) << t;
        ASSERT_EQ(is_out, truth_of(out_holds)) << t;
        changes += before != in_holds;
    }
    EXPECT_GT(changes, 200);
}

constexpr auto slow = lasting(5_s, 12_s);

TEST(Lasting, counts_what_was_known_and_the_same_for_the_whole_time_also_across_the_wrap) {
    std::mt19937 random(3);
    Lasting<slow> lasting_truth;
    bool holds = false;
    int64_t since = -1; // when the other value began, without a gap
    int64_t time = 0;
    int changes = 0;
    Truth truth = Truth::no;
    for (int i = 0; i < 50'000; ++i) {
        time += random() % 1500;
        if (random() % 5 == 0)
            truth = random() % 15 == 0 ? Truth::unknown : truth_of(random() % 2 == 0);
        const Truth told =
            lasting_truth.pass(Instant(static_cast<uint32_t>(time + 0xffff0000)), truth);
        if (truth == Truth::unknown || truth == truth_of(holds))
            since = -1;
        else if (since < 0)
            since = time;
        if (since >= 0 && time - since >= (holds ? 12'000 : 5'000)) {
            holds = !holds;
            since = -1;
            ++changes;
        }
        ASSERT_EQ(told, truth == Truth::unknown ? Truth::unknown : truth_of(holds)) << i;
    }
    EXPECT_GT(changes, 200);
}

constexpr auto fans = rising(30_degC, 35_degC).release(27_degC);
constexpr auto bar =
    rising(16_degC, 20_degC, 24_degC, 28_degC).release(15_degC, 15_degC, 23.5_degC, 26_degC);
constexpr auto frost = falling(24_degC, 18_degC, 16_degC).release(26_degC, 25_degC, 17_degC);

template <const auto& Spec> void stage_by_stage() {
    Ladder<Spec> ladder;
    Wander air(12'000, 40'000);
    int stage = 0;
    std::vector<int> seen(Spec.count + 1);
    for (int i = 0; i < 50'000; ++i) {
        const auto reading = air.next();
        const Reading<Stage> told = ladder.decide(reading);
        if (!reading.ok()) {
            ASSERT_EQ(told.health(), Health::open_circuit);
            ASSERT_EQ(at_least(told, 1), Truth::unknown);
            continue;
        }
        const auto value = reading.value_or(Temperature());
        // One rung at a time, as somebody climbs.
        while (stage < Spec.count && Spec.stage(static_cast<uint8_t>(stage)).reached_by(value))
            ++stage;
        while (stage > 0 && Spec.stage(static_cast<uint8_t>(stage - 1)).released_by(value))
            --stage;
        ASSERT_EQ(told.value_or(Stage()).number(), stage) << air.value();
        for (uint8_t n = 0; n <= Spec.count; ++n)
            ASSERT_EQ(at_least(told, n), truth_of(stage >= n));
        ++seen[static_cast<size_t>(stage)];
    }
    for (const int times : seen)
        EXPECT_GT(times, 50);
}

TEST(Ladder, climbs_and_descends_as_one_goes_rung_by_rung) {
    stage_by_stage<fans>();
    stage_by_stage<bar>();
    stage_by_stage<frost>();
}

TEST(Duty, is_the_nearest_255th_and_back_in_percent) {
    for (int32_t t = 0; t <= 100'000; t += 7) {
        const Duty duty = Percentage::from_thousandths(t);
        ASSERT_EQ(duty.of_255(), std::lround(t * 255 / 100'000.0)) << t;
        ASSERT_LE(std::abs(duty.share().thousandths() - t), 197);
    }
    static_assert(Duty(100_percent).of_255() == 255 && Duty(0_percent) == Duty());
    EXPECT_EQ(Duty(Percentage::from_thousandths(-5)).of_255(), 0);
    EXPECT_EQ(Duty(Percentage::from_thousandths(100'001)).of_255(), 255);
}

constexpr auto plain = curve(point(14_degC, 10_percent), point(20_degC, 90_percent),
                             point(32_degC, 30_percent), point(33_degC, 100_percent));
constexpr auto wide = curve(point(-200_degC, 0_percent),
                            point(Temperature::from_thousandths(2'000'000'000), 100_percent));
constexpr auto breeze = curve(point(20_degC, 0_percent), point(40_degC, 100_percent))
                            .floor(20_percent)
                            .dead_band(3_percent);

TEST(Curve, lies_on_the_straight_lines_to_half_a_255th) {
    Curve<plain> lines;
    for (int32_t t = 10'000; t <= 36'000; t += 3) {
        const double c = t / 1000.0;
        const double percent = c < 14   ? 10
                               : c < 20 ? 10 + (c - 14) / 6 * 80
                               : c < 32 ? 90 - (c - 20) / 12 * 60
                               : c < 33 ? 30 + (c - 32) * 70
                                        : 100;
        const double told = lines.decide(degrees(t)).value_or(Duty()).of_255();
        ASSERT_NEAR(told, percent * 2.55, 1.01) << c; // both ends of a line are rounded, too
    }
    Curve<wide> far;
    for (int64_t t = -200'000; t <= 2'000'000'000; t += 7'777'777)
        ASSERT_NEAR(far.decide(degrees(static_cast<int32_t>(t))).value_or(Duty()).of_255(),
                    255.0 * static_cast<double>(t + 200'000) / 2'000'200'000.0, 0.51);
    EXPECT_EQ(lines.decide(broken).health(), Health::open_circuit);
}

TEST(Curve, never_hunts_never_stalls_and_follows) {
    Curve<breeze> speed;
    Wander air(15'000, 45'000);
    int before = -1;
    for (int i = 0; i < 50'000; ++i) {
        const auto reading = air.next();
        const auto told = speed.decide(reading);
        if (!reading.ok()) {
            before = -1;
            continue;
        }
        const int duty = told.value_or(Duty()).of_255();
        const double exact = std::clamp((air.value() - 20'000) / 20'000.0, 0.0, 1.0) * 255;
        ASSERT_TRUE(duty == 0 || duty >= 51) << "it would stand and hum";
        if (before > 0 && duty > 0 && duty < 255 && duty != before) {
            ASSERT_GE(std::abs(duty - before), 8) << "a step smaller than the dead band";
        }
        // It follows to the dead band, and at the ends of the curve exactly.
        ASSERT_TRUE(exact <= 51 + 8 || std::fabs(duty - exact) < 8.6) << exact;
        ASSERT_TRUE(exact > 0 || duty == 0);
        ASSERT_TRUE(exact < 255 || duty == 255);
        before = duty;
    }
}

constexpr auto unjam = act_for(2_s).rest_for(5_s).tries(3);
constexpr auto mist = act_for(10_s).rest_for(20_s).longest_total(25_s);

/// What a timed action does second by second, as letters.
template <const auto& Spec> std::string played(const std::string& causes) {
    Attempts<Spec> action;
    std::string out;
    uint32_t now = 0xffffe000; // the clock wraps on the way
    for (const char c : causes) {
        const Truth cause = c == '?' ? Truth::unknown : truth_of(c == 'x');
        action.pass(Instant(now), cause, truth_of(c == 'r'));
        out += action.is_locked() == Truth::yes  ? 'L'
               : action.acts() == Truth::unknown ? '?'
               : action.acts() == Truth::yes     ? 'A'
                                                 : '.';
        now += 1000;
    }
    return out;
}

TEST(Attempts, act_rest_look_again_and_lock) {
    EXPECT_EQ(played<unjam>("..x........x.xxxxxxx.."), "..AA.......AA.....AA..");
    // The cause persists: three actions, then locked until the reset.
    EXPECT_EQ(played<unjam>("xxxxxxxxxxxxxxxxxxxxxxxxx..rxx."), "AA.....AA.....AA.....LLLLLL.AA.");
    // It goes away while resting: counting begins anew.
    EXPECT_EQ(played<unjam>("xxxx....xxxxxxxxxxxxxxxxxxxxxxx"), "AA......AA.....AA.....AA.....LL");
    // An unknown ends an action and neither starts one nor locks.
    EXPECT_EQ(played<unjam>("??x?xxxxxxx"), "??A?....AA.") << "a rest, then another look";
    EXPECT_EQ(played<unjam>("xxxxxxxxxxxxxxxxx?????xx"), "AA.....AA.....AA.?????LL");
    // The longest total: twice ten seconds, and no third.
    EXPECT_EQ(played<mist>(std::string(62, 'x')), std::string(10, 'A') + std::string(20, '.') +
                                                      std::string(10, 'A') + std::string(20, '.') +
                                                      "LL");
}

TEST(Attempts, never_act_longer_or_more_often_than_they_may) {
    std::mt19937 random(9);
    AttemptsState state;
    constexpr auto spec = unjam;
    Instant now(0xfffff000);
    Instant begun{};
    int actions = 0;
    auto before = Attempting::idle;
    for (int i = 0; i < 100'000; ++i) {
        now = now + Duration::from_thousandths(static_cast<int32_t>(random() % 400));
        const Truth cause = random() % 30 == 0 ? Truth::unknown : truth_of(random() % 4 != 0);
        const bool reset = random() % 500 == 0;
        const auto doing = state.pass(spec, now, cause, truth_of(reset));
        if (reset) {
            actions = 0;
            before = Attempting::idle;
        }
        if (doing == Attempting::acting && before != Attempting::acting) {
            begun = now;
            ASSERT_LE(++actions, 3);
        }
        ASSERT_TRUE(doing != Attempting::acting || now - begun < 2_s + 400_ms);
        if (doing == Attempting::idle)
            actions = 0;
        before = doing;
    }
}

TEST(Counter, counts_edges_to_its_number_and_starts_anew_on_reset) {
    Counter<3> slams;
    std::string told;
    for (const char c : std::string("x.xx.x?x..x.xx.r.x.x.x"))
        told += slams.pass(c == '?' ? Truth::unknown : truth_of(c == 'x'), truth_of(c == 'r')) ==
                        Truth::yes
                    ? 'Y'
                    : '.';
    EXPECT_EQ(told, "..........YYYYY......Y")
        << "neither a yes at power-up nor one after an unknown";
}

enum class Door : uint8_t { shut, opening, open, closing, jammed };
enum class Cue : uint8_t { dawn, dusk, at_end, reset };
constexpr auto door = machine(Door::shut, transition(Door::shut, Door::opening).when(Cue::dawn),
                              transition(Door::opening, Door::open).when(Cue::at_end),
                              transition(Door::opening, Door::jammed).after(20_s),
                              transition(Door::open, Door::closing).when(Cue::dusk).after(3_s),
                              transition(Door::closing, Door::shut).when(Cue::at_end),
                              transition(Door::closing, Door::jammed).after(20_s),
                              transition(Door::jammed, Door::closing).when(Cue::reset));

TEST(Machine, goes_the_way_of_its_table) {
    Machine<door> machine_at_work;
    uint32_t now = 0xffff'8000; // it wraps on the way
    const auto pass = [&](uint32_t later, const char* cues) {
        now += later;
        const auto has = [cues](char c) {
            const std::string all(cues);
            return all.find(static_cast<char>(c - 'a' + 'A')) != std::string::npos
                       ? Truth::unknown
                       : truth_of(all.find(c) != std::string::npos);
        };
        return machine_at_work.pass(Instant(now), event<Cue::dawn>(has('d')),
                                    event<Cue::dusk>(has('k')), event<Cue::at_end>(has('e')),
                                    event<Cue::reset>(has('r')));
    };
    EXPECT_EQ(pass(0, ""), Door::shut);
    EXPECT_EQ(pass(1000, "D"), Door::shut) << "an unknown event takes no transition";
    EXPECT_EQ(pass(1000, "d"), Door::opening);
    EXPECT_EQ(machine_at_work.enters(Door::opening), Truth::yes);
    EXPECT_EQ(machine_at_work.leaves(Door::shut), Truth::yes);
    EXPECT_EQ(pass(19'000, "d"), Door::opening);
    EXPECT_EQ(machine_at_work.enters(Door::opening), Truth::no);
    EXPECT_EQ(pass(500, "e"), Door::open);
    EXPECT_EQ(pass(500, "k"), Door::open) << "not before it has been open for three seconds";
    EXPECT_EQ(pass(2500, "k"), Door::closing);
    EXPECT_EQ(pass(20'000, ""), Door::jammed);
    EXPECT_EQ(pass(100'000, "dke"), Door::jammed) << "latched";
    EXPECT_EQ(pass(1, "r"), Door::closing);
    EXPECT_EQ(pass(20'000, "e"), Door::shut) << "the first of two that may be taken";
    EXPECT_EQ(machine_at_work.in(Door::shut), Truth::yes);
}

TEST(Machine, a_time_once_served_stays_served_however_long_it_lasts) {
    Machine<door> machine_at_work;
    uint32_t now = 0;
    const auto pass = [&](uint32_t later, bool dawn, bool dusk, bool end) {
        now += later;
        return machine_at_work.pass(
            Instant(now), event<Cue::dawn>(truth_of(dawn)), event<Cue::dusk>(truth_of(dusk)),
            event<Cue::at_end>(truth_of(end)), event<Cue::reset>(Truth::no));
    };
    pass(0, true, false, false);
    ASSERT_EQ(pass(1, false, false, true), Door::open);
    for (int day = 0; day < 60; ++day)
        ASSERT_EQ(pass(86'400'000, false, false, false), Door::open);
    EXPECT_EQ(pass(1, false, true, false), Door::closing);
}

constexpr auto by_pull_up = thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(-30_degC, 80_degC);
constexpr auto by_pull_down =
    thermistor(10_kohm, 3435_K).pull_down(4.7_kohm).bits(12).range(-20_degC, 90_degC);
constexpr auto chip = linear_chip(10_mV_per_K, 500_mV).reference(3.3_V).range(0_degC, 60_degC);
constexpr auto frost_point = below(4_degC).release(6_degC);
constexpr auto heat_point = above(40.1_degC).release(39_degC);
constexpr auto warm_steps = rising(10_degC, 20_degC, 30_degC).release(9_degC, 19_degC, 29.5_degC);
constexpr auto cold_steps = falling(27_degC, 12_degC).release(28_degC);

/// Whether judging codes comes to what judging values does, over every code and back, and jumping.
template <const auto& Sensor, class Part> void expect_same_by_code() {
    Part part;
    CodeThreshold<Sensor, frost_point> cold;
    CodeThreshold<Sensor, heat_point> hot;
    CodeLadder<Sensor, warm_steps> up;
    CodeLadder<Sensor, cold_steps> down;
    Threshold<frost_point> cold_value;
    Threshold<heat_point> hot_value;
    Ladder<warm_steps> up_value;
    Ladder<cold_steps> down_value;
    const int codes = 1 << Sensor.bits();
    std::mt19937 random(11);
    std::set<int> seen;
    for (int i = 0; i < 8 * codes; ++i) {
        const int code = i < codes ? i
                         : i < 2 * codes
                             ? 2 * codes - 1 - i
                             : static_cast<int>(random() % static_cast<unsigned>(codes));
        const Sample sample = i % 101 == 0 ? Sample() : Sample(static_cast<uint16_t>(code));
        const auto value = part.read(sample);
        ASSERT_EQ(cold.decide(sample), cold_value.decide(value)) << code;
        ASSERT_EQ(hot.decide(sample), hot_value.decide(value)) << code;
        const auto a = up.decide(sample), b = up_value.decide(value);
        const auto c = down.decide(sample), d = down_value.decide(value);
        ASSERT_EQ(a.health(), b.health()) << code;
        ASSERT_EQ(a.value_or(Stage()), b.value_or(Stage())) << code;
        ASSERT_EQ(c.value_or(Stage()), d.value_or(Stage())) << code;
        seen.insert(a.value_or(Stage()).number() + (c.ok() ? 10 : 0));
    }
    EXPECT_GE(seen.size(), 5u);
}

TEST(ByCode, a_decision_is_the_same_as_that_of_the_value) {
    expect_same_by_code<by_pull_up, Thermistor<by_pull_up>>();
    expect_same_by_code<by_pull_down, Thermistor<by_pull_down>>();
    expect_same_by_code<chip, LinearChip<chip>>();
}

} // namespace
