// SPDX-License-Identifier: MIT
// Thresholds, claims and relays: statements about what a device does.
#include <zorilla/zorilla.hpp>

#include <gtest/gtest.h>

#include <random>
#include <vector>

namespace {

using namespace zorilla;

constexpr auto frost = below(4_degC).release(6_degC);
constexpr auto heat = above(30_degC).release(28_degC);

Reading<Temperature> at(Temperature t) { return Reading<Temperature>::of(t); }

TEST(Threshold, says_yes_past_its_point_and_lets_go_at_its_release) {
    Threshold<frost> cold;
    const struct {
        Temperature t;
        Truth expected;
    } falling[] = {{5_degC, Truth::no},      {4_degC, Truth::no},      {3.999_degC, Truth::yes},
                   {5.999_degC, Truth::yes}, {6_degC, Truth::no},      {5_degC, Truth::no},
                   {-10_degC, Truth::yes},   {4.001_degC, Truth::yes}, {20_degC, Truth::no}};
    for (const auto& step : falling)
        EXPECT_EQ(cold.decide(at(step.t)), step.expected) << step.t.thousandths();

    Threshold<heat> hot;
    const struct {
        Temperature t;
        Truth expected;
    } rising[] = {{30_degC, Truth::no},
                  {30.001_degC, Truth::yes},
                  {28.001_degC, Truth::yes},
                  {28_degC, Truth::no},
                  {29_degC, Truth::no}};
    for (const auto& step : rising)
        EXPECT_EQ(hot.decide(at(step.t)), step.expected) << step.t.thousandths();
}

TEST(Threshold, is_unknown_without_a_healthy_reading_and_remembers_its_side) {
    Threshold<frost> cold;
    EXPECT_EQ(cold.decide(Reading<Temperature>()), Truth::unknown);
    EXPECT_EQ(cold.decide(at(3_degC)), Truth::yes);
    EXPECT_EQ(cold.decide(Reading<Temperature>::without_value(Health::open_circuit)),
              Truth::unknown);
    EXPECT_EQ(cold.decide(at(5_degC)), Truth::yes) << "still within the hysteresis";
}

TEST(Claims, first_yes_wins_unknown_before_it_is_safe_and_none_is_rest) {
    const Truth n = Truth::no, u = Truth::unknown, y = Truth::yes;
    const struct {
        Truth first, second; // asks for off, asks for on
        Cause cause;
        OnOff value;
        int claim;
    } cases[] = {
        {y, y, Cause::claim, off, 0}, {y, u, Cause::claim, off, 0}, {n, y, Cause::claim, on, 1},
        {u, y, Cause::safe, on, 0},   {n, u, Cause::safe, on, 1},   {n, n, Cause::rest, off, 0},
    };
    for (const auto& c : cases) {
        const Claim claims[] = {off_when(c.first), on_when(c.second)};
        const Wish wish = settle(
            on, off, [&](uint8_t i) { return claims[i]; }, 2);
        EXPECT_EQ(wish.cause, c.cause);
        EXPECT_EQ(wish.value, c.value);
        EXPECT_EQ(wish.claim, c.claim);
    }
}

constexpr auto bare = relay(active_high).safe(off);
constexpr auto slow = relay(active_low).safe(off).min_on(10_s).min_off(20_s).longest_on(60_s);

TEST(Relay, drives_its_pin_by_its_active_level) {
    Relay<bare> high;
    EXPECT_EQ(high.level(), Level::low);
    high.drive(Instant(0), on_when(Truth::yes));
    EXPECT_EQ(high.level(), Level::high);
    EXPECT_EQ(Relay<slow>().level(), Level::high);
    EXPECT_EQ(Relay<slow>::off_level(), Level::high);
}

/// One relay through time.
struct Bench {
    Relay<slow> relay;
    Instant now{0xffff'f000}; // soon to wrap

    Switching after(Duration d, Truth wanted) {
        now = now + d;
        return relay.drive(now, on_when(wanted));
    }
};

TEST(Relay, stays_off_until_the_rest_time_is_over_that_power_up_starts) {
    Bench b;
    EXPECT_EQ(b.after(0_s, Truth::yes).cause, Cause::minimum_off);
    EXPECT_EQ(b.after(19.999_s, Truth::yes).value, off);
    EXPECT_EQ(b.after(1_ms, Truth::yes).value, on);
}

TEST(Relay, stays_on_for_its_shortest_time_unless_it_must_be_safe) {
    Bench b;
    b.after(0_s, Truth::no);
    ASSERT_EQ(b.after(20_s, Truth::yes).value, on);
    const Switching kept = b.after(9.999_s, Truth::no);
    EXPECT_EQ(kept.value, on);
    EXPECT_EQ(kept.cause, Cause::minimum_on);
    EXPECT_EQ(b.after(1_ms, Truth::no).value, off);

    ASSERT_EQ(b.after(20_s, Truth::yes).value, on);
    const Switching safe = b.after(1_s, Truth::unknown);
    EXPECT_EQ(safe.value, off) << "a broken wire does not wait";
    EXPECT_EQ(safe.cause, Cause::safe);
}

TEST(Relay, switches_off_after_its_longest_time_and_rests) {
    Bench b;
    b.after(0_s, Truth::no);
    ASSERT_EQ(b.after(20_s, Truth::yes).value, on);
    EXPECT_EQ(b.after(59.999_s, Truth::yes).value, on);
    EXPECT_EQ(b.after(1_ms, Truth::yes).cause, Cause::longest_on);
    EXPECT_EQ(b.after(19_s, Truth::yes).cause, Cause::minimum_off);
    EXPECT_EQ(b.after(1_s, Truth::yes).value, on);
}

TEST(Relay, rest_time_once_served_stays_served_when_the_clock_wraps) {
    Bench b;
    b.after(0_s, Truth::no);
    for (int day = 0; day < 51; ++day) // the counter is back where it was after 49.7
        b.after(24_h, Truth::no);
    EXPECT_EQ(b.after(1_ms, Truth::yes).value, on);
}

TEST(Relay, never_breaks_its_guards_whatever_it_is_asked_for) {
    std::mt19937 random(17);
    for (int run = 0; run < 200; ++run) {
        const auto span = [&](unsigned most) {
            return Duration::from_thousandths(static_cast<int32_t>(random() % most));
        };
        const Duration min_on = span(5000), min_off = span(5000) + 1_ms;
        const Duration longest = run % 3 == 0 ? Duration{} : min_on + span(20'000) + 1_ms;
        const OnOff safe = random() % 2 == 0 ? on : off;
        const RelaySpec spec =
            relay(active_high).safe(safe).min_on(min_on).min_off(min_off).longest_on(longest);
        ASSERT_TRUE(spec.times_can_be_told() && spec.longest_on_makes_sense());
        RelayState state;
        Instant now(static_cast<uint32_t>(random()));
        Duration held{}; // how long it has been as it is; long ago is cut to an hour
        OnOff value = off;
        for (int pass = 0; pass < 2000; ++pass) {
            const Duration step = pass == 0 ? Duration{} : span(3000);
            now = now + step;
            held = held + step > 1_h ? 1_h : held + step;
            const Claim claim = on_when(static_cast<Truth>(random() % 3));
            const Wish wish = settle(
                safe, off, [&](uint8_t) { return claim; }, 1);
            const Switching out = state.pass(spec, now, wish);
            const bool longest_over = spec.has_longest_on() && held >= longest;
            if (value == on && longest_over) {
                ASSERT_EQ(out.value, off) << "longer than its longest time";
            } else if (wish.value == value) {
                ASSERT_EQ(out.value, value) << "switched without being asked";
            } else if (value == on) {
                ASSERT_EQ(out.value == off, held >= min_on || wish.cause == Cause::safe);
            } else {
                ASSERT_EQ(out.value == on, held >= min_off);
            }
            if (out.value != value)
                held = Duration{};
            value = out.value;
        }
    }
}

} // namespace
