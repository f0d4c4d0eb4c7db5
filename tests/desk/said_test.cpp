// SPDX-License-Identifier: MIT
// What a rig can say beside its plainest words, and what check and run say of it.
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <sstream>
#include <vector>

namespace {

using desk::has;
using desk::Outcome;

const std::string bench = R"toml([rig]
name = "Bench"
show = ["degF"]
[sense.knob]
part = "raw"
pin = "ADC1"
[sense.room]
part = "thermistor"
pin = "ADC0"
nominal = "10 kohm"
beta = "3950 K"
pull_up = "10 kohm"
[sense.tank]
part = "ranger"
pin = "PD2"
ping_pin = "PD7"
blind = "20 mm"
far = "4 m"
temperature = "20 degC"
hold = "2 s"
[sense.button]
part = "digital_input"
pin = "PD3"
active = "low"
debounce = "0 s"
[decide.steps]
of = "knob"
rising = ["256 counts", "512 counts"]
release = "250 counts"
[decide.glow]
of = "knob"
points = [["0 counts", "0 %"], ["1023 counts", "100 %"]]
[decide.warm]
of = "room"
above = "25 degC"
release = "20 degC"
[decide.let_go]
when = "falls(button)"
[machine.door]
start = "shut"
moves = [ { from = "shut", to = "ajar", when = "warm" }, { from = "ajar", to = "shut", when = "not warm" } ]
[pattern.breath]
steps = [["20 %", "1 s"], ["off", "1 s"]]
[pattern.beat]
steps = [["100 %", "1 s"], ["off", "1 s"]]
[drive.bar]
part = "led_bar"
pins = ["PB0", "PB4"]
lights = "top"
safe = "off"
claims = [ { then = "steps" } ]
[drive.idle]
part = "led"
pin = "PB1"
safe = "off"
rest = "breath"
claims = [ { when = "warm", then = "on" } ]
[drive.always]
part = "led"
pin = "PB2"
safe = "off"
claims = [ { then = "beat" } ]
[drive.lamp]
part = "led"
pin = "PB3"
safe = "off"
by_hand = { when = "button", then = ["30 %", "60 %"], longest = "1 h" }
claims = [ { then = "glow" } ]
[drive.gate]
part = "relay"
pin = "PD6"
active = "high"
safe = "off"
warn_off = "3 s"
claims = [ { when = "warm", then = "on" } ]
[drive.siren]
part = "relay"
pin = "PC3"
active = "high"
safe = "off"
claims = [ { when = "warns_off(gate)", then = "on" } ]
)toml";
const std::string said_rows =
    "time (s),knob (code),room (code),tank (us),button (level)\n"
    "0,0,400,2915,1\n1,300,400,none,0\n2,600,400,2915,1\n3,249,700,none,0\n"
    "4,249,700,none,1\n5,249,700,none,0\n6,249,700,none,1\n7,1023,700,2915,1\n";

/// A column of a table, without its name.
std::vector<std::string> column_of(const std::filesystem::path& file, const std::string& name) {
    std::istringstream table(desk::read_all(file));
    std::vector<std::string> out;
    std::string line, field;
    size_t at = 0;
    for (int row = 0; std::getline(table, line); ++row) {
        std::istringstream fields(line);
        for (size_t i = 0; std::getline(fields, field, ','); ++i)
            if (row == 0 && field == name)
                at = i;
            else if (row > 0 && i == at)
                out.push_back(field);
    }
    EXPECT_NE(at, 0u) << "no column " << name;
    return out;
}

/// A rig and a trace in a folder, and the tool in there.
class Bench {
  public:
    explicit Bench(const std::string& rig = bench) {
        folder_.write("rig.toml", rig);
        folder_.write("t.csv", said_rows);
    }
    Outcome tool(const std::string& arguments) const {
        return desk::shell(
            fmt::format("cd '{}' && {} {}", folder_.path().string(), ZORILLA_TOOL, arguments));
    }
    Outcome run(const std::string& more) const {
        return tool("run rig.toml --trace t.csv " + more);
    }
    /// A column of --csv, its fields joined by blanks.
    std::string column(const std::string& name) const {
        const Outcome out = run("--csv out.csv");
        EXPECT_EQ(out.status, 0) << out.err;
        std::vector<std::string> fields = column_of(folder_.path() / "out.csv", name);
        return fmt::format("{}", fmt::join(fields, " "));
    }

