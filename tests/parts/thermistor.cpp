// SPDX-License-Identifier: MIT
// thermistor: formula and range, what its room delivers, and its faults.
#include "tests/parts/part.hpp"

namespace {

using namespace parts;

const char* const plain_thermistor =
    "part = \"thermistor\"\nnominal = \"10 kohm\"\nbeta = \"3950 K\"\npull_up = \"10 kohm\"\n";

TEST(Thermistor, of_any_kind_reads_what_its_formula_says) {
    try_parts(11, [](Random& random) {
        const double nominal = random.spread(1000, 200'000), beta = random.whole(2500, 5000);
        const auto exact = rig::beta_ohms(nominal, beta);
        const double low = random.whole(-35, 20), high = low + random.whole(15, 90);
        const DividerModel divider = any_divider(random, exact((low + high) / 2));
        const int bits = random.whole(8, 16);
        std::string keys = "part = \"thermistor\"\n" + divider_keys(divider) +
                           range_keys(low, high, "degC") + "accuracy = \"0.05 K\"\n";
        std::function<double(double)> ohms = exact;
        const auto point = [&](double celsius) {
            return std::make_pair(celsius, std::round(exact(celsius)));
        };
        const auto listed = [](std::vector<std::pair<double, double>> points) {
            std::string out;
            for (const auto& [celsius, r] : points)
                out += fmt::format("[\"{} degC\", \"{} ohm\"],", celsius, r);
            return out;
        };
        double absolute = 0.05;
        switch (random.whole(0, 2)) {
        case 0:
            keys += fmt::format("nominal = \"{} ohm\"\nbeta = \"{} K\"\n", nominal, beta);
            break;
        case 1: {
            std::vector<std::pair<double, double>> lines;
            for (double t = low - 5; t <= high + 6; t += 10)
                lines.push_back(point(t));
            keys += "table = [" + listed(lines) + "]\n";
            ohms = rig::table_ohms(lines);
            break;
        }
        default: {
            // The coefficients through three points, in double precision.
            const auto p = point(low), q = point(std::round((low + high) / 2)), r = point(high);
            keys += "points = [" + listed({p, q, r}) + "]\n";
            const auto l = [](auto x) { return std::log(x.second); };
            const auto y = [](auto x) { return 1 / (x.first + 273.15); };
            const double g2 = (y(q) - y(p)) / (l(q) - l(p)), g3 = (y(r) - y(p)) / (l(r) - l(p));
            const double c = (g3 - g2) / (l(r) - l(q)) / (l(p) + l(q) + l(r));
            const double b = g2 - c * (l(p) * l(p) + l(p) * l(q) + l(q) * l(q));
            const double a = y(p) - (b + l(p) * l(p) * c) * l(p);
            if (c < 1e-10) // rounded ohms of a pure Beta part: no curve of this kind
                return AnyPart{"", {}, 0, 0, 0, 0};
            ohms = rig::steinhart_hart_ohms(a, b, c);
        }
        }
        return AnyPart{keys, divider.model(ohms, bits), low, high, absolute, 0};
    });
}

TEST(Thermistor, that_strays_is_off_by_what_its_curve_makes_of_it) {
    Alone sensor(
        "part = \"thermistor\"\nnominal = \"10 kohm\"\nbeta = \"3950 K\"\npull_up = \"10 kohm\"\n",
        14);
    ASSERT_TRUE(sensor.usable()) << sensor.problems();
    rig::Noise quiet(1);
    const auto exact = rig::beta_ohms(10'000, 3950);
    const auto read = [&](double share) {
        const auto model = DividerModel{10'000}.model(rig::strayed(exact, share), 14);
        return value_of(sensor.read(model.at(20, quiet)));
    };
    EXPECT_NEAR(read(0), 20, 0.06);
    // dT = T^2 / B dR / R, the slope of the Beta model.
    EXPECT_NEAR(read(-0.05) - read(0), 0.05 * 293.15 * 293.15 / 3950, 0.08);
}

TEST(Thermistor, what_its_room_delivers_is_read_back) {
    expect_read_back(plain_thermistor, {21.5}, 0.1);
}

TEST(Thermistor, each_fault_is_told_by_its_own_health) {
    expect_faults(plain_thermistor, {21.5},
                  {{Fault::open, Health::open_circuit},
                   {Fault::shorted, Health::short_circuit},
                   {Fault::swapped, Health::open_circuit}});
}

const Cost thermistor_beta_costs{bank::thermistor_beta, "thermistor, Beta", 400};
const Cost thermistor_points_costs{bank::thermistor_points, "thermistor, three points", 400};
const Cost thermistor_coefficients_costs{bank::thermistor_coefficients,
                                         "thermistor, Steinhart-Hart", 400};
const Cost thermistor_lines_costs{bank::thermistor_lines, "thermistor, table (PTC)", 400};

double steinhart_hart(double ohms, double a, double b, double c) {
    const double l = std::log(ohms);
    return 1 / (a + b * l + c * l * l * l) - 273.15;
}

double through_points(double ohms, std::vector<std::pair<double, double>> p) {
    const auto l = [&](int i) { return std::log(p[static_cast<size_t>(i)].second); };
    const auto y = [&](int i) { return 1 / (p[static_cast<size_t>(i)].first + 273.15); };
    const double g2 = (y(1) - y(0)) / (l(1) - l(0)), g3 = (y(2) - y(0)) / (l(2) - l(0));
    const double c = (g3 - g2) / (l(2) - l(1)) / (l(0) + l(1) + l(2));
    const double b = g2 - c * (l(0) * l(0) + l(0) * l(1) + l(1) * l(1));
    return steinhart_hart(ohms, y(0) - (b + l(0) * l(0) * c) * l(0), b, c);
}

double by_lines(double ohms, const std::vector<std::pair<double, double>>& lines) {
    size_t i = 0;
    while (i + 2 < lines.size() && ohms > lines[i + 1].second)
        ++i;
    const double from = 1 / (lines[i].first + 273.15), to = 1 / (lines[i + 1].first + 273.15);
    return 1 / (from + (to - from) * std::log(ohms / lines[i].second) /
                           std::log(lines[i + 1].second / lines[i].second)) -
           273.15;
}

const Accuracy beta_exact{
    bank::thermistor_beta,
    "thermistor, Beta",
    "-30 to 80 degC",
    0.05,
    "degC",
    3,
    every_code(
        bank::thermistor_beta,
        [](double c) { return 1 / (1 / 298.15 + std::log(ratio(c)) / 3950) - 273.15; }, false,
        "degC")};
const Accuracy points_exact{
    bank::thermistor_points,
    "thermistor, three points",
    "-25 to 85 degC",
    0.05,
    "degC",
    3,
    every_code(
        bank::thermistor_points,
        [](double c) {
            return through_points(10'000 / ratio(c), {{-20, 97'070}, {25, 10'000}, {80, 1255}});
        },
        false, "degC")};
const Accuracy coefficients_exact{bank::thermistor_coefficients,
                                  "thermistor, Steinhart-Hart, other reference",
                                  "-10 to 60 degC",
                                  0.05,
                                  "degC",
                                  3,
                                  every_code(
                                      bank::thermistor_coefficients,
                                      [](double c) {
                                          return steinhart_hart(10'000 * ratio(c, 1024 * 3.3 / 5),
                                                                1.129148e-3, 2.34125e-4,
                                                                8.76741e-8);
                                      },
                                      false, "degC")};
const Accuracy lines_exact{bank::thermistor_lines,
                           "thermistor, table of a PTC",
                           "-40 to 125 degC",
                           0.05,
                           "degC",
                           3,
                           every_code(
                               bank::thermistor_lines,
                               [](double c) {
                                   return by_lines(
                                       1000 * ratio(c),
                                       {{-40, 567}, {0, 815}, {25, 1000}, {60, 1299}, {100, 1696}});
                               },
                               false, "degC")};

const CppMistakes thermistor_mistakes{
    {"constexpr auto p = thermistor(10_kohm, 3950_K).pull_up(10_kohm); Thermistor<p> t;", ""},
    {"constexpr auto p = thermistor(10_kohm, 3950_K); Thermistor<p> t;",
     "say which resistor forms the divider"},
    {"constexpr auto p = thermistor(10_kohm, 39_K).pull_up(10_kohm); Thermistor<p> t;",
     "Beta must lie between"},
    {"constexpr auto p = thermistor(10_kohm, 3950_K).pull_up(1_kohm); Thermistor<p> t;",
     "cannot be told from a broken or shorted wire"},
    {"constexpr auto p = thermistor(10_kohm, "
     "3950_K).pull_up(10_kohm).bits(16).accuracy(0.001_K);"
     "Thermistor<p> t;",
     "ask for less .accuracy()"},
    {"constexpr auto p = thermistor(point(0_degC, 30_kohm), point(25_degC, 30_kohm), "
     "point(50_degC, "
     "4_kohm)).pull_up(10_kohm); Thermistor<p> t;",
     "no thermistor's"},
    {"constexpr auto p = thermistor_table(point(0_degC, 30_kohm), point(25_degC, 31_kohm), "
     "point(50_degC, 4_kohm)).pull_up(10_kohm); Thermistor<p> t;",
     "resistance one way"}};

} // namespace
