// SPDX-License-Identifier: MIT
// Numbers at their edges, each against its formula in double precision.
#include <zorilla/zorilla.hpp>

#include <gtest/gtest.h>

#include <cmath>
#include <random>

namespace {

using namespace zorilla;

TEST(Gas, ends_at_every_code_even_where_the_reference_is_far_above_the_supply) {
    for (const auto supply : {1_V, 2_V, 5_V})
        for (const auto reference : {0.5_V, 5_V, 10_V})
            for (const uint8_t bits : {uint8_t{8}, uint8_t{10}, uint8_t{12}}) {
                const GasSpec spec =
                    gas_sensor(gas_point(10_ppm, 2.6_times), gas_point(200_ppm, 0.7_times))
                        .pull_down(10_kohm)
                        .supplied(supply, reference)
                        .bits(bits)
                        .warm_up(0_s);
                GasState state(spec.load(), 30_kohm);
                const CodeRange range = spec.code_range();
                for (uint32_t code = 0; code <= spec.full_scale(); ++code)
                    state.read(spec, range, spec.law(), Instant(1),
                               Sample(static_cast<uint16_t>(code)), 0);
                EXPECT_NE(state.read(spec, range, spec.law(), Instant(1), Sample(0), 0).health(),
                          Health::ok);
            }
}

TEST(Gas, small_ratios_keep_their_digits) {
    for (const double ratio : {0.0464, 0.0123, 0.05, 0.7, 2.6}) {
        const auto fine = [](double r) {
            return Permille::from_thousandths(static_cast<int32_t>(std::lround(r * 1e6)));
        };
        const GasSpec spec =
            gas_sensor(gas_point(10_ppm, fine(ratio * 5)), gas_point(200_ppm, fine(ratio)))
                .pull_down(10_kohm)
                .range(1_ppm, 1000_ppm)
                .warm_up(0_s);
        ASSERT_TRUE(spec.points_are_possible());
        GasState state(spec.load(), 100_kohm);
        const double steep = std::log(1 / 5.0) / std::log(20.0);
        for (uint16_t code = 20; code < 1000; code = static_cast<uint16_t>(code + 7)) {
            const double ohms = 10'000.0 * (1024.0 - code) / code;
            const double exact = 10 * std::pow(ohms / 100'000 / (ratio * 5), 1 / steep);
            if (exact < 2 || exact > 900)
                continue;
            const auto is =
                state.read(spec, spec.code_range(), spec.law(), Instant(1), Sample(code), 0);
            ASSERT_TRUE(is.ok()) << ratio << " " << code;
            EXPECT_NEAR(is.value_or({}).thousandths() / 1000.0 / exact, 1, 0.01)
                << ratio << " " << code;
        }
    }
}

TEST(Gas, a_climate_that_is_steep_between_neighbours_is_taken_as_straight) {
    static constexpr ClimateTable<2, 2> table = {{20_degC, 21_degC},
                                                 {33_percent_RH, 34_percent_RH},
                                                 {10_times, 10_times, 0.1_times, 0.1_times}};
    static constexpr auto entries = detail::entries_of(table);
    for (int32_t t = 20'000; t <= 21'000; t += 10) {
        const double exact = std::log2(10.0) * (1 - 2 * (t - 20'000) / 1000.0);
        EXPECT_NEAR(climate_correction({entries.row_at, entries.inverse_row, 2},
                                       {entries.column_at, entries.inverse_column, 2}, entries.logs,
                                       Temperature::from_thousandths(t), 33.5_percent_RH) /
                        2048.0,
                    exact, 0.004)
            << t;
    }
}

TEST(Pulses, more_edges_than_are_counted_are_no_speed) {
    constexpr auto spec = turning_speed(2).by_window(60_s).fastest(30'000_rpm);
    static_assert(spec.window_is_possible());
    static_assert(!spec.fastest(100'000_rpm).is_possible());
    // Where nothing is said, as fast as its window can count, or 100,000.
    static_assert(turning_speed(2).by_window(60_s).fastest() == 32'500_rpm);
    static_assert(turning_speed(2).by_window(10_s).fastest() == 100'000_rpm);
    static_assert(frequency(1).is_possible() && frequency(1).fastest() == 65'000_Hz);
    static_assert(frequency(2).by_period().fastest() == 100'000_Hz);
    static_assert(!frequency(1).fastest(0_Hz).is_possible());
    PulseRateState<TurningSpeed> state;
    uint32_t edges = 0;
    Reading<TurningSpeed> is;
    for (uint32_t now = 0; now <= 121'000; now += 100) {
        edges += 200; // 60,000 rpm
        is = state.read(spec, spec.factor(), Instant(now),
                        {static_cast<uint16_t>(edges), 500, true});
    }
    EXPECT_EQ(is.health(), Health::out_of_range);
    for (uint32_t now = 121'100; now <= 260'000; now += 100) {
        edges += 20;
        is = state.read(spec, spec.factor(), Instant(now),
                        {static_cast<uint16_t>(edges), 5000, true});
    }
    EXPECT_NEAR(is.value_or({}).thousandths() / 1000.0, 6000, 6);
}

TEST(ValueTable, its_first_and_last_points_are_read) {
    std::mt19937 random(3);
    for (int i = 0; i < 600; ++i) {
        PointsCurve<Length, 4> curve;
        uint16_t code = static_cast<uint16_t>(600 + random() % 4000);
        int32_t value = static_cast<int32_t>(random() % 1000) * 1000;
        const int32_t sense = random() % 2 == 0 ? 1 : -1;
        for (auto& point : curve.points) {
            point = {code, Length::from_thousandths(value)};
            code = static_cast<uint16_t>(code + 40 + random() % 15'000);
            value += sense * static_cast<int32_t>(1 + random() % (i % 2 == 0 ? 3000 : 300'000));
        }
        const auto spec = ValueTableSpec<Length, 4>(curve).bits(16);
        if (!spec.is_possible())
            continue;
        const CodeRange range = spec.code_range();
        for (const auto& point : {curve.points[0], curve.points[3]}) {
            ASSERT_EQ(range.health_of(Sample(point.code)), Health::ok) << i << " " << point.code;
            const int32_t is = value_by_points(
                spec.lines(), [&](int line) { return spec.entry(static_cast<uint8_t>(line)); },
                point.code);
            EXPECT_NEAR(is, point.value.thousandths(), 2 + std::abs(value) / 50'000) << i;
        }
    }
}

/// Each code that a table in a device reads, beside the lines through its points.
template <const auto& Spec> void expect_lines() {
    const CodeRange range = Spec.code_range();
    for (uint32_t code = range.first; code <= range.last; ++code) {
        const auto is = ValueTable<Spec>().read(Sample(static_cast<uint16_t>(code)));
        ASSERT_EQ(is.health(), Health::ok) << code;
        ASSERT_NEAR(is.value_or({}).thousandths(),
                    Spec.curve().value_at(static_cast<uint16_t>(code)), 2)
            << code;
    }
}
constexpr auto three = value_table(at(112, 0_cm), at(480, 20_cm), at(900, 35_cm));
constexpr auto three_beyond = three.range(0_cm - 2_cm, 37_cm);
constexpr auto falling =
    value_table(at(40, 80_cm), at(200, 41_cm), at(500, 20_cm), at(700, 9_cm), at(990, 1_cm));
constexpr auto six = value_table(at(40, 0_cm), at(90, 7_cm), at(200, 9_cm), at(480, 20_cm),
                                 at(700, 26_cm), at(900, 35_cm));
constexpr auto seven_falling =
    value_table(at(30, 90_cm), at(90, 70_cm), at(200, 50_cm), at(480, 40_cm), at(700, 26_cm),
                at(900, 5_cm), at(1000, 1_cm));

TEST(ValueTable, in_a_device_is_its_lines_whether_they_are_few_or_many) {
    expect_lines<three>();
    expect_lines<three_beyond>();
    expect_lines<falling>();
    expect_lines<six>();
    expect_lines<seven_falling>();
}

template <uint8_t N> void expect_mean(std::mt19937& random) {
    std::uniform_int_distribution<int32_t> all(-2'000'000'000, 2'000'000'000), few(-50, 50);
    for (int i = 0; i < 500; ++i) {
        Reading<Length> list[N];
        int64_t sum = 0;
        for (Reading<Length>& one : list) {
            const int32_t value = i % 2 == 0 ? all(random) : few(random);
            sum += value;
            one = Reading<Length>::of_bounded(Length::from_thousandths(value));
        }
        const auto exact = static_cast<int64_t>(std::floor((static_cast<double>(sum) + N / 2) / N));
        const auto is = detail::mean_of_all(list);
        ASSERT_EQ(is.value_or({}).thousandths(), exact) << int{N};
        ASSERT_EQ(mean(list, N, 1).value_or({}).thousandths(), exact) << int{N};
        list[random() % N] = Reading<Length>::without_value(Health::no_echo);
        ASSERT_EQ(detail::mean_of_all(list).health(), Health::no_echo);
        ASSERT_EQ(mean(list).health(), Health::no_echo);
    }
}

TEST(Mean, of_all_readings_is_exact_to_the_ends_of_what_a_number_holds) {
    std::mt19937 random(8);
    expect_mean<2>(random);
    expect_mean<3>(random);
    expect_mean<4>(random);
    expect_mean<7>(random);
    expect_mean<8>(random);
    expect_mean<16>(random);
}

TEST(HumidityChip, what_is_far_from_any_humidity_has_no_value) {
    const auto air = Reading<Temperature>::of(25_degC);
    const auto factor = [](uint16_t) { return int32_t{32'768}; };
    const struct {
        RelativeHumidity raw;
        bool ok;
        RelativeHumidity is;
    } cases[] = {{50_percent_RH, true, 50_percent_RH},
                 {105_percent_RH, true, 100_percent_RH},
                 {132_percent_RH, false, 0_percent_RH},
                 {RelativeHumidity{} - 5_percent_RH, true, 0_percent_RH},
                 {RelativeHumidity{} - 20_percent_RH, false, 0_percent_RH}};
    for (const auto& c : cases) {
        const auto is = compensate(Reading<RelativeHumidity>::of_bounded(c.raw), air, factor);
        EXPECT_EQ(is.ok(), c.ok) << c.raw.thousandths();
        if (c.ok) {
            EXPECT_NEAR(is.value_or({}).thousandths(), c.is.thousandths(), 20);
        }
    }
}

TEST(Smoothing, makes_a_step_of_any_length_to_a_four_thousandth) {
    std::mt19937 random(2);
    std::uniform_real_distribution<double> constants(0, std::log(2.07e9)), times(-9, 4);
    for (int i = 0; i < 20'000; ++i) {
        const double constant = std::floor(std::exp(constants(random)));
        const double ms = std::floor(constant * std::exp(times(random)));
        if (ms > 2.07e9)
            continue;
        Smoothing<Temperature> smooth(Duration::from_thousandths(static_cast<int32_t>(constant)));
        smooth.pass(Instant(7), Reading<Temperature>::of(0_degC));
        const auto out =
            smooth.pass(Instant(7 + static_cast<uint32_t>(ms)),
                        Reading<Temperature>::of(Temperature::from_thousandths(2'000'000'000)));
        const double share = -std::expm1(-ms / constant);
        ASSERT_NEAR(out.value_or({}).thousandths() / 2e9, share, share / 4096 + 1e-9)
            << ms << " of " << constant;
    }
}

TEST(Photoresistor, runs_over_nowhere_in_the_widest_of_ranges) {
    std::mt19937 random(1);
    const auto among = [&random](double least, double most) {
        const double share = std::uniform_real_distribution<double>(0, 1)(random);
        return static_cast<int32_t>(least * std::pow(most / least, share));
    };
    int tried = 0;
    for (int i = 0; i < 20'000; ++i) {
        const auto part = photoresistor(Resistance::from_thousandths(among(1e5, 2e9)),
                                        Illuminance::from_thousandths(among(100, 1e8)),
                                        Ratio::from_thousandths(among(300, 1500)));
        const auto pull = Resistance::from_thousandths(among(1e5, 2e9));
        const auto spec = (i % 2 == 0 ? part.pull_down(pull) : part.pull_up(pull))
                              .bits(static_cast<uint8_t>(8 + i % 3 * 2))
                              .range(0.1_lx, PhotoresistorSpec::largest);
        if (!spec.is_possible() || !spec.codes_can_be_told())
            continue;
        ++tried;
        for (const uint16_t code : {spec.first_code(), spec.last_code()})
            ASSERT_LT(spec.law().value_at(code), 1'010'000'000) << i; // a million and 1 %
    }
    EXPECT_GT(tried, 1000);
}

} // namespace