  private:
    desk::Folder folder_;
};

TEST(Said, each_word_does_what_it_says) {
    const Bench desk;
    const struct {
        const char* column;
        const char* fields;
    } columns[] = {
        {"knob (counts)", "0.000 300.000 600.000 249.000 249.000 249.000 249.000 1023.000"},
        {"tank health", "ok ok ok ok ok no echo no echo ok"}, // held for two seconds
        {"falls(button)", "no no yes no yes no yes no"},
        {"steps", "0 1 2 0 0 0 0 2"},
        {"glow (%)", "0.0 29.4 58.8 24.3 24.3 24.3 24.3 100.0"},
        {"door", "ajar ajar ajar shut shut shut shut shut"},
        {"bar", "off stage 1 stage 2 off off off off stage 2"},
        {"idle", "100 % 100 % 100 % off 20 % off 20 % off"},
        {"always", "100 % off 100 % off 100 % off 100 % off"},
        {"lamp", "off 30 % 30 % 60 % 60 % 24 % 24 % 100 %"}, // the third press hands back
        {"gate", "on on on on on on off off"},
        {"siren", "off off off on on on off off"},
    };
    for (const auto& one : columns)
        EXPECT_EQ(desk.column(one.column), one.fields) << one.column;
}

TEST(Said, check_and_run_tell_all_of_it_in_the_units_that_are_shown) {
    const Bench desk;
    const Outcome check = desk.tool("check rig.toml");
    EXPECT_EQ(check.status, 0) << check.err;
    const Outcome run = desk.run("");
    for (const char* sentence :
         {"stage 1 above 256 counts (code 257), lets go at 250 counts (code 250)",
          "room above 77 degF (code 511), lets go at 68 degF (code 570)", "breath otherwise",
          "30 %, then 60 % by hand when button", "warn_off 3 s"})
        EXPECT_TRUE(has(check.out, sentence)) << sentence << "\n" << check.out;
    for (const char* sentence :
         {"idle      pattern breath   no claim holds: room is 47.509 degF, warm lets go at 68 degF",
          "always    pattern beat     claim 1: it always asks",
          "siren     on               claim 1, \"warns_off(gate)\": gate warns before it switches "
          "off",
          "steps     stage 1          knob is 300 counts", "held for 3 s; not healthy for 2 s",
          "steps     moved 4 times; stage 0 for 5 s (71.4 %)", "door      ajar"})
        EXPECT_TRUE(has(run.out, sentence)) << sentence << "\n" << run.out;
    EXPECT_FALSE(has(run.out, "degC")) << run.out;

    const Outcome thin = desk.run("--only gate,steps --every \"2 s\"");
    EXPECT_TRUE(has(thin.out, "steps     stage 2          knob is 600 counts; 1 more before this"));
    EXPECT_FALSE(has(thin.out, "siren     on")) << thin.out;
    const Outcome wrong = desk.run("--only gat");
    EXPECT_EQ(wrong.status, 2);
    EXPECT_TRUE(has(wrong.err, "did you mean")) << wrong.err;
}

TEST(Said, why_explains_whatever_has_a_name) {
    const Bench desk;
    const std::pair<const char*, const char*> questions[] = {
        {"room@4 s", "room: 47.509 degF, from code 700 of 1023 on ADC0"},
        {"tank@4 s", "held, 2 s old"},
        {"steps@2 s", "Knob is 600 counts, and steps gives stage 2."},
        {"warm@4 s", "Warm is no (room is 47.509 degF, not above 77 degF)."},
        {"door@4 s", "It is in shut since 0d 00:00:03: from ajar"},
        {"gate@4 s", "Warns for 3 s before it switches off."},
        {"idle@4 s", "No claim holds: it shows its rest, breath."},
        {"always@4 s", "Claim 1, for beat: yes: it always asks."},
    };
    for (const auto& [question, answer] : questions) {
        const Outcome out = desk.run(fmt::format("--why \"{}\"", question));
        EXPECT_EQ(out.status, 0) << out.err;
        EXPECT_TRUE(has(out.out, answer)) << question << "\n" << out.out;
    }
}

