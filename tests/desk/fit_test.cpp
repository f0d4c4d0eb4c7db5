// SPDX-License-Identifier: MIT
// Calibration: known coefficients out of noisy pairs, and nonsense told.
#include "bench/fit/fit.hpp"
#include "rig/rig_file.hpp"
#include "rig/run/running_rig.hpp"
#include "rig/sense/forward.hpp"
#include "rig/text/files.hpp"
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <map>

namespace {

using namespace zorilla;
using bench::FitModel;
using bench::FitTask;
using desk::has;
using rig::Noise;

/// A sensor whose coefficients are known, and how it is measured.
struct Known {
    const char* name;
    FitTask task; ///< without points
    std::map<std::string, double> coefficients;
    std::function<double(double)> truth; ///< of a raw value
    double low, high;                    ///< raw values
    double noise;                        ///< of the true value; of a power law a share
};

std::vector<Known> all_known() {
    std::vector<Known> out;
    FitTask ohms;
    ohms.data.file = "x.csv";
    ohms.data.raw_name = "raw";
    ohms.data.raw_unit = "ohm";
    ohms.data.kind = rig::Kind::temperature;
    ohms.model = FitModel::beta;
    out.push_back({"beta",
                   ohms,
                   {{"beta", 3950}, {"nominal", 10'000}},
                   [](double r) { return 1 / (1 / 298.15 + std::log(r / 10'000) / 3950) - 273.15; },
                   2'000,
                   60'000,
                   0.2});
    ohms.model = FitModel::steinhart_hart;
    constexpr double a = 1.129148e-3, b = 2.34125e-4, c = 8.76741e-8;
    out.push_back({"steinhart-hart",
                   ohms,
                   {{"A", a}, {"B", b}, {"C", c}},
                   [](double r) {
                       const double x = std::log(r);
                       return 1 / (a + b * x + c * x * x * x) - 273.15;
                   },
                   1'000,
                   100'000,
                   0.1});
    ohms.model = FitModel::power;
    ohms.data.kind = rig::Kind::light;
    out.push_back({"power",
                   ohms,
                   {{"gamma", 0.7}, {"resistance", 12'000}},
                   [](double r) { return 10 * std::pow(r / 12'000, -1 / 0.7); },
                   500,
                   80'000,
                   0.05});
    FitTask codes = ohms;
    codes.data.raw_unit = "code";
    codes.model = FitModel::linear;
    codes.data.kind = rig::Kind::length;
    out.push_back({"linear",
                   codes,
                   {{"gain", 0.4}, {"offset", -31}},
                   [](double code) { return 0.4 * code - 31; },
                   100,
                   900,
                   2});
    codes.model = FitModel::table;
    codes.knots = {100, 300, 500, 900};
    out.push_back({"table",
                   codes,
                   {{"at 100", 0}, {"at 300", 50}, {"at 500", 80}, {"at 900", 300}},
                   [](double code) {
                       return code < 300   ? (code - 100) * 0.25
                              : code < 500 ? 50 + (code - 300) * 0.15
                                           : 80 + (code - 500) * 0.55;
                   },
                   100,
                   900,
                   1.5});
    return out;
}

FitTask noisy(const Known& known, int points, Noise& noise) {
    FitTask task = known.task;
    for (int i = 0; i < points; ++i) {
        const double along = static_cast<double>(i) / (points - 1);
        const double raw = known.task.data.raw_unit == "ohm"
                               ? known.low * std::pow(known.high / known.low, along)
                               : std::round(known.low + (known.high - known.low) * along);
        double truth = known.truth(raw);
        truth = known.task.model == FitModel::power ? truth * std::exp(known.noise * noise.normal())
                                                    : truth + known.noise * noise.normal();
        task.data.points.push_back({static_cast<uint64_t>(i) + 2, raw, truth});
    }
    return task;
}

TEST(Fit, coefficients_come_back_within_twice_their_standard_errors) {
    for (const Known& known : all_known()) {
        Noise noise(42);
        std::map<std::string, int> within;
        constexpr int sets = 400;
        for (int set = 0; set < sets; ++set) {
            const bench::FitResult result = bench::fit(noisy(known, 30, noise));
            for (const bench::Coefficient& c : result.coefficients)
                if (std::fabs(c.value - known.coefficients.at(c.name)) <= 2 * c.error)
                    ++within[c.name];
        }
        EXPECT_EQ(within.size(), known.coefficients.size());
        for (const auto& [name, count] : within) {
            printf("  %-14s %-10s within twice its standard error in %.1f of 100 sets\n",
                   known.name, name.c_str(), 100.0 * count / sets);
            EXPECT_GE(count, sets * 93 / 100) << known.name << " " << name;
            EXPECT_LT(count, sets) << "errors that are never exceeded are too large";
        }
    }
}

TEST(Fit, a_mistyped_pair_is_named_and_spoils_nothing) {
    for (const Known& known : all_known()) {
        Noise noise(4);
        FitTask task = noisy(known, 20, noise);
        // At the very end, where it has most leverage.
        task.data.points.back().truth += known.task.model == FitModel::power
                                             ? 9 * task.data.points.back().truth
                                             : 80 * known.noise;
        const bench::FitResult result = bench::fit(task);
        ASSERT_FALSE(result.warnings.empty()) << known.name;
        EXPECT_TRUE(has(result.warnings.front(), "line 21:")) << result.warnings.front();
        EXPECT_TRUE(result.points.back().outlier);
        for (size_t i = 0; i + 1 < result.points.size(); ++i)
            EXPECT_FALSE(result.points[i].outlier) << known.name << " " << i;
        // The last value of a table rests on few other points.
        for (const bench::Coefficient& c : result.coefficients)
            EXPECT_NEAR(c.value, known.coefficients.at(c.name), 5 * c.error)
                << known.name << " " << c.name;
    }
}

TEST(Fit, exact_pairs_give_the_coefficients_exactly) {
    for (Known known : all_known()) {
        known.noise = 0;
        Noise noise(1);
        for (const bench::Coefficient& c : bench::fit(noisy(known, 12, noise)).coefficients)
            EXPECT_NEAR(c.value, known.coefficients.at(c.name),
                        1e-5 * std::fabs(known.coefficients.at(c.name)) + 1e-9)
                << known.name << " " << c.name;
    }
}

/// A file of pairs for the tool.
std::string pairs_of(const Known& known, int points, const std::string& raw_unit,
                     const std::string& unit) {
    Noise noise(8);
    std::string out = fmt::format("raw ({}),true ({})\n", raw_unit, unit);
    for (const bench::FitPoint& point : noisy(known, points, noise).data.points)
        out += fmt::format("{:.6g},{:.3f}\n", point.raw, point.truth);
    return out;
}

TEST(Fit, fragment_is_a_rig_that_reads_as_fitted_and_the_constant_compiles) {
    const desk::Folder folder;
    std::string program = "#include <zorilla/zorilla.hpp>\nusing namespace zorilla;\n";
    int number = 0;
    for (const Known& known : all_known()) {
        const std::string unit = rig::unit_of(known.task.data.kind);
        const std::string file =
            folder.write("x.csv", pairs_of(known, 20, known.task.data.raw_unit, unit));
        const std::string command =
            fmt::format("fit '{}' --model {} {}", file, known.name,
                        known.task.knots.empty() ? "" : "--knots 100,300,500,900");
        const desk::Outcome fragment = desk::zorilla(command + " --rig");
        ASSERT_EQ(fragment.status, 0) << known.name << fragment.err;
        EXPECT_TRUE(has(fragment.out, "# Fitted to x.csv, without a date: 20 points from"));
        EXPECT_TRUE(has(fragment.out, "# Worst residual")) << fragment.out;
        const rig::RigFile rig = rig::parse_rig(fragment.out);
        ASSERT_TRUE(rig.mistakes.empty()) << rig.mistakes.front().text << "\n" << fragment.out;
        // What the sensor of the rig makes of a code, beside the known truth.
        rig::RunningRig running(rig.rig);
        for (const int code : {300, 450, 600}) {
            const double raw =
                known.task.data.raw_unit == "ohm" ? 10'000.0 * code / (1024.0 - code) : code;
            const rig::Raw sample(int64_t{code});
            running.pass(Instant(0), &sample);
            const rig::AnyReading reading = running.readings()[0];
            ASSERT_TRUE(reading.ok()) << known.name << " " << code;
            const double truth = known.truth(raw);
            EXPECT_NEAR(reading.value_or({}).thousandths() / 1000.0, truth,
                        known.task.model == FitModel::power ? 0.06 * truth : 3 * known.noise)
                << known.name << " " << code;
        }
        std::string constant = desk::zorilla(command + " --cpp").out;
        const size_t at = constant.find("auto probe");
        ASSERT_NE(at, std::string::npos) << constant;
        constant.replace(at, 10, fmt::format("auto probe_{}", number));
        program += constant + fmt::format("static_assert(probe_{}.is_possible());\n", number++);
    }
    const desk::Outcome compiled =
        desk::shell(fmt::format("{} -std=c++17 -fsyntax-only -I{}/include '{}'", ZORILLA_CXX,
                                ZORILLA_SOURCE, folder.write("x.cpp", program)));
    EXPECT_EQ(compiled.status, 0) << compiled.err;
}

TEST(Fit, a_capture_whose_conditions_are_true_values_is_a_calibration) {
    const desk::Folder folder;
    std::string text = "time (s),probe (code),condition\n";
    int time = 0;
    for (const double celsius : {0.0, 12.5, 25.0, 40.0, 60.0}) {
        const double ohms = rig::beta_ohms(10'000, 3950)(celsius);
        for (int i = 0; i < 50; ++i)
            text += fmt::format("{},{},{} degC\n", time++,
                                std::lround(1024 * ohms / (ohms + 10'000)) + i % 3 - 1, celsius);
    }
    const std::string file = folder.write("x.csv", text);
    const desk::Outcome out = desk::zorilla("fit '" + file + "' --model beta --pull-up 10kohm");
    EXPECT_EQ(out.status, 0) << out.err;
    EXPECT_TRUE(has(out.out, "5 conditions, the median of each")) << out.out;
    double beta = 0;
    ASSERT_EQ(std::sscanf(out.out.c_str() + out.out.find("  beta "), " beta %lf", &beta), 1);
    EXPECT_NEAR(beta, 3950, 20);
}

TEST(Fit, trim_between_two_thermometers_is_a_key_for_the_rig) {
    const desk::Folder folder;
    const std::string file = folder.write(
        "x.csv", "shown (degC),true (degC)\n0.5,0\n20.7,20\n41,40\n61.2,60\n81.4,80\n");
    const desk::Outcome out =
        desk::zorilla("fit '" + file + "' --model linear --raw shown --true true --rig");
    ASSERT_EQ(out.status, 0) << out.err;
    const std::string key = out.out.substr(out.out.find("trim = "));
    const rig::RigFile rig = rig::parse_rig(
        "[sense.a]\npart = \"linear_chip\"\npin = \"ADC0\"\nslope = \"10 mV/K\"\nat_zero = \"500 "
        "mV\"\nreference = \"5 V\"\nrange = [\"-20 degC\", \"100 degC\"]\n" +
        key);
    ASSERT_TRUE(rig.mistakes.empty()) << rig.mistakes.front().text << key;
    rig::RunningRig running(rig.rig);
    const rig::Raw raw(int64_t{229}); // 61.8 degC untrimmed
    running.pass(Instant(0), &raw);
    EXPECT_NEAR(running.readings()[0].value_or({}).thousandths() / 1000.0,
                (61.816 - 0.5) * 80 / 80.9, 0.05);
}

TEST(Fit, tool_tells_nonsense_and_what_to_do) {
    struct Case {
        const char* what;
        std::string text;
        const char* options;
        int status;
        const char* told;
    };
    const std::string head = "raw (code),true (degC)\n";
    const std::string good = "791,0\n706,8.2\n594,18.2\n490,27.4\n361,39.8\n315,45\n";
    const char* const beta = "--model beta --pull-up 10kohm";
    const Case cases[] = {
        {"good", head + good, beta, 0, ""},
        {"other side", head + good, "--model beta --pull-down 10kohm", 2,
         "try --pull-down instead"},
        {"no resistor", head + good, "--model beta", 2, "--pull-up \"10 kohm\""},
        {"both resistors", head + good, "--model beta --pull-up 1kohm --pull-down 1kohm", 2,
         "not both"},
        {"constant raw", head + "500,1\n500,2\n500,3\n", beta, 2, "every raw value is 500"},
        {"constant truth", head + "500,3\n510,3\n520,3\n", beta, 2, "every true value is 3.0 degC"},
        {"one point", head + "500,3\n", beta, 2, "1 point, but this model has 2 coefficients"},
        {"beyond the converter", head + good + "1500,60\n", beta, 2, "x.csv:8: 1500 is no code"},
        {"broken wire", head + good + "0,60\n", beta, 2,
         "x.csv:8: 0 code and 60.0 degC stands for"},
        {"negative resistance", "raw (ohm),true (degC)\n1000,20\n-5,30\n", "--model beta", 2,
         "x.csv:3: a resistance of -5 cannot be"},
        {"mixed units", "raw (code),true\n791,0 degC\n706,46 degF\n", beta, 2,
         "x.csv:3: \"46 degF\" is in degF, but the values above are in degC"},
        {"against the header", head + "791,32 degF\n", beta, 2, "use one unit"},
        {"no unit", "raw (code),true\n791,0\n", beta, 2, "name it in the header"},
        {"unknown unit", "raw (code),true (celsius)\n791,0\n", beta, 2, "there is no unit"},
        {"no raw", "time (s),true (degC)\n791,0\n", beta, 2, "no column of raw values"},
        {"two raws", "a (code),b (code),true (degC)\n1,2,3\n", beta, 2, "choose one with --raw"},
        {"words", head + "abc,1\n", beta, 2, "x.csv:2: \"abc\" is not a number"},
        {"too many fields", head + "1,2,3\n", beta, 2, "x.csv:2: 3 fields where the header has 2"},
        {"nothing", head, beta, 2, "there is no row after the header"},
        {"light for a thermistor", "raw (code),true (lx)\n500,1\n600,2\n", beta, 2,
         "see --model power, linear or table"},
        {"not monotone", head + "100,0\n200,10\n300,5\n400,20\n", "--model table --knots 4", 2,
         "so a value would have two raw ones"},
        {"few points", head + "791,0\n594,18.2\n361,39.8\n", beta, 1, "are few"},
        {"no freedom", head + "791,0\n361,39.8\n", beta, 1, "goes through all of them"},
        {"close together", head + "594,18\n590,18.5\n584,19\n578,19.4\n572,19.9\n567,20.4\n",
         "--model beta --pull-up 10kohm --range \"-20 degC\" \"60 degC\"", 1, "lie close together"},
        {"wrong shape",
         head + "791,0\n751,4.2\n706,8.2\n656,12.9\n594,18.1\n544,22.7\n490,27.5\n"
                "450,31\n413,34.6\n361,39.7\n315,45.1\n281,49\n250,53\n",
         "--model linear", 1, "another shape"},
        {"captured words", "time (s),x (code),condition\n0,5,covered\n", beta, 2,
         "the condition \"covered\" is no true value"},
        {"captured mix", "time (s),x (code),condition\n0,5,2 degC\n1,9,40 degF\n", beta, 2,
         "use one unit"},
        {"unknown model", head + good, "--model cubic", 2, "--model"},
        {"range upside down", head + good,
         "--model beta --pull-up 10kohm --range \"9 degC\" \"2 degC\"", 2, "must lie below"},
        {"half a supply", head + good, "--model beta --pull-up 10kohm --supply 5V", 2, "together"},
    };
    for (const Case& c : cases) {
        const desk::Folder folder;
        const desk::Outcome out =
            desk::zorilla(fmt::format("fit '{}' {}", folder.write("x.csv", c.text), c.options));
        EXPECT_EQ(out.status, c.status) << c.what << "\n" << out.out << out.err;
        EXPECT_TRUE(has(out.err, c.told)) << c.what << "\n" << out.err;
    }
}

TEST(Fit, figure_shows_units_and_residuals) {
    const desk::Folder folder;
    const std::string file = folder.write("x.csv", pairs_of(all_known()[0], 12, "ohm", "degC"));
    ASSERT_EQ(
        desk::zorilla(fmt::format("fit '{}' --model beta --figure '{}'", file, folder / "f.svg"))
            .status,
        0);
    const std::string figure = desk::read_all(folder / "f.svg");
    for (const char* text : {"temperature (degC)", "residual (K)", "raw (ohm)"})
        EXPECT_TRUE(has(figure, text)) << text;
}

} // namespace
