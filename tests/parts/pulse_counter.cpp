// SPDX-License-Identifier: MIT
// pulse_counter: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain_pulse_counter =
    "part = \"pulse_counter\"\nedges_per_turn = 2\nmethod = \"period\"\n";

TEST(PulseCounter, reads_rates_by_window_and_by_period) {
    Random random(67);
    for (int i = 0; i < 200; ++i) {
        const int edges = random.whole(1, 20);
        const double rpm = random.whole(60, 6000);
        rig::PulseModel model(edges);
        Alone by_window(fmt::format("part = \"pulse_counter\"\nedges_per_turn = {}\nwindow = \"5 "
                                    "s\"\nfastest = \"10000 rpm\"\n",
                                    edges));
        rig::AnyReading reading;
        for (uint32_t ms = 0; ms <= 5000; ms += 50) {
            reading = by_window.read(model.edges(), ms);
            model.turn(rpm, 0.05);
        }
        const double one_edge = 60.0 / 5 / edges;
        ASSERT_NEAR(value_of(reading), rpm, rpm * 0.001 + one_edge) << edges;
        Alone by_period(fmt::format("part = \"pulse_counter\"\nedges_per_turn = {}\nmethod = "
                                    "\"period\"\n",
                                    edges));
        by_period.read(Raw(), 0);
        const Raw period(std::lround(model.period(rpm)));
        const double exact = 60e6 / (static_cast<double>(period.bits()) * edges);
        ASSERT_NEAR(value_of(by_period.read(period, 100)), exact, exact * 0.001);
    }
}

TEST(PulseCounter, what_its_room_delivers_is_read_back) {
    expect_read_back(plain_pulse_counter, {1500}, 1);
}

TEST(PulseCounter, each_fault_is_told_by_its_own_health) {
    expect_faults(
        "part = \"pulse_counter\"\nedges_per_turn = 2\nwindow = \"2 s\"\nfastest = \"2000 rpm\"\n",
        {1200},
        {{Fault::open, Health::ok},
         {Fault::shorted, Health::ok},
         {Fault::ringing, Health::out_of_range}});
}

const Cost rate_by_window_costs{bank::rate_by_window, "turning speed by window", 400};
const Cost rate_by_period_costs{bank::rate_by_period, "turning speed by period", 400};

const Accuracy window_exact{
    bank::rate_by_window, "turning speed by window", "20 to 45,000 rpm", 0.1, "%", 4, [] {
        Worst window;
        uint32_t now = 0, edges = 0;
        bank::on_desk({bank::rate_by_window, now, edges, 0, 0});
        for (uint32_t i = 1; i < 20'000; ++i) {
            const uint32_t step = 1000 + i * 7 % 977, counted = 1 + i * i % 1500;
            now += step;
            edges += counted;
            const bank::Out out = bank::on_desk({bank::rate_by_window, now, edges & 0xffff, 0, 0});
            const double exact = counted * 60'000.0 / step / 2;
            if (out.health == 0)
                window.see(out.value / 1000.0, exact, 100 / exact,
                           [&] { return fmt::format("{} edges in {} ms", counted, step); });
        }
        return window;
    }};
const Accuracy period_exact{
    bank::rate_by_period, "turning speed by period", "0.5 to 49,587 rpm", 0.1, "%", 4, [] {
        Worst period;
        uint32_t now = 0, edges = 0;
        bank::on_desk({bank::rate_by_period, now, edges, 0, 0});
        for (uint32_t us = 605; us < 60'000'000; us += 1 + us / 700) {
            edges += 2;
            const bank::Out out = bank::on_desk(
                {bank::rate_by_period, ++now, edges & 0xffff, static_cast<int32_t>(us), 0});
            const double exact = 60e6 / us / 2;
            if (out.health == 0)
                period.see(out.value / 1000.0, exact, 100 / exact,
                           [&] { return fmt::format("{} us", us); });
        }
        return period;
    }};

const CppMistakes pulse_counter_mistakes{
    {"constexpr auto p = turning_speed(0); PulseRate<p> t;", "1 to 1,000 edges"},
    {"constexpr auto p = turning_speed(2).by_window(60_s).fastest(100000_rpm); PulseRate<p> r;",
     "make by_window shorter"}};

} // namespace