TEST(Said, air_heat_takes_a_measured_flow) {
    const desk::Folder folder;
    std::string rig = "[sense.stream]\npart = \"value_table\"\npin = \"ADC2\"\npoints = [[100, "
                      "\"0 m3/h\"], [900, \"80 m3/h\"]]\n";
    for (const auto& [name, pin] : {std::pair("in", 0), {"out", 1}})
        rig += fmt::format("[sense.air_{}]\npart = \"linear_chip\"\npin = \"ADC{}\"\nslope = \"10 "
                           "mV/K\"\nat_zero = \"500 mV\"\nreference = \"5 V\"\n",
                           name, pin);
    rig +=
        "[derive.gap]\npart = \"difference\"\nof = [\"air_out\", \"air_in\"]\n[derive.heat]\npart "
        "= \"air_heat\"\nflow = \"stream\"\nwarmer = \"gap\"\n";
    const std::string csv = folder / "out.csv";
    const Outcome out = desk::zorilla(fmt::format(
        "run {} --trace {} --csv {}", folder.write("rig.toml", rig),
        folder.write("t.csv", "time (s),stream (code),air_in (code),air_out (code)\n0,500,150,190\n"
                              "1,900,150,190\n2,960,150,190\n"),
        csv));
    EXPECT_EQ(out.status, 0) << out.err;
    const auto warmer = column_of(csv, "gap (K)"), heat = column_of(csv, "heat (W)");
    ASSERT_EQ(heat.size(), 3u);
    for (size_t i = 0; i < 2; ++i) {
        const double flow = i == 0 ? 40 : 80;
        const double watts = std::stod(heat[i]);
        EXPECT_NEAR(watts, 1211.3 * flow / 3600 * std::stod(warmer[i]), 0.002 * watts);
        EXPECT_GT(watts, 100);
    }
    // A flow beyond the table has no heat.
    EXPECT_EQ(column_of(csv, "heat health").back(), "out of range");
}

/// Exactly what is wrong, and nothing that only follows from it.
TEST(Said, one_mistake_is_one_message) {
    const struct {
        const char* was;
        const char* is;
        const char* says;
    } mistakes[] = {
        {"part = \"thermistor\"", "part = \"thermister\"", "did you mean \"thermistor\"?"},
        {"nominal = \"10 kohm\"\n", "", "needs \"nominal\""},
        {"beta = \"3950 K\"", "betta = \"3950 K\"", "did you mean \"beta\"?"},
        {"of = \"room\"", "of = \"roon\"", "did you mean \"room\"?"},
        {"pin = \"PC3\"", "pin = \"PC1\"", "the pin PC1 (ADC1) is already used by [sense.knob]"},
        {"falls(button)", "falls(buton)", "did you mean \"button\"?"},
        {"warn_off = \"3 s\"\n", "",
         "warns_off(gate) can never be: [drive.gate] has no \"warn_off\""},
        {"rest = \"breath\"", "rest = \"breeth\"", "did you mean \"breath\"?"},
        {"show = [\"degF\"]", "show = [\"degf\"]", "is no unit"},
        {"release = \"20 degC\"", "release = \"20,5 degC\"", "20.5 degC"},
        {"above = \"25 degC\"", "above = \"25 C\"", "degC"},
        {"hold = \"2 s\"", "hold = \"2 h\"", "above 0, and up to 1 h"},
    };
    for (const auto& one : mistakes) {
        std::string rig = bench;
        rig.replace(rig.find(one.was), std::string(one.was).size(), one.is);
        const Outcome out = Bench(rig).tool("check rig.toml");
        EXPECT_EQ(out.status, 1) << one.is;
        EXPECT_TRUE(has(out.err + out.out, one.says)) << one.is << "\n" << out.err << out.out;
        EXPECT_TRUE(has(out.err + out.out, "1 mistake\n")) << one.is << "\n" << out.err << out.out;
    }
    // A hysteresis of one code is a matter of taste, and told.
    std::string rig = bench;
    rig.replace(rig.find("release = \"250 counts\""), 22, "release = \"255 counts\"");
    const Outcome taste = Bench(rig).tool("check rig.toml");
    EXPECT_EQ(taste.status, 0) << taste.err;
    EXPECT_TRUE(has(taste.err + taste.out, "take care: ")) << taste.err << taste.out;
}

