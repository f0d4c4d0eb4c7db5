// SPDX-License-Identifier: MIT
// Quantities, temperatures, time and truth.
#include <zorilla/units/units.hpp>

#include <gtest/gtest.h>

#include <climits>
#include <cmath>
#include <random>

namespace {

using namespace zorilla;

TEST(Literals, mean_what_they_say) {
    EXPECT_EQ(Temperature(4_degC).thousandths(), 4000);
    EXPECT_EQ(Temperature(-20.5_degC).thousandths(), -20500);
    EXPECT_EQ(Temperature(39_degF).thousandths(), 3889);
    EXPECT_EQ(Temperature(-4_degF), Temperature(-20_degC)) << "the minus belongs to the scale";
    EXPECT_EQ(Temperature(277.15_K_absolute), Temperature(4_degC));
    EXPECT_EQ((2_K).thousandths(), 2000);
    EXPECT_EQ((9_degF_apart).thousandths(), 5000);
    EXPECT_EQ((10_kohm).thousandths(), 10'000);
    EXPECT_EQ((4.7_kohm), 4700_ohm);
    EXPECT_EQ(90_s, 1.5_min);
    EXPECT_EQ(2_h, 120_min);
    EXPECT_EQ(250_ms * 4, 1_s);
    EXPECT_EQ((1'000_ohm).thousandths(), 1000);
}

TEST(Temperature, points_and_differences_go_together_as_they_should) {
    EXPECT_EQ(4_degC + 2_K, Temperature(6_degC));
    EXPECT_EQ(Temperature(6_degC) - Temperature(4_degC), 2_K);
    EXPECT_LT(Temperature(39_degF), Temperature(4_degC));
    EXPECT_GE(Temperature(4_degC), Temperature(39.2_degF));
}

TEST(Temperature, goes_into_fahrenheit_and_kelvin_and_back_with_halves_away_from_zero) {
    std::mt19937 random(7);
    std::uniform_int_distribution<int32_t> any(-1'000'000'000, 1'000'000'000);
    for (int i = 0; i < 100'000; ++i) {
        const int32_t written = any(random);
        // Exactly, in ninths: celsius = (written - 32000) * 5 / 9.
        const int64_t ninths = (int64_t{written} - 32'000) * 5;
        const int64_t magnitude = (std::abs(ninths) * 2 + 9) / 18;
        const Temperature celsius = DegreesFahrenheit(written);
        ASSERT_EQ(celsius.thousandths(), ninths < 0 ? -magnitude : magnitude) << written;
        const int64_t fifths = int64_t{written} * 9;
        const int64_t up = (std::abs(fifths) * 2 + 5) / 10;
        const auto shown = DegreesFahrenheit(Temperature::from_thousandths(written));
        ASSERT_EQ(shown.thousandths(), (fifths < 0 ? -up : up) + 32'000) << written;
        const auto kelvin = DegreesKelvin(Temperature::from_thousandths(written));
        ASSERT_EQ(Temperature(kelvin).thousandths(), written);
    }
}

TEST(Quantity, saturates_and_its_reading_is_out_of_range) {
    const auto huge = Resistance::from_thousandths(INT32_MAX - 1);
    const Resistance sum = huge + 10_ohm;
    EXPECT_EQ(sum.thousandths(), INT32_MAX);
    EXPECT_TRUE(sum.is_saturated());
    EXPECT_EQ(Reading<Resistance>::of(sum).health(), Health::out_of_range);
    EXPECT_EQ((-huge - huge).thousandths(), INT32_MIN);
    EXPECT_EQ((huge * -3).thousandths(), INT32_MIN);
    const auto hot = Temperature::from_thousandths(INT32_MAX);
    EXPECT_TRUE((hot + 1_K).is_saturated());
    EXPECT_EQ(DegreesFahrenheit(hot).thousandths(), INT32_MAX);
    EXPECT_EQ((Temperature::from_thousandths(INT32_MIN) - 1_K).thousandths(), INT32_MIN);
    EXPECT_EQ(Reading<Temperature>::of(4_degC).health(), Health::ok);
}

TEST(Instant, differences_are_right_across_the_wrap) {
    EXPECT_EQ(Instant(500) - Instant(0xffff'ffff - 499), 1_s);
    EXPECT_EQ(Instant(0xffff'ff00) + 1_s, Instant(744));
    std::mt19937 random(3);
    for (int i = 0; i < 100'000; ++i) {
        const Instant from(static_cast<uint32_t>(random()));
        const auto span = Duration::from_thousandths(static_cast<int32_t>(random() >> 1));
        ASSERT_EQ((from + span) - from, span);
    }
}

TEST(Instant, what_has_passed_beside_a_duration) {
    for (const Instant since : {Instant(), Instant(77), Instant(0xffff'ff00)})
        for (const Duration span : {0_ms, 1_ms, 65'535_ms, 65'536_ms, 10_min, 576_h})
            for (const int32_t off : {-1, 0, 1}) {
                const Elapsed passed = since + span + Duration::from_thousandths(off) - since;
                EXPECT_EQ(passed < span, off < 0) << span.thousandths() << ' ' << off;
                EXPECT_EQ(passed >= span, off >= 0) << span.thousandths() << ' ' << off;
                EXPECT_EQ(passed <= span, off <= 0) << span.thousandths() << ' ' << off;
                EXPECT_EQ(passed > span, off > 0) << span.thousandths() << ' ' << off;
            }
    // What is over stays over for 24.8 days more, longer than a duration can be.
    EXPECT_TRUE(Instant() + 576_h + 576_h - Instant() >= 576_h);
}

TEST(Reading, gives_its_value_only_where_it_is_healthy) {
    EXPECT_EQ(Reading<Temperature>().health(), Health::missing);
    const auto broken = Reading<Temperature>::without_value(Health::open_circuit);
    EXPECT_FALSE(broken.ok());
    EXPECT_EQ(broken.value_or(99_degC), Temperature(99_degC));
    EXPECT_EQ(Reading<Temperature>::of(5_degC).value_or(99_degC), Temperature(5_degC));
}

TEST(Truth, follows_kleene) {
    const Truth n = Truth::no, u = Truth::unknown, y = Truth::yes;
    const Truth both[3][3] = {{n, n, n}, {n, u, u}, {n, u, y}};
    const Truth either[3][3] = {{n, u, y}, {u, u, y}, {y, y, y}};
    const Truth all[] = {n, u, y};
    for (int a = 0; a < 3; ++a)
        for (int b = 0; b < 3; ++b) {
            EXPECT_EQ(all[a] && all[b], both[a][b]);
            EXPECT_EQ(all[a] || all[b], either[a][b]);
        }
    EXPECT_EQ(!n, y);
    EXPECT_EQ(!u, u);
    EXPECT_EQ(!y, n);
}

TEST(Decimal, reads_plain_numbers_exactly_and_nothing_else) {
    const auto read = [](std::string_view text) { return parse_decimal(text.data(), text.size()); };
    EXPECT_EQ(read("-12.340").digits, -1234);
    EXPECT_EQ(read("-12.340").places, 2);
    EXPECT_EQ(read("0.001").digits, 1);
    for (const char* wrong :
         {"", "-", ".", "1e3", "0x10", "1.2.3", "4 ", "nan", "1234567890123456"})
        EXPECT_FALSE(read(wrong).valid) << wrong;
}

} // namespace
