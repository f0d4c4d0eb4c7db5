// SPDX-License-Identifier: MIT
// Rig files: what they mean, and that every mistake is told where it is and how to mend it.
#include "rig/read/conditions.hpp"
#include "rig/rig_file.hpp"
#include "rig/run/running_rig.hpp"
#include "rig/text/text.hpp"
#include "tests/desk/process.hpp"
#include "tests/desk/rig_text.hpp"

#include <zorilla/sense/sense.hpp>

#include <gtest/gtest.h>

#include <random>

namespace {

using namespace zorilla;
using desk::has;

const char* const good = R"([rig]
name = "Heat lamp"
[board]
chip = "atmega328p"
[sense.roost]
part = "thermistor"
pin = "ADC0"
nominal = "10 kohm"
beta = "3950 K"
pull_up = "10 kohm"
range = ["-30 degC", "80 degC"]
[decide.cold]
of = "roost"
below = "39.2 degF"
release = "6 degC"
[drive.heat_lamp]
part = "relay"
pin = "PB0"
active = "low"
safe = "off"
min_on = "120 s"
claims = [ { when = "cold", then = "on" } ]
)";

/// The good rig with one line in place of another; an empty one takes it out.
std::string with(const std::string& line, const std::string& instead) {
    return desk::with(good, line + "\n", instead + "\n");
}