/// The codes that check prints are those at which run turns, up and down, at every code.
TEST(Said, codes_of_check_are_those_of_run) {
    const char* parts[] = {
        "part = \"thermistor\"\nnominal = \"10 kohm\"\nbeta = \"3950 K\"\npull_down = \"10 kohm\"",
        "part = \"thermistor\"\nnominal = \"10 kohm\"\nbeta = \"3950 K\"\npull_up = \"10 kohm\"",
        "part = \"linear_chip\"\nslope = \"10 mV/K\"\nat_zero = \"500 mV\"\nreference = \"5 V\"",
    };
    for (const char* part : parts) {
        const std::string rig = fmt::format(
            "[sense.s]\n{}\npin = \"ADC0\"\n[decide.d]\nof = \"s\"\nabove = \"26.3 degC\"\n"
            "release = \"21.7 degC\"\n[drive.o]\npart = \"relay\"\npin = \"PB0\"\nactive = "
            "\"low\"\nsafe = \"off\"\nclaims = [ {{ when = \"d\", then = \"on\" }} ]\n",
            part);
        const desk::Folder folder;
        const std::string file = folder.write("rig.toml", rig);
        const std::string said = desk::zorilla("check " + file).out;
        int on_at = 0, off_at = 0;
        const size_t at = said.find("above 26.3 degC (code ");
        ASSERT_NE(at, std::string::npos) << said;
        ASSERT_EQ(std::sscanf(said.c_str() + at,
                              "above 26.3 degC (code %d), lets go at 21.7 degC (code %d)", &on_at,
                              &off_at),
                  2);
        const int step = on_at > off_at ? 1 : -1;
        std::string trace = "time (s),s (code)\n";
        const int codes[] = {off_at, on_at - step, on_at, off_at + step, off_at};
        for (size_t i = 0; i < 5; ++i)
            trace += fmt::format("{},{}\n", i, codes[i]);
        const std::string csv = folder / "out.csv";
        desk::zorilla(
            fmt::format("run {} --trace {} --csv {}", file, folder.write("t.csv", trace), csv));
        const std::vector<std::string> turns = {"no", "no", "yes", "yes", "no"};
        EXPECT_EQ(column_of(csv, "d"), turns) << part << "\n" << said;
    }
}

TEST(Said, an_action_that_looks_again_before_its_sensor_does_is_refused) {
    const std::string rig =
        "[sense.soil]\npart = \"moisture_probe\"\npin = \"ADC0\"\npower_pin = "
        "\"PD4\"\ndry = 800\nwet = 300\nevery = \"10 min\"\n[decide.dry]\nof = "
        "\"soil\"\nbelow = \"30 %\"\nrelease = \"40 %\"\n[decide.water]\nwhen = "
        "\"dry\"\nact_for = \"5 s\"\nrest_for = \"{}\"\n";
    const auto check = [&](const char* rest) {
        return Bench(fmt::format(fmt::runtime(rig), rest)).tool("check rig.toml");
    };
    EXPECT_EQ(check("10 min").status, 0) << check("10 min").err;
    const Outcome out = check("1 min");
    EXPECT_EQ(out.status, 1);
    EXPECT_TRUE(
        has(out.err, "it would act on what it knew before. Make \"rest_for\" at least \"10 min\""))
        << out.err;
}

} // namespace
