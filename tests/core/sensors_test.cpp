// SPDX-License-Identifier: MIT
// Sensors as a device uses them: tables from the compiler, memory of time, and what a frame, an
// echo or an edge means. How close conversions are to their formulas is tried in
// desk/round_trip_test.cpp and printed by ./dev accuracy.
#include "tests/chips/bank.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <random>
#include <vector>

namespace {

using namespace zorilla;

TEST(Logarithm, is_that_of_the_host_within_its_stated_error) {
    std::mt19937 random(5);
    for (int i = 0; i < 200'000; ++i) {
        const auto x =
            i < 100'000 ? static_cast<uint32_t>(i + 1) : static_cast<uint32_t>(random() | 1);
        ASSERT_NEAR(static_cast<double>(detail::natural_log(x)) / 1073741824.0, std::log(x), 2e-8)
            << x;
        ASSERT_NEAR(detail::log2_of(x / 2 + 1) / 2048.0, std::log2(x / 2 + 1), 1 / 2048.0) << x;
    }
}

TEST(Powers, are_those_of_the_host_within_their_stated_errors) {
    std::mt19937 random(6);
    for (int i = 0; i < 200'000; ++i) {
        const auto x = static_cast<int32_t>(random() % (31 << 16));
        const double power = std::exp2(x / 65536.0);
        ASSERT_NEAR(detail::power_of_two(x), power, 0.51 + power / 4096) << x;
        const auto top = static_cast<uint32_t>(random() >> random() % 31) | 1;
        const auto bottom = static_cast<uint32_t>(random() >> random() % 31) | 1;
        const auto times = static_cast<uint16_t>(1 + random() % 65'535);
        const double expected = std::min(static_cast<double>(top) / bottom * times, 2147483647.0);
        const detail::Leading leading = detail::Leading::of(top);
        ASSERT_NEAR(detail::divided(leading.mantissa, leading.exponent, bottom, times), expected,
                    0.51 + expected / 2048)
            << top << " / " << bottom << " * " << times;
        const auto time = static_cast<uint32_t>(1 + random() % 10'000'000);
        const auto constant = static_cast<uint32_t>(1 + random() % 10'000'000);
        const auto share = detail::share_of_step(time, detail::rate_of(constant));
        const double exact = -std::expm1(-static_cast<double>(time) / constant);
        ASSERT_NEAR(std::ldexp(share.mantissa, -16 - share.down), exact, exact / 2048)
            << time << " of " << constant;
    }
}

// Built by the compiler, for the widest converter too; a device may hold the library to its word.
constexpr auto narrow = thermistor(10_kohm, 3950_K).pull_up(10_kohm).bits(8).accuracy(0.1_K);
constexpr auto common = thermistor(10_kohm, 3950_K).pull_up(10_kohm).bits(10);
constexpr auto wide =
    thermistor(100_kohm, 4250_K).pull_down(47_kohm).bits(16).range(-20_degC, 80_degC);
static_assert(LinearChip<bank::chip>::largest_error() <= 0.001_K);
static_assert(Thermistor<narrow>::largest_error() <= 0.1_K);
static_assert(Thermistor<common>::largest_error() <= 0.05_K);
static_assert(Thermistor<wide>::largest_error() <= 0.05_K);
static_assert(Thermistor<bank::lines>::largest_error() <= 0.05_K);

TEST(Thermistor, finds_the_code_of_a_temperature_and_its_distance_from_the_ends) {
    for (const auto& spec : {common, common.pull_down(10_kohm)}) {
        for (const Temperature t :
             {Temperature(-20_degC), Temperature(4_degC), Temperature(90_degC)}) {
            const int32_t at = spec.curve().value_at(spec.code_at(t));
            const int32_t before =
                spec.curve().value_at(static_cast<uint16_t>(spec.code_at(t) - 1));
            EXPECT_EQ(spec.rising() ? at >= t.thousandths() : at <= t.thousandths(), true);
            EXPECT_EQ(spec.rising() ? before < t.thousandths() : before > t.thousandths(), true);
        }
        EXPECT_GT(spec.counts_inside(20_degC), 300);
        EXPECT_LE(spec.counts_inside(124.9_degC), 1);
        EXPECT_LT(spec.counts_inside(-55_degC), 0);
    }
}

TEST(Specs, know_what_cannot_be_right) {
    const auto fine = thermistor(10_kohm, 3950_K).pull_up(10_kohm);
    EXPECT_TRUE(fine.is_possible());
    for (const auto& wrong :
         {thermistor(0_kohm, 3950_K).pull_up(10_kohm), thermistor(10_kohm, 39_K).pull_up(10_kohm),
          thermistor(10_kohm, 3950_K), fine.pull_up(-10_kohm), fine.bits(7), fine.bits(17),
          fine.range(30_degC, 20_degC), fine.accuracy(0_K), fine.nominal_at(400_degC),
          fine.supplied(5_V, 0_V), fine.supplied(50_V, 5_V)})
        EXPECT_FALSE(wrong.is_possible());
    EXPECT_FALSE(SteinhartHartModel::through(point(0_degC, 30_kohm), point(0_degC, 30_kohm),
                                             point(60_degC, 3_kohm))
                     .is_possible());
    EXPECT_FALSE(
        (gas_sensor(gas_point(10_ppm, 1_times), gas_point(20_ppm, 2_times)).points_are_possible()))
        << "a curve that rises";
    EXPECT_FALSE(percent_between(500, 505).is_possible());
    EXPECT_FALSE(ranger(20_mm, 4_m).silent_from(20_ms).is_possible()) << "4 m take 26 ms";
    EXPECT_FALSE(humidity_frame(FrameCoding::tenths).every(1_s).every_is_possible());
    EXPECT_FALSE(analogue_level(2_V, 1_V).reference(5_V).is_possible());
}

// --- One-wire frames

Frame frame_of(std::initializer_list<int> bytes) {
    Frame out;
    int i = 0;
    for (const int byte : bytes)
        out.bytes[i++] = static_cast<uint8_t>(byte);
    return out;
}

TEST(Frame, means_exactly_what_its_bytes_say) {
    const struct {
        FrameCoding coding;
        Frame frame;
        int32_t humidity, temperature;
        Health health;
    } cases[] = {
        // 65.2 %RH and -7.3 degC: the sign is a bit, not a complement.
        {FrameCoding::tenths, frame_of({0x02, 0x8c, 0x80, 0x49, 0x57}), 65'200, -7'300, Health::ok},
        {FrameCoding::tenths, frame_of({0x02, 0x8c, 0x00, 0x49, 0xd7}), 65'200, 7'300, Health::ok},
        {FrameCoding::tenths, frame_of({0x02, 0x8c, 0x80, 0x48, 0x57}), 0, 0, Health::bad_frame},
        {FrameCoding::tenths, frame_of({0, 0, 0, 0, 0}), 0, 0, Health::bad_frame},
        {FrameCoding::tenths, frame_of({0xff, 0xff, 0xff, 0xff, 0xff}), 0, 0, Health::bad_frame},
        {FrameCoding::tenths, frame_of({0x03, 0xe9, 0x00, 0xc8, 0xb4}), 0, 0, Health::out_of_range},
        {FrameCoding::tenths, frame_of({0x01, 0xf4, 0x03, 0x52, 0x4a}), 0, 0, Health::out_of_range},
        {FrameCoding::whole, frame_of({55, 0, 24, 3, 82}), 55'000, 24'300, Health::ok},
        {FrameCoding::whole, frame_of({55, 0, 7, 0x83, 0xc1}), 55'000, -7'300, Health::ok},
        {FrameCoding::whole, frame_of({55, 12, 24, 3, 94}), 0, 0, Health::bad_frame},
    };
    for (const auto& c : cases) {
        const AirReading air = decode_frame(c.coding, c.frame);
        EXPECT_EQ(air.humidity.health(), c.health);
        EXPECT_EQ(air.temperature.health(), c.health);
        EXPECT_EQ(air.humidity.value_or({}).thousandths(), c.humidity);
        EXPECT_EQ(air.temperature.value_or({}).thousandths(), c.temperature);
    }
}

TEST(HumidityFrame, is_tried_again_and_missing_after_too_many_failures) {
    static constexpr auto spec = humidity_frame(FrameCoding::tenths).tries(3);
    HumidityFrame<spec> sensor;
    const FrameSample good(frame_of({0x02, 0x8c, 0x80, 0x49, 0x57}));
    Instant now(0xffff'f000); // soon to wrap
    const auto after = [&](Duration d, FrameSample sample) {
        now = now + d;
        return sensor.read(now, sample).humidity.health();
    };
    EXPECT_FALSE(sensor.due(now));
    EXPECT_TRUE(sensor.due(now + 2_s)) << "it needs an interval to wake";
    EXPECT_EQ(after(0_s, FrameSample()), Health::missing);
    EXPECT_EQ(after(2_s, good), Health::ok);
    EXPECT_FALSE(sensor.due(now + 1.999_s));
    EXPECT_EQ(after(1_s, FrameSample()), Health::ok) << "between two reads it stands";
    EXPECT_EQ(after(1_s, FrameSample::garbled()), Health::bad_frame);
    EXPECT_EQ(after(2_s, FrameSample::silent()), Health::missing);
    EXPECT_EQ(after(2_s, FrameSample::garbled()), Health::missing) << "the third in a row";
    EXPECT_EQ(sensor.age(now), 6_s);
    EXPECT_EQ(sensor.last_good().temperature.value_or({}), Temperature(-7.3_degC));
    EXPECT_EQ(after(2_s, good), Health::ok);
    EXPECT_EQ(after(8_s, FrameSample()), Health::ok);
    EXPECT_EQ(after(1_ms, FrameSample()), Health::stale) << "nobody has read it for too long";
}

TEST(HumidityFrame, holds_its_last_good_value_only_as_long_as_it_may) {
    static constexpr auto spec = humidity_frame(FrameCoding::tenths).hold(5_s);
    HumidityFrame<spec> sensor;
    const FrameSample good(frame_of({0x02, 0x8c, 0x80, 0x49, 0x57}));
    sensor.read(Instant(0), good);
    EXPECT_TRUE(sensor.read(Instant(2000), FrameSample::garbled()).humidity.ok());
    EXPECT_TRUE(sensor.read(Instant(5000), FrameSample()).humidity.ok());
    EXPECT_EQ(sensor.read(Instant(5001), FrameSample()).humidity.health(), Health::bad_frame);
}

// --- Moisture, switches, pulses

TEST(MoistureProbe, is_powered_only_while_it_is_read) {
    MoistureProbe<bank::stack> probe; // every 2 s, settling for 200 ms, dry 620, wet 210
    int powered = 0;
    Reading<Percentage> reading;
    for (uint32_t ms = 0; ms < 10'000; ms += 10) {
        // Without power it reads as if it were wet.
        reading = probe.read(Instant(ms), Sample(probe.powered() ? 415 : 10));
        powered += probe.powered();
    }
    EXPECT_NEAR(reading.value_or({}).thousandths(), 50'000, 10);
    EXPECT_EQ(powered, 100) << "of 1,000 passes, 20 for each of five reads";
    EXPECT_EQ(MoistureProbe<bank::stack>().read(Instant(0), Sample(415)).health(), Health::missing);
}

TEST(DigitalInput, is_known_once_its_level_has_held) {
    DigitalInput<bank::hatch> input; // active low, 20 ms
    const LevelSample low(Level::low), high(Level::high);
    const struct {
        uint32_t at;
        LevelSample sample;
        Truth truth;
    } steps[] = {{0, high, Truth::unknown}, {20, high, Truth::no},    {30, low, Truth::no},
                 {35, high, Truth::no},     {40, low, Truth::no},     {59, low, Truth::no},
                 {60, low, Truth::yes},     {70, {}, Truth::unknown}, {80, low, Truth::unknown},
                 {100, low, Truth::yes}};
    for (const auto& step : steps)
        EXPECT_EQ(input.read(Instant(0xffff'ffd0 + step.at), step.sample), step.truth) << step.at;
}

TEST(AnalogueLevel, keeps_its_side_in_the_grey_zone) {
    AnalogueLevel<bank::bilge> level; // no up to 1.2 V, yes from 2.8 V, of 5 V
    const auto at = [&](double volts) {
        return level.read(Sample(static_cast<uint16_t>(volts * 1024 / 5)));
    };
    EXPECT_EQ(at(2.0), Truth::unknown);
    EXPECT_EQ(at(2.81), Truth::yes);
    EXPECT_EQ(at(1.3), Truth::yes);
    EXPECT_EQ(at(1.19), Truth::no);
    EXPECT_EQ(at(2.7), Truth::no);
    EXPECT_EQ(level.read(Sample()), Truth::unknown);
}

TEST(PulseCounter, passes_over_glitches_and_hands_out_samples_of_one_piece) {
    PulseCounter counter;
    uint32_t now = 0xffff'f000; // soon to wrap
    counter.edge(now, 500);
    counter.edge(now + 499, 500); // a glitch
    counter.edge(now += 10'000, 500);
    const PulseSample sample = counter.sample();
    EXPECT_EQ(sample.edges, 2);
    EXPECT_EQ(sample.period, 10'000u);
}

TEST(PulseRate, tells_standstill_and_start_even_after_hours) {
    PulseRate<bank::vane> rate; // by period, 2 edges a turn, still after 3 s
    PulseSample sample{0, 0, true};
    uint32_t now = 0xffff'0000;
    EXPECT_EQ(rate.read(Instant(now), sample).health(), Health::missing);
    const auto after = [&](uint32_t ms, uint16_t edges, uint32_t period) {
        sample = {static_cast<uint16_t>(sample.edges + edges), period, true};
        return rate.read(Instant(now += ms), sample);
    };
    EXPECT_FALSE(after(100, 1, 4'000'000).ok()) << "one edge is no period";
    const int32_t speed = after(100, 1, 100'000).value_or({}).thousandths();
    EXPECT_NEAR(speed, 300'000, 300) << "10 edges a second, 2 a turn: 300 rpm";
    EXPECT_EQ(after(2999, 0, 100'000).value_or({}).thousandths(), speed);
    EXPECT_EQ(after(1, 0, 100'000).value_or(1_rpm), 0_rpm);
    for (int hour = 0; hour < 1300; ++hour) // beyond the wrap of the clock
        ASSERT_EQ(after(3'600'000, 0, 100'000).value_or(1_rpm), 0_rpm);
    EXPECT_EQ(after(100, 1, 9'000'000).value_or(1_rpm), 0_rpm) << "the first edge after a rest";
    EXPECT_NEAR(after(100, 1, 50'000).value_or({}).thousandths(), 600'000, 600);
    EXPECT_EQ(after(100, 1, 100).health(), Health::out_of_range);
}

TEST(CleanAir, finds_the_zero_and_refuses_what_drifts) {
    const auto listen = [](double from, double to) {
        CleanAir<bank::nose> step(30_s);
        for (uint32_t ms = 0; ms <= 31'000; ms += 100) {
            const double ohms = from + (to - from) * ms / 31'000;
            step.add(Instant(ms),
                     Sample(static_cast<uint16_t>(1024 * 10'000 / (10'000 + ohms) + 0.5)));
        }
        return step;
    };
    const auto done = listen(108'000, 108'000);
    ASSERT_EQ(done.state(), CleanAirState::done);
    EXPECT_NEAR(done.zero().thousandths(), 30'000, 300) << "the rounding of its code, and 0.5 %";
    EXPECT_EQ(listen(150'000, 108'000).state(), CleanAirState::drifting);
    EXPECT_EQ(listen(108'000, 1e9).state(), CleanAirState::unhealthy);
    EXPECT_EQ(CleanAir<bank::nose>(30_s).state(), CleanAirState::listening);
}

TEST(GasSensor, warms_up_once) {
    GasSensor<bank::nose> sensor(30_kohm); // 3 s
    EXPECT_EQ(sensor.read(Instant(5000), Sample(300)).health(), Health::warming);
    EXPECT_EQ(sensor.read(Instant(7999), Sample(300)).health(), Health::warming);
    for (uint32_t day = 0; day < 60; ++day)
        ASSERT_TRUE(sensor.read(Instant(8000 + day * 86'400'000), Sample(300)).ok()) << day;
}

// --- Filters

Reading<Temperature> at(Temperature t) { return Reading<Temperature>::of(t); }
const auto broken = Reading<Temperature>::without_value(Health::open_circuit);

TEST(Filters, let_a_fault_through_at_once_and_begin_anew) {
    Median<5, Temperature> median;
    Smoothing<Temperature> smooth(10_s);
    RateGate<Temperature> gate(1_K, 10_s);
    Watch<Temperature> watch(1_h, 5_s);
    RateOfChange<Temperature> rate(8_s);
    const auto all = [&](uint32_t ms, Reading<Temperature> reading) {
        const Instant now(ms);
        return std::vector<Reading<Temperature>>{median.pass(reading), smooth.pass(now, reading),
                                                 gate.pass(now, reading), watch.pass(now, reading)};
    };
    all(0, at(20_degC));
    rate.pass(Instant(0), at(20_degC));
    for (const auto& out : all(1000, broken))
        EXPECT_EQ(out.health(), Health::open_circuit);
    EXPECT_EQ(rate.pass(Instant(1000), broken).health(), Health::open_circuit);
    for (const auto& out : all(2000, at(80_degC)))
        EXPECT_EQ(out.value_or({}), Temperature(80_degC));
}

TEST(Median, no_single_spike_moves_it) {
    Median<5, Temperature> median;
    std::mt19937 random(3);
    for (int i = 0; i < 1000; ++i) {
        const bool spike = i % 5 == 4; // at most two of any five
        const int32_t value =
            spike ? static_cast<int32_t>(random()) : 20'000 + static_cast<int32_t>(random() % 100);
        const int32_t out =
            median.pass(at(Temperature::from_thousandths(value))).value_or({}).thousandths();
        ASSERT_TRUE(out >= 20'000 && out < 20'100) << i;
    }
}

TEST(Smoothing, goes_63_percent_of_a_step_in_its_time_however_readings_come) {
    std::mt19937 random(9);
    for (const uint32_t longest : {20u, 500u, 9'000u}) {
        Smoothing<Temperature> smooth(10_s);
        smooth.pass(Instant(0xffff'f000), at(0_degC));
        for (uint32_t ms = 0; ms < 40'000;) {
            ms += 1 + static_cast<uint32_t>(random() % longest);
            const double out =
                smooth.pass(Instant(0xffff'f000 + ms), at(100_degC)).value_or({}).thousandths();
            ASSERT_NEAR(out, 100'000 * -std::expm1(-(ms / 10'000.0)), 60)
                << ms << " by " << longest;
        }
    }
}

TEST(Oversampling, adds_bits_where_there_is_noise_and_refuses_a_breaking_wire) {
    Oversampling<2> finer(12);
    std::mt19937 random(4);
    const double exact = 512.3;
    double sum = 0;
    int sums = 0;
    for (int i = 0; i < 16'000; ++i) {
        const double noisy = exact + std::uniform_real_distribution<double>(-2, 2)(random);
        const Sample out = finer.pass(Sample(static_cast<uint16_t>(std::lround(noisy))));
        if (out.taken()) {
            ASSERT_NEAR(out.code() / 4.0, exact, 1.5);
            sum += out.code() / 4.0;
            ++sums;
        }
    }
    EXPECT_EQ(sums, 1000);
    EXPECT_NEAR(sum / sums, exact, 0.15) << "a quarter of a count is lost by rounding down";
    for (int i = 0; i < 16; ++i)
        EXPECT_FALSE(finer.pass(Sample(i < 7 ? 512 : 1023)).taken());
}

TEST(RateGate, stops_a_spike_and_believes_what_stays) {
    RateGate<Temperature> gate(6_K, 10_s); // 0.1 K a second
    EXPECT_TRUE(gate.pass(Instant(0), at(20_degC)).ok());
    EXPECT_TRUE(gate.pass(Instant(10'000), at(21_degC)).ok());
    EXPECT_EQ(gate.pass(Instant(11'000), at(30_degC)).health(), Health::implausible);
    EXPECT_TRUE(gate.pass(Instant(12'000), at(21.1_degC)).ok());
    EXPECT_EQ(gate.pass(Instant(13'000), at(30_degC)).health(), Health::implausible);
    EXPECT_EQ(gate.pass(Instant(22'999), at(30_degC)).health(), Health::implausible);
    EXPECT_TRUE(gate.pass(Instant(23'000), at(30_degC)).ok());
}

TEST(Watch, tells_a_stuck_value_and_bridges_missing_samples_for_a_while) {
    Watch<Temperature> watch(10_s, 3_s);
    const Reading<Temperature> missing;
    EXPECT_EQ(watch.pass(Instant(0), missing).health(), Health::missing);
    EXPECT_TRUE(watch.pass(Instant(1000), at(20_degC)).ok());
    EXPECT_TRUE(watch.pass(Instant(4000), missing).ok());
    EXPECT_EQ(watch.pass(Instant(4001), missing).health(), Health::stale);
    EXPECT_TRUE(watch.pass(Instant(5000), at(20_degC)).ok());
    EXPECT_TRUE(watch.pass(Instant(14'999), at(20_degC)).ok());
    EXPECT_EQ(watch.pass(Instant(15'000), at(20_degC)).health(), Health::stuck);
    EXPECT_TRUE(watch.pass(Instant(16'000), at(20.001_degC)).ok());
}

// --- Derived quantities

TEST(Derived, inputs_without_health_pass_it_on_and_others_are_checked) {
    const auto wet = bank::percents(50'000);
    for (const auto of_air : {dew_point<>, heat_index<>}) {
        EXPECT_EQ(of_air(broken, wet).health(), Health::open_circuit);
        EXPECT_EQ(of_air(at(20_degC), Reading<RelativeHumidity>()).health(), Health::missing);
        EXPECT_EQ(of_air(at(90_degC), wet).health(), Health::out_of_range);
    }
    EXPECT_EQ(dew_point(at(20_degC), bank::percents(500)).health(), Health::out_of_range);
    EXPECT_EQ(difference(at(20_degC), broken).health(), Health::open_circuit);
    EXPECT_EQ(difference(at(20_degC), at(25_degC)).value_or({}), -5_K);
}

} // namespace