TEST(RigFile, means_what_it_says) {
    const rig::RigFile file = rig::parse_rig(good);
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    const rig::Rig& r = file.rig;
    EXPECT_EQ(r.name, "Heat lamp");
    ASSERT_EQ(r.senses.size(), 1u);
    EXPECT_EQ(r.sources[0].lowest, -30'000);
    EXPECT_EQ(r.senses[0].by_code.size(), 1024u);
    ASSERT_EQ(r.decides.size(), 1u);
    const auto points = rig::points_of(r.decides[0]);
    ASSERT_EQ(points.size(), 1u);
    EXPECT_EQ(points[0].at.thousandths(), 4000) << "written in Fahrenheit";
    EXPECT_EQ(points[0].words, "cold below");
    ASSERT_EQ(r.drives.size(), 1u);
    ASSERT_NE(r.drives[0].part->relay(), nullptr);
    EXPECT_EQ(r.drives[0].part->relay()->min_on(), 2_min);
    EXPECT_EQ(r.drives[0].part->relay()->level(on), Level::low);
    EXPECT_EQ(r.drives[0].claims[0].then, on);
}

TEST(RigFile, tells_every_mistake_where_it_is_and_how_to_mend_it) {
    const struct {
        const char* line;
        const char* instead;
        uint32_t at_line, at_column;
        const char* said;
    } cases[] = {
        {"nominal = \"10 kohm\"", "nominl = \"10 kohm\"", 8, 1, "did you mean \"nominal\"?"},
        {"[board]", "[bord]", 3, 2, "did you mean [board]?"},
        {"beta = \"3950 K\"", "beta = 3950", 9, 8, "write for example beta = \"3950 K\""},
        {"beta = \"3950 K\"", "beta = \"3950\"", 9, 8, "has no unit"},
        {"pull_up = \"10 kohm\"", "pull_up = \"10 degC\"", 10, 11,
         "is a temperature, but here a res"},
        {"pull_up = \"10 kohm\"", "pull_up = \"10 khom\"", 10, 11, "did you mean \"10 kohm\"?"},
        {"pull_up = \"10 kohm\"", "", 5, 1, "needs either \"pull_up\""},
        {"pull_up = \"10 kohm\"", "pull_up = \"-10 kohm\"", 10, 11, "between 1 ohm and"},
        {"pull_up = \"10 kohm\"", "pull_up = \"9999999 Mohm\"", 10, 11, "too large"},
        {"part = \"thermistor\"", "part = \"termistor\"", 6, 8, "did you mean \"thermistor\"?"},
        {"pin = \"ADC0\"", "pin = \"ADC8\"", 7, 7, "ADC0 to ADC7"},
        {"pin = \"PB0\"", "pin = \"PC0\"", 18, 7, "already used by [sense.roost] in line 7"},
        {"pin = \"PB0\"", "pin = \"B0\"", 18, 7, "write PB0 to PB5"},
        {"range = [\"-30 degC\", \"80 degC\"]", "range = [\"-90 degC\", \"80 degC\"]", 5, 1,
         "broken or shorted wire"},
        {"range = [\"-30 degC\", \"80 degC\"]", "range = [\"80 degC\", \"-30 degC\"]", 11, 9,
         "the lower end first"},
        {"range = [\"-30 degC\", \"80 degC\"]", "range = [\"-30 degC\"]", 11, 9, "the highest"},
        {"of = \"roost\"", "of = \"rost\"", 13, 6, "did you mean \"roost\"?"},
        {"release = \"6 degC\"", "release = \"2 degC\"", 15, 11,
         "must lie above the threshold 4 degC"},
        {"release = \"6 degC\"", "release = \"4.01 degC\"", 15, 11,
         "less than one count of the converter"},
        {"release = \"6 degC\"", "", 12, 1, "needs \"release\""},
        {"release = \"6 degC\"", "release = \"200 degC\"", 15, 11, "roost cannot measure 200 degC"},
        {"below = \"39.2 degF\"", "below = \"-29.9 degC\"", 14, 9, "from the end of roost's range"},
        {"safe = \"off\"", "", 16, 1, "needs \"safe\""},
        {"safe = \"off\"", "safe = \"of\"", 20, 8, "write \"off\" or \"on\""},
        {"active = \"low\"", "", 16, 1, "needs \"active\""},
        {"min_on = \"120 s\"", "min_on = \"30 d\"", 21, 10, "too large"},
        {"min_on = \"120 s\"", "longest_on = \"1 h\"", 16, 1, "needs a \"min_off\""},
        {"claims = [ { when = \"cold\", then = \"on\" } ]", "claims = [ { when = \"cold\" } ]", 22,
         12, "needs \"then\""},
        {"claims = [ { when = \"cold\", then = \"on\" } ]",
         "claims = [ { when = \"not (cold or hot)\", then = \"on\" } ]", 22, 35, "no [decide.hot]"},
        {"claims = [ { when = \"cold\", then = \"on\" } ]",
         "claims = [ { when = \"cold cold\", then = \"on\" } ]", 22, 27, "join names with"},
        {"claims = [ { when = \"cold\", then = \"on\" } ]", "claims = []", 22, 10,
         "1 to 250 claims"},
        {"[decide.cold]", "[decide.roost]", 12, 9, "already used by [sense.roost]"},
        {"[decide.cold]", "[decide.not]", 12, 9, "word with a meaning of its own"},
        {"chip = \"atmega328p\"", "chip = \"other\"", 3, 1, "needs \"adc_bits\""},
        {"chip = \"atmega328p\"", "adc_bits = 12", 4, 12, "converter of 10 bits"},
        {"min_on = \"120 s\"", "größe = 1", 21, 3, "\"ö\" may stand only in quotes"},
        {"min_on = \"120 s\"", "x = \"\"\"ä\"\"\"\"\"  é", 21, 16,
         "\"é\" may stand only in quotes"},
        {"name = \"Heat lamp\"", "name = ", 2, 8, "this is not TOML"},
    };
    for (const auto& c : cases) {
        const std::string all = desk::mistakes_of(with(c.line, c.instead));
        bool found = false;
        for (size_t from = 0, to; (to = all.find('\n', from)) != std::string::npos; from = to + 1) {
            const std::string one = all.substr(from, to - from);
            found = found || (one.rfind(fmt::format("{}:{}: ", c.at_line, c.at_column), 0) == 0 &&
                              has(one, c.said));
        }
        EXPECT_TRUE(found) << "after \"" << c.instead << "\", wanted " << c.at_line << ":"
                           << c.at_column << " with \"" << c.said << "\"; said\n"
                           << all;
    }
}

/// A sensor's table, then a decision about it; `{}` stands for the sensor's keys.
std::string sensor(const std::string& keys, const std::string& more = "") {
    return "[sense.air]\npart = \"humidity_frame\"\npin = \"PD2\"\ncoding = "
           "\"tenths\"\n[sense.it]\n" +
           keys + more;
}

TEST(RigFile, tells_what_cannot_be_right_in_any_sensor) {
    const std::string chip =
        "part = \"linear_chip\"\npin = \"ADC1\"\nslope = \"5 mV/degF\"\nat_zero = "
        "\"0.41 V\"\n";
    const std::string light = "part = \"photoresistor\"\npin = \"ADC1\"\nresistance = \"10 kohm\"\n"
                              "at_light = \"10 lx\"\npull_down = \"10 kohm\"\n";
    const std::string frame = "part = \"humidity_frame\"\npin = \"PD3\"\n";
    const std::string eye =
        "part = \"ranger\"\npin = \"PD3\"\nping_pin = \"PD4\"\nblind = \"2 cm\"\n";
    const std::string gas =
        "part = \"gas_sensor\"\npin = \"ADC1\"\npull_down = \"10 kohm\"\nzero = \"30 "
        "kohm\"\n";
    const std::string curve = "points = [[\"10 ppm\", 2.6], [\"200 ppm\", 0.7]]\n";
    const std::string pulses = "part = \"pulse_counter\"\npin = \"PD3\"\nedges_per_turn = 2\n";
    const std::string damp = "[decide.damp]\nof = \"air.humidity\"\nabove = \"70 %RH\"\n";
    const struct {
        std::string text;
        const char* said; ///< "" where there is nothing to say
    } cases[] = {
        {sensor(chip + "reference = \"5 V\"\n"), ""},
        {sensor(chip), "[sense.it] needs \"reference\""},
        {sensor(chip + "reference = \"50 V\"\n"), "\"reference\" must lie between 0.5 and 10 V"},
        {sensor(chip + "reference = \"5 kohm\"\n"),
         "is a resistance, but here a voltage is needed"},
        {sensor(chip + "reference = \"1.1 V\"\n"), "broken or shorted wire"},
        {sensor(chip + "reference = \"10 V\"\nrange = [\"0.1 degC\", \"10.1 degC\"]\n"),
         "fewer than 10 codes of the converter"},
        {sensor("part = \"thermistor\"\npin = \"ADC1\"\npull_up = \"10 kohm\"\ntable = [[\"0 "
                "degC\", \"30 "
                "kohm\"], [\"25 degC\", \"31 kohm\"], [\"50 degC\", \"4 kohm\"]]\n"),
         "its resistance one way"},
        {sensor("part = \"thermistor\"\npin = \"ADC1\"\npull_up = \"10 kohm\"\nsteinhart_hart = "
                "[1, 2, 3]\n"),
         "\"steinhart_hart\" must lie"},
        {sensor("part = \"thermistor\"\npin = \"ADC1\"\npull_up = \"10 kohm\"\nbeta = \"3950 "
                "K\"\npoints = "
                "[]\n"),
         "described twice"},
        {sensor(light + "gamma = 0.7\n"), ""},
        {sensor(light + "gamma = \"0.7\"\n"), "must be a plain number without a unit"},
        {sensor(light + "gamma = 7\n"), "between 0.3 and 1.5"},
        {sensor(frame + "coding = \"tenths\"\nevery = \"1 s\"\n"),
         "\"every\" must lie between 2 s and 1 h"},
        {sensor(frame + "coding = \"whole\"\nevery = \"1 s\"\n"), ""},
        {sensor(frame + "coding = \"wole\"\n"), "write \"whole\" or \"tenths\""},
        {sensor(eye + "far = \"4 m\"\ntemperature = \"air.temperature\"\n"), ""},
        {sensor(eye + "far = \"4 m\"\ntemperature = \"air.humidity\"\n"),
         "air.humidity is a relative humidity, but here a temperature is needed; write for example "
         "temperature = \"air.temperature\""},
        {sensor(eye + "far = \"4 m\"\ntemperature = \"air\"\n"), "air has two quantities"},
        {sensor(eye + "far = \"4 m\"\n"), "needs \"temperature\""},
        {sensor(eye + "far = \"9 m\"\ntemperature = \"20 degC\"\n"), "at most at 6 m"},
        {sensor(eye + "far = \"4 m\"\ntemperature = \"20 degC\"\nsilent_from = \"10 ms\"\n"),
         "about 6.5 ms for each metre"},
        {sensor(gas + curve), ""},
        {sensor(gas + "points = [[\"10 ppm\", 2.6]]\n"), "\"points\" must be a list of 2"},
        {sensor(gas + "points = [[\"10 ppm\", 0.7], [\"200 ppm\", 2.6]]\n"), "on a falling curve"},
        {sensor(gas + curve +
                "[sense.it.climate]\ntemperature = \"air.temperature\"\nhumidity = "
                "\"air.humidity\"\ntemperatures = [\"0 degC\", \"20 degC\"]\nhumidities = "
                "[\"30 %RH\", \"80 %RH\"]\nfactors = [[1.2, 1.1], [1.0]]\n"),
         "a row for each of the 2 temperatures"},
        {sensor("part = \"percent\"\npin = \"ADC1\"\ncode_at_0 = 600\ncode_at_100 = 603\n"),
         "at least 10 codes from"},
        {sensor("part = \"percent\"\npin = \"ADC1\"\ncode_at_0 = 1023\ncode_at_100 = 300\n"),
         "or write wire_check = \"off\""},
        {sensor("part = \"percent\"\npin = \"ADC1\"\ncode_at_0 = 1023\ncode_at_100 = "
                "300\nwire_check = "
                "\"off\"\n"),
         ""},
        {sensor("part = \"moisture_probe\"\npin = \"ADC1\"\ndry = 620\nwet = 210\n"),
         "needs \"power_pin\""},
        {sensor("part = \"digital_input\"\npin = \"PD3\"\n"), "needs \"active\""},
        {sensor("part = \"analogue_level\"\npin = \"ADC1\"\nlow = \"2.8 V\"\nhigh = \"1.2 "
                "V\"\nreference = "
                "\"5 V\"\n"),
         "\"high\" must lie above \"low\""},
        {sensor(pulses + "window = \"10 ms\"\n"), "between 100 ms and 60 s"},
        {sensor(pulses + "method = \"period\"\nwindow = \"1 s\"\n"), "drop it"},
        {sensor("part = \"value_table\"\npin = \"ADC1\"\npoints = [[112, \"0 cm\"], [900, \"5 "
                "kg\"]]\n"),
         "there is no unit \"kg\" for a length"},
        {sensor(light + "gamma = 0.7\nmedian = 4\n"), "an odd number from 3 to 15"},
        {sensor(light + "gamma = 0.7\nfastest_change = \"5 K/min\"\n"),
         "is a change of temperature, but here a change of illuminance is needed"},
        {sensor(light + "gamma = 0.7\nspread = 8\n"), "with \"extra_bits\" only; drop it"},
        {sensor("part = \"termistor\"\npin = \"ADC1\"\n"), "\"termistor\" is not a possible value"},
        {sensor(frame + "coding = \"whole\"\n", damp + "release = \"60 %RH\"\n"), ""},
        {sensor(frame + "coding = \"whole\"\n", damp + "release = \"60 degC\"\n"),
         "\"60 degC\" is a temperature, but here a relative humidity is needed; write for example "
         "\"70 "
         "%RH\""},
        {sensor(frame + "coding = \"whole\"\n", damp + "release = \"-5 %RH\"\n"),
         "air.humidity cannot measure -5 %RH: its range goes from 0 %RH to 100 %RH"},
        {sensor("part = \"digital_input\"\npin = \"PD3\"\nactive = \"low\"\n",
                "[decide.open]\nof = \"it\"\nabove = \"1 degC\"\nrelease = \"0 degC\"\n"),
         "it is yes or no already"},
        {sensor(frame + "coding = \"whole\"\n", "[derive.dew]\npart = \"dew_point\"\ntemperature = "
                                                "\"it.temperature\"\nhumidity = \"it.humidity\"\n"),
         ""},
        {sensor(frame + "coding = \"whole\"\n",
                "[derive.x]\npart = \"mean\"\nof = [\"it.temperature\", "
                "\"air.humidity\"]\n"),
         "air.humidity is a relative humidity, but here a temperature is needed"},
        {sensor(
             frame + "coding = \"whole\"\n",
             "[derive.x]\npart = \"difference\"\nof = [\"it.temperature\", \"air.temperature\"]\n"
             "[derive.y]\npart = \"air_heat\"\nflow = \"80 m3/h\"\nwarmer = \"x\"\n"
             "[derive.z]\npart = \"rate\"\nof = \"it.temperature\"\nwindow = \"5 min\"\n"
             "[decide.rising]\nof = \"z\"\nabove = \"2 K/min\"\nrelease = \"1 K/min\"\n"),
         ""},
    };
    for (const auto& c : cases) {
        const std::string all = desk::mistakes_of(c.text);
        EXPECT_EQ(desk::lines_of(all), *c.said == '\0' ? 0 : 1) << c.text << all;
        EXPECT_TRUE(has(all, c.said)) << c.text << "wanted: " << c.said << "\nsaid: " << all;
    }
}

TEST(RigFile, filters_and_switched_sensors_work_as_in_cpp) {
    const rig::RigFile file = rig::parse_rig(
        "[board]\nchip = \"other\"\nadc_bits = 10\n"
        "[sense.t]\npart = \"linear_chip\"\npin = \"A\"\nslope = \"10 mV/K\"\nat_zero = \"500 "
        "mV\"\n"
        "reference = \"5 V\"\nmedian = 5\nfastest_change = \"60 K/min\"\nsmooth = \"10 s\"\n"
        "stale_after = \"3 s\"\n"
        "[sense.hatch]\npart = \"digital_input\"\npin = \"B\"\nactive = \"low\"\n"
        "[drive.lamp]\npart = \"relay\"\npin = \"C\"\nactive = \"high\"\nsafe = \"off\"\n"
        "claims = [ { when = \"not hatch\", then = \"on\" } ]\n");
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    rig::RunningRig running(file.rig);
    const LinearChipSpec spec = linear_chip(10_mV_per_K, 500_mV).reference(5_V);
    const CodeRange range = spec.code_range();
    const StraightLine line = spec.curve().line(range.first);
    Median<5, Temperature> median;
    RateGate<Temperature> gate(60_K, 30_s);
    Smoothing<Temperature> smooth(10_s);
    Watch<Temperature> watch(0_s, 3_s);
    int healthy = 0;
    for (uint32_t i = 0; i < 2000; ++i) {
        const Instant now(i * 500);
        const Sample sample =
            i % 50 > 40 ? Sample()
                        : Sample(static_cast<uint16_t>(150 + i * 7919 % 13 + (i % 97 == 0) * 500));
        const rig::Raw raws[] = {rig::Raw(sample), rig::Raw(i % 200 < 100 ? 0 : 1)};
        running.pass(now, raws);
        const auto raw = read_by_line<Temperature>(range, line, sample);
        const auto expected = watch.pass(now, smooth.pass(now, gate.pass(now, median.pass(raw))));
        ASSERT_EQ(running.readings()[0].health(), expected.health()) << i;
        ASSERT_EQ(running.readings()[0].value_or({}).thousandths(),
                  expected.value_or({}).thousandths());
        healthy += expected.ok();
        // A level counts from the pass after it has changed.
        ASSERT_EQ(running.drivens()[0].is_on, i > 0 && (i - 1) % 200 >= 100) << i;
        ASSERT_EQ(running.drivens()[0].cause == Cause::safe, i == 0) << i;
    }
    EXPECT_TRUE(healthy > 1000 && healthy < 2000) << healthy;
}

TEST(RigFile, any_letter_may_stand_in_quotes_and_comments) {
    const rig::RigFile file =
        rig::parse_rig(with("name = \"Heat lamp\"", "name = \"Wärmelampe \\\" ø\" # für Hühner"));
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    EXPECT_EQ(file.rig.name, "Wärmelampe \" ø");
}

TEST(RigFile, a_wide_converter_of_another_chip_is_fine) {
    std::string text = with("chip = \"atmega328p\"", "chip = \"other\"\nadc_bits = 12");
    const rig::RigFile file = rig::parse_rig(text);
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    EXPECT_EQ(file.rig.senses[0].largest_raw, 4095);
}

/// Finds facts among plain names.
rig::FindFact among(std::vector<std::string> names) {
    return [names](const rig::FactText& fact, std::string& problem) -> std::optional<size_t> {
        const auto found = std::find(names.begin(), names.end(), fact.name);
        if (found != names.end() && fact.verb.empty())
            return static_cast<size_t>(found - names.begin());
        problem = "there is no such name";
        return std::nullopt;
    };
}

TEST(Condition, not_binds_before_and_before_or) {
    const std::vector<std::string> names = {"a", "b", "c"};
    const struct {
        const char* text;
        bool (*meaning)(bool, bool, bool);
    } cases[] = {
        {"a or b and c", [](bool a, bool b, bool c) { return a || (b && c); }},
        {"(a or b) and c", [](bool a, bool b, bool c) { return (a || b) && c; }},
        {"not a and b", [](bool a, bool b, bool) { return !a && b; }},
        {"not (a and not b) or c", [](bool a, bool b, bool c) { return !(a && !b) || c; }},
    };
    for (const auto& c : cases) {
        const rig::ConditionText read = rig::parse_condition(c.text, among(names));
        ASSERT_EQ(read.problem, "");
        for (unsigned bits = 0; bits < 8; ++bits) {
            const bool v[] = {(bits & 1) != 0, (bits & 2) != 0, (bits & 4) != 0};
            const Truth truths[] = {truth_of(v[0]), truth_of(v[1]), truth_of(v[2])};
            EXPECT_EQ(read.condition.evaluate(truths), truth_of(c.meaning(v[0], v[1], v[2])))
                << c.text << " with " << bits;
        }
    }
    const Truth truths[] = {Truth::unknown, Truth::no, Truth::yes};
    EXPECT_EQ(rig::parse_condition("a and b", among(names)).condition.evaluate(truths), Truth::no);
    EXPECT_EQ(rig::parse_condition("a and c", among(names)).condition.evaluate(truths),
              Truth::unknown);
}

TEST(Condition, one_too_deep_is_refused) {
    std::string deep;
    for (int i = 0; i < 1000; ++i)
        deep += "not ";
    EXPECT_TRUE(has(rig::parse_condition(deep + "a", among({"a"})).problem, "nested too deeply"));
}

TEST(Text, quantities_are_shown_in_full) {
    EXPECT_EQ(rig::to_text(-4250, rig::Kind::temperature, 1), "-4.25 degC");
    EXPECT_EQ(rig::to_text(4000, rig::Kind::temperature, 1), "4.0 degC");
    EXPECT_EQ(rig::to_text(2000, rig::per_minute_of(rig::Kind::temperature_difference)), "2 K/min");
    EXPECT_EQ(rig::reading_text(61'449, rig::Kind::humidity), "61.4 %RH");
    EXPECT_EQ(rig::reading_text(1'203'600, rig::Kind::light), "1204 lx");
    EXPECT_EQ(rig::to_text(4.7_kohm), "4.7 kohm");
    EXPECT_EQ(rig::to_text(330_ohm), "330 ohm");
    EXPECT_EQ(rig::span_to_text(0), "0 s");
    EXPECT_EQ(rig::span_to_text(90'250), "1 min 30 s 250 ms");
    EXPECT_EQ(rig::time_to_text(2 * 86'400'000LL + 3'661'005), "2d 01:01:01.005");
    EXPECT_EQ(rig::count_to_text(1'234'567), "1,234,567");
    EXPECT_EQ(rig::nearest("recieve", {"receive", "deceive"}), "receive");
    EXPECT_EQ(rig::nearest("xyz", {"receive"}), "");
}

TEST(Text, a_span_of_time_can_be_typed_as_it_is_told) {
    std::mt19937 random(11);
    for (int i = 0; i < 20'000; ++i) {
        const auto ms = static_cast<int32_t>(random() % 2'000'000'000U >> random() % 24);
        const std::string told = rig::span_to_text(ms);
        const rig::QuantityText read = rig::parse_quantity(told, rig::Kind::duration, "2 min");
        ASSERT_EQ(read.problem, "") << told;
        ASSERT_EQ(read.thousandths, ms) << told;
    }
    for (const char* odd :
         {"2 min 3 h", "2 min 2 min", "1 h 60 min", "2 h 3", "24 d 23 h", "2 h 3 K"})
        EXPECT_NE(rig::parse_quantity(odd, rig::Kind::duration, "2 min").problem, "") << odd;
}

} // namespace
