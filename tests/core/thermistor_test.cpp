// SPDX-License-Identifier: MIT
// Thermistors and linear chips against their formulas in double precision.
#include <zorilla/sense/sense.hpp>

#include <gtest/gtest.h>

#include <cmath>
#include <random>
#include <vector>

namespace {

using namespace zorilla;

/// A part with its divider, in numbers that the double model uses apart from the library.
struct Part {
    double nominal, beta, pull;
    bool to_ground;
    int bits;

    ThermistorSpec spec() const {
        const auto ohms = [](double r) {
            return Resistance::from_thousandths(static_cast<int32_t>(r));
        };
        const auto start =
            thermistor(ohms(nominal),
                       TemperatureDifference::from_thousandths(static_cast<int32_t>(beta * 1000)));
        return (to_ground ? start.pull_up(ohms(pull)) : start.pull_down(ohms(pull)))
            .bits(static_cast<uint8_t>(bits));
    }
    double exact(int code) const {
        const double share = code / std::pow(2.0, bits);
        const double r = to_ground ? pull * share / (1 - share) : pull * (1 - share) / share;
        return 1 / (1 / 298.15 + std::log(r / nominal) / beta) - 273.15;
    }
};

template <class Spec> struct Table {
    explicit Table(const Spec& part) : spec(part), plan(spec.plan()), entries(plan.entries) {
        fill_table(spec.curve(), plan, entries.data());
    }
    Reading<Temperature> read(int code) const {
        return read_temperature(
            spec.wire_ends(), plan, [this](uint16_t i) { return entries[i]; },
            Sample(static_cast<uint16_t>(code)));
    }
    Spec spec;
    TablePlan plan;
    std::vector<int16_t> entries;
};

double library_log(uint32_t x) {
    return static_cast<double>(detail::natural_log(x)) / 1073741824.0;
}

TEST(Logarithm, is_that_of_the_host_within_its_stated_error) {
    std::mt19937 random(5);
    for (uint32_t x = 1; x < 100'000; ++x)
        ASSERT_NEAR(library_log(x), std::log(x), 2e-8) << x;
    for (int i = 0; i < 100'000; ++i) {
        const auto x = static_cast<uint32_t>(random() | 1);
        ASSERT_NEAR(library_log(x), std::log(x), 2e-8) << x;
    }
}

TEST(Thermistor, is_as_close_to_the_model_as_it_says_for_any_part_on_any_converter) {
    std::mt19937 random(11);
    const auto between = [&](double low, double high) {
        return std::uniform_real_distribution<double>(low, high)(random);
    };
    int parts = 0;
    for (int attempt = 0; attempt < 400; ++attempt) {
        Part part{std::round(std::pow(10, between(3, 5.3))), std::round(between(2500, 5000)), 0,
                  random() % 2 == 0, 8 + static_cast<int>(random() % 9)};
        part.pull = std::round(part.nominal * std::pow(10, between(-0.7, 0.7)));
        const double low = between(-35, 20), high = low + between(15, 90);
        const auto degrees = [](double t) {
            return Temperature::from_thousandths(static_cast<int32_t>(t * 1000));
        };
        const ThermistorSpec spec = part.spec()
                                        .range(degrees(low), degrees(high))
                                        .accuracy(TemperatureDifference::from_thousandths(
                                            static_cast<int32_t>(between(10, 500))));
        ASSERT_TRUE(spec.is_possible());
        if (!spec.wires_can_be_told())
            continue;
        const Table<ThermistorSpec> table(spec);
        if (!table.plan.close_enough)
            continue;
        ++parts;
        ASSERT_LE(table.plan.largest_error, spec.accuracy().thousandths());
        ASSERT_LE(table.plan.entries, most_table_entries);
        for (int code = 0; code <= spec.full_scale(); ++code) {
            const auto reading = table.read(code);
            const double exact = part.exact(code);
            const bool inside = code > 0 && exact >= low && exact <= high;
            // Within a thousandth of an end of the range, either answer is right.
            if (code > 0 && std::min(std::fabs(exact - low), std::fabs(exact - high)) < 0.002)
                continue;
            ASSERT_EQ(reading.ok(), inside) << "code " << code << " is " << exact;
            if (inside) {
                ASSERT_LE(std::fabs(reading.value_or({}).thousandths() - exact * 1000),
                          table.plan.largest_error + 0.51)
                    << "code " << code << " of " << part.bits << " bits";
            }
        }
    }
    EXPECT_GT(parts, 200) << "too few of the random parts were usable";
}

TEST(Thermistor, tells_broken_and_shorted_wires_from_cold_and_hot_on_either_side) {
    const auto part = thermistor(10_kohm, 3950_K).bits(10).range(-30_degC, 80_degC);
    const Table<ThermistorSpec> up(part.pull_up(10_kohm)), down(part.pull_down(10_kohm));
    const struct {
        int code;
        Health with_pull_up, with_pull_down;
    } cases[] = {
        {0, Health::short_circuit, Health::open_circuit},
        {7, Health::short_circuit, Health::open_circuit},
        {8, Health::out_of_range, Health::out_of_range},
        {512, Health::ok, Health::ok},
        {1015, Health::out_of_range, Health::out_of_range},
        {1016, Health::open_circuit, Health::short_circuit},
        {1023, Health::open_circuit, Health::short_circuit},
    };
    for (const auto& c : cases) {
        EXPECT_EQ(up.read(c.code).health(), c.with_pull_up) << c.code;
        EXPECT_EQ(down.read(c.code).health(), c.with_pull_down) << c.code;
    }
    EXPECT_EQ(up.read(512).value_or({}), Temperature(25_degC));
}

// Built by the compiler, for the widest converter too; a device may hold the library to its word.
constexpr auto narrow = thermistor(10_kohm, 3950_K).pull_up(10_kohm).bits(8).accuracy(0.1_K);
constexpr auto common = thermistor(10_kohm, 3950_K).pull_up(10_kohm).bits(10);
constexpr auto wide =
    thermistor(100_kohm, 4250_K).pull_down(47_kohm).bits(16).range(-20_degC, 80_degC);
constexpr auto chip = linear_chip(10_mV_per_K, 500_mV).reference(5_V);
static_assert(LinearChip<chip>::largest_error() <= 0.01_K);
static_assert(LinearChip<chip>::plan.entries == 3, "a line needs no more");
static_assert(Thermistor<narrow>::largest_error() <= 0.1_K);
static_assert(Thermistor<common>::largest_error() <= 0.05_K);
static_assert(Thermistor<wide>::largest_error() <= 0.05_K);

template <class Compiled, class Spec> void expect_same_as_at_run_time(const Spec& spec) {
    const Table<Spec> table(spec);
    const Compiled compiled;
    for (int code = 0; code <= spec.full_scale(); ++code) {
        const auto a = compiled.read(Sample(static_cast<uint16_t>(code)));
        const auto b = table.read(code);
        ASSERT_EQ(a.health(), b.health()) << code;
        ASSERT_EQ(a.value_or({}), b.value_or({})) << code;
    }
    EXPECT_EQ(compiled.read(Sample()).health(), Health::missing);
}

TEST(Thermistor, has_the_same_table_from_the_compiler_as_at_run_time) {
    expect_same_as_at_run_time<Thermistor<narrow>>(narrow);
    expect_same_as_at_run_time<Thermistor<common>>(common);
    expect_same_as_at_run_time<Thermistor<wide>>(wide);
    expect_same_as_at_run_time<LinearChip<chip>>(chip);
}

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

TEST(LinearChip, is_within_a_hundredth_of_its_line_for_any_chip_on_any_converter) {
    std::mt19937 random(23);
    const auto between = [&](int low, int high) {
        return std::uniform_int_distribution<int>(low, high)(random);
    };
    int chips = 0;
    for (int attempt = 0; attempt < 1000; ++attempt) {
        const int slope = between(0, 1) == 0 ? between(1000, 30'000) : -between(1000, 30'000);
        const int at_zero = between(-500'000, 3'000'000), reference = between(1'000'000, 5'000'000);
        const int bits = between(8, 16), low = between(-40'000, 50'000);
        const int high = low + between(10'000, 100'000);
        const LinearChipSpec spec =
            linear_chip(VoltagePerKelvin::from_thousandths(slope),
                        Voltage::from_thousandths(at_zero))
                .reference(Voltage::from_thousandths(reference))
                .bits(static_cast<uint8_t>(bits))
                .range(Temperature::from_thousandths(low), Temperature::from_thousandths(high));
        ASSERT_TRUE(spec.is_possible());
        if (!spec.wires_can_be_told() || !spec.plan().close_enough)
            continue;
        ++chips;
        const Table<LinearChipSpec> table(spec);
        for (int code = 0; code <= spec.full_scale(); ++code) {
            const double exact =
                (code * 1.0 * reference / std::pow(2.0, bits) - at_zero) * 1000.0 / slope;
            if (std::min(std::fabs(exact - low), std::fabs(exact - high)) < 2)
                continue; // either answer is right
            const auto reading = table.read(code);
            ASSERT_EQ(reading.ok(), exact >= low && exact <= high) << code;
            if (reading.ok()) {
                ASSERT_LE(std::fabs(reading.value_or({}).thousandths() - exact), 10.51) << code;
            }
        }
        EXPECT_EQ(table.read(0).health(), Health::short_circuit);
        EXPECT_EQ(table.read(spec.full_scale()).health(), Health::open_circuit);
    }
    EXPECT_GT(chips, 200) << "too few of the random chips were usable";
}

TEST(ThermistorSpec, knows_what_cannot_be_right) {
    const auto fine = thermistor(10_kohm, 3950_K).pull_up(10_kohm);
    EXPECT_TRUE(fine.is_possible());
    for (const auto& wrong :
         {thermistor(0_kohm, 3950_K).pull_up(10_kohm), thermistor(10_kohm, 39_K).pull_up(10_kohm),
          thermistor(10_kohm, 3950_K), fine.pull_up(-10_kohm), fine.bits(7), fine.bits(17),
          fine.range(30_degC, 20_degC), fine.accuracy(0_K), fine.nominal_at(400_degC)})
        EXPECT_FALSE(wrong.is_possible());
}

} // namespace
