// SPDX-License-Identifier: MIT
// Decisions, each against the plainest way to say the same.
#include <zorilla/zorilla.hpp>

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>
#include <set>
#include <type_traits>
#include <utility>
#include <vector>

namespace {

using namespace zorilla;

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

// Ten transitions: more than are written out one after the other.
enum class Lap : uint8_t { a, b, c, d, e };
constexpr auto long_way = machine(
    Lap::a, transition(Lap::a, Lap::b).when(Cue::dawn), transition(Lap::b, Lap::c).after(3_s),
    transition(Lap::c, Lap::d).when(Cue::dusk).after(70_s),
    transition(Lap::d, Lap::e).when(Cue::at_end), transition(Lap::e, Lap::a).when(Cue::dawn),
    transition(Lap::b, Lap::a).when(Cue::dusk), transition(Lap::c, Lap::b).when(Cue::dawn),
    transition(Lap::d, Lap::a).after(100_s), transition(Lap::e, Lap::d).when(Cue::dusk),
    transition_from_any(Lap::a).when(Cue::reset));

TEST(Machine, of_many_transitions_does_what_its_list_says) {
    Machine<long_way> from_table;
    MachineState by_list(0);
    std::mt19937 random(21);
    std::set<Lap> seen;
    uint32_t now = 0xffff'0000;
    for (int i = 0; i < 20'000; ++i) {
        now += static_cast<uint32_t>(random() % 5000);
        Truth events[4];
        for (Truth& one : events)
            one = static_cast<Truth>(random() % 9 < 6 ? 0 : random() % 3);
        events[3] = random() % 40 == 0 ? Truth::yes : Truth::no;
        by_list.pass(
            long_way.count, [](uint8_t at) { return long_way.moves[at]; }, Instant(now),
            [&events](uint8_t at) { return events[at]; });
        const Lap is =
            from_table.pass(Instant(now), event<Cue::dawn>(events[0]), event<Cue::dusk>(events[1]),
                            event<Cue::at_end>(events[2]), event<Cue::reset>(events[3]));
        ASSERT_EQ(static_cast<uint8_t>(is), by_list.state()) << i;
        seen.insert(is);
    }
    EXPECT_EQ(seen.size(), 5u);
}

constexpr auto by_pull_up = thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(-30_degC, 80_degC);
constexpr auto by_pull_down =
    thermistor(10_kohm, 3435_K).pull_down(4.7_kohm).bits(12).range(-20_degC, 90_degC);
constexpr auto chip = linear_chip(10_mV_per_K, 500_mV).reference(3.3_V).range(0_degC, 60_degC);
constexpr auto frost_point = below(4_degC).release(6_degC);
constexpr auto heat_point = above(40.1_degC).release(39_degC);
constexpr auto warm_steps = rising(10_degC, 20_degC, 30_degC).release(9_degC, 19_degC, 29.5_degC);
constexpr auto cold_steps = falling(27_degC, 12_degC).release(28_degC);
constexpr auto mild = inside(12_degC, 25_degC).release(11_degC, 26.5_degC);
constexpr auto harsh = outside(8_degC, 31_degC).release(9_degC, 30_degC);

/// Whether a decision of a reading with its code comes to what it does of the value alone.
template <class Decision> struct Both {
    Decision by_code, by_value;
    template <class Measured> auto decide(Measured reading) {
        const Reading<Temperature> value = reading; // its code is left behind
        const auto of_code = by_code.decide(reading);
        const auto of_value = by_value.decide(value);
        if constexpr (std::is_same_v<decltype(of_value), const Truth>) {
            EXPECT_EQ(of_code, of_value);
        } else {
            EXPECT_EQ(of_code.health(), of_value.health());
            EXPECT_EQ(of_code.value_or(Stage()), of_value.value_or(Stage()));
        }
        return of_value;
    }
};

/// Whether judging codes comes to what judging values does, over every code and back, and jumping.
template <const auto& Sensor, class Part> void expect_same_by_code() {
    Part part;
    static_assert(
        std::is_same_v<decltype(part.read(Sample())), MeasuredAtCode<Temperature, Sensor>>);
    CodeThreshold<Sensor, frost_point> cold;
    CodeThreshold<Sensor, heat_point> hot;
    CodeLadder<Sensor, warm_steps> up;
    CodeLadder<Sensor, cold_steps> down;
    Both<Threshold<frost_point>> cold_value;
    Both<Threshold<heat_point>> hot_value;
    Both<Ladder<warm_steps>> up_value;
    Both<Ladder<cold_steps>> down_value;
    Both<Window<mild>> is_mild;
    Both<Window<harsh>> is_harsh;
    int turns = 0;
    Truth before[2] = {};
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
        const Truth now[2] = {is_mild.decide(value), is_harsh.decide(value)};
        for (int w = 0; w < 2; ++w)
            turns += now[w] != std::exchange(before[w], now[w]) ? 1 : 0;
        ASSERT_FALSE(testing::Test::HasFailure()) << code;
        seen.insert(a.value_or(Stage()).number() + (c.ok() ? 10 : 0));
    }
    EXPECT_GE(seen.size(), 5u);
    EXPECT_GT(turns, codes / 8);
}

TEST(ByCode, a_decision_is_the_same_as_that_of_the_value) {
    expect_same_by_code<by_pull_up, Thermistor<by_pull_up>>();
    expect_same_by_code<by_pull_down, Thermistor<by_pull_down>>();
    expect_same_by_code<chip, LinearChip<chip>>();
}

} // namespace
