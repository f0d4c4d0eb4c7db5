// SPDX-License-Identifier: MIT
// The command-line tool as a user meets it: results on standard output, messages on standard
// error, exit status 0, 1 or 2.
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

namespace {

using desk::Folder;
using desk::has;
using desk::Outcome;
using desk::zorilla;

const std::string heat_lamp = ZORILLA_SOURCE "/examples/heat_lamp/heat_lamp.toml";

/// A trace of the roost: cold from the start, warm after 20 min, the wire off at 40 min.
std::string short_trace() {
    std::string out = "time (min),roost (code)\n";
    for (int minute = 0; minute < 60; ++minute)
        out += fmt::format("{},{}\n", minute, minute < 20 ? 790 : minute < 40 ? 680 : 1023);
    return out;
}

TEST(Tool, why_tells_the_way_from_the_samples_to_the_pin) {
    const Folder folder;
    const Outcome demo =
        desk::shell("cd '" + folder.path().string() + "' && " ZORILLA_TOOL " demo > /dev/null");
    ASSERT_EQ(demo.status, 0);
    const auto why = [&folder](const std::string& question) {
        return zorilla(
            fmt::format("run '{0}/hen_house.toml' --trace '{0}/winter.csv' --why \"{1}\"",
                        folder / "zorilla-demo", question));
    };
    const struct {
        const char* question;
        std::vector<const char*> lines; // in this order
    } cases[] = {
        {"heat_lamp@0d 00:02",
         {"cold is yes", "Kept off until min_off (5 min) is over, which power-up starts."}},
        {"heat_lamp@2d 02:30",
         {"heat_lamp at 2d 02:30:00: off\n", "roost: open circuit, from code 102",
          "cold is unknown (roost has an open circuit)", "Claim 2, \"cold\", for on: unknown",
          "cannot be told, and it has its safe value, off", "The pin PB0 is high",
          "since 2d 02:00:00"}},
        {"ventilator@1d 11:05",
         {"air_button: no, from 1 level on PC3", "By hand, for 100 %: yes: taken over with",
          "So the person's hand wins", "The pin PB2 is high all the time", "since 1d 11:00:05"}},
        {"ventilator@1d 13:30:00",
         {"ammonia: ", "foul is yes", "air asks for ", "those above it do not hold"}},
        {"ventilator@390 min", {"ventilator at 0d 06:30:00"}},
        {"status@2d 02:20:05",
         {"pattern red_flash, at this moment ",
          "watch is in alarm since 2d 02:16:00: from trouble, after 10 min", "watch is in alarm",
          "The pins PD5, PD6, PB3 are"}},
        {"dusk_lamp@16:30", {"dusk_lamp at 0d 16:30:00", "glow asks for", "parts of its time"}},
    };
    for (const auto& c : cases) {
        const Outcome told = why(c.question);
        EXPECT_EQ(told.status, 0) << told.err;
        size_t at = 0;
        for (const char* line : c.lines) {
            at = told.out.find(line, at);
            ASSERT_NE(at, std::string::npos) << line << "\n" << told.out;
        }
    }
    // Not every wait is one of power-up.
    std::string trace = "time (s),roost (code)\n";
    for (int second = 0; second <= 1500; second += 30)
        trace += fmt::format("{},{}\n", second, second > 600 && second <= 700 ? 600 : 800);
    const Outcome later = zorilla(fmt::format("run '" ZORILLA_SOURCE
                                              "/examples/heat_lamp/heat_lamp.toml' --trace '{}' "
                                              "--why 'heat_lamp@13 min'",
                                              folder.write("later.csv", trace)));
    EXPECT_TRUE(has(later.out, "Kept off until min_off (5 min) is over.\n")) << later.out;
    for (const auto& [question, said] : {std::pair("valve@1 h", "machine or sensor \"valve\""),
                                         {"ventilator", "@ and a time, such as"},
                                         {"ventilator@9", "\"9\" is no time"},
                                         {"ventilator@9 d", "ends before 9d 00:00:00"}}) {
        const Outcome told = why(question);
        EXPECT_EQ(told.status, 2);
        EXPECT_TRUE(has(told.err, said)) << told.err;
    }
}

TEST(Tool, outputs_takes_each_in_turn_with_the_level_to_expect) {
    const Outcome told = zorilla("outputs " ZORILLA_SOURCE "/examples/hen_house/hen_house.toml");
    EXPECT_EQ(told.status, 0) << told.err;
    for (const char* line : {"  0 s   heat_lamp    on          PB0 low            off: high",
                             "  2 s   water_valve  on          PB4 low            off: high",
                             "  4 s   dusk_lamp    100 %       PB1 high           off: low",
                             "  6 s   ventilator   100 %       PB2 high           off: low",
                             "  8 s   buzzer       1000 Hz     PD3 swings         off: low",
                             "  10 s  status       red 100 %   PD5 high           off: low"})
        EXPECT_TRUE(has(told.out, line)) << line << "\n" << told.out;
    EXPECT_EQ(zorilla("outputs " ZORILLA_SOURCE "/docs/six-mistakes.toml").status, 2);
    EXPECT_TRUE(has(zorilla("outputs --each 1 x.toml").err, "--each: \"1\""));
}

TEST(Tool, demo_runs_without_arguments_and_leaves_its_files) {
    const Folder folder;
    const Outcome demo =
        desk::shell("cd '" + folder.path().string() + "' && " ZORILLA_TOOL " demo");
    EXPECT_EQ(demo.status, 0);
    EXPECT_EQ(demo.err, "");
    EXPECT_TRUE(
        has(demo.out, " 2d 02:00:00  roost               open circuit           code 1023 of 1023"))
        << demo.out;
    EXPECT_TRUE(has(demo.out, "ventilator          50 %                   safe value, since "));
    EXPECT_TRUE(has(demo.out, "51,840 rows"));
    EXPECT_TRUE(has(demo.out, "not healthy for 1 h"));
    for (const char* line :
         {"litter              ok                     reads 68.0 %RH, 2.000 degC",
          "barrel              too near               ", "yard_light          0.2 lx to ",
          "litter              missing                no good frame for too long",
          "barrel              missing                cannot be corrected: litter.temp",
          "ventilator          50 %                   safe value, since claim 2, \"damp and",
          "ventilator          100 %                  by hand: taken over with \"air_button\", for "
          "at most",
          "handed back after 15 min",
          "watch               alarm                  from trouble, after 10 min",
          "buzzer              pattern alarm          claim 2, \"watch in alarm\"",
          "dusk_lamp           5 %                    claim 1, \"dusk\": yard_light is",
          "ammonia             warming up             its heater is not warm yet"})
        EXPECT_TRUE(has(demo.out, line)) << line;
    EXPECT_TRUE(has(demo.out, "waited 5 min for min_off, which power-up starts"));
    EXPECT_FALSE(has(demo.out, "\x1b")) << "no colour where it is no terminal";
    const std::string figure = desk::read_all(folder / "zorilla-demo/winter.png");
    EXPECT_EQ(figure.substr(1, 3), "PNG");
    // What it leaves can be run again, with the same outcome.
    const Outcome again =
        zorilla(fmt::format("run '{}' --trace '{}'", folder / "zorilla-demo/hen_house.toml",
                            folder / "zorilla-demo/winter.csv"));
    EXPECT_EQ(again.status, 0);
    EXPECT_TRUE(has(demo.out, again.out));
}

TEST(Tool, run_tells_each_change_with_its_reason_and_sums_up) {
    const Folder folder;
    const Outcome run = zorilla(fmt::format("run {} --trace {} --csv {} --figure {}", heat_lamp,
                                            folder.write("t.csv", short_trace()),
                                            folder / "out.csv", folder / "out.svg"));
    EXPECT_EQ(run.status, 1) << run.err;
    EXPECT_TRUE(has(run.out, "roost at least 3.2 degC                broken")) << run.out;
    for (const char* line : {
             "0d 00:00:00  roost      ok             reads -0.",
             "0d 00:00:00  heat_lamp  off            kept off until min_off (5 min) is over",
             "0d 00:05:00  heat_lamp  on             claim 1, \"cold\": roost is",
             "0d 00:20:00  heat_lamp  off            no claim holds: roost is 10.",
             "0d 00:40:00  roost      open circuit   code 1023 of 1023: a wire is off or broken",
             "heat_lamp  switched on once; on for 15 min (25.4 %)",
             "not healthy for 19 min (32.2 %)",
             "60 rows over 59 min, 1 min apart",
         })
        EXPECT_TRUE(has(run.out, line)) << line << "\n" << run.out;
    const std::string csv = desk::read_all(folder / "out.csv");
    EXPECT_EQ(desk::lines_of(csv), 61);
    EXPECT_EQ(csv.substr(0, csv.find('\n')),
              "time (s),roost (degC),roost health,cold,heat_lamp,heat_lamp cause");
    EXPECT_TRUE(has(csv, "\n60.000,")) << csv;
    EXPECT_TRUE(has(csv, ",ok,yes,off,min_off\n"));
    EXPECT_TRUE(has(csv, "\n2400.000,,open circuit,unknown,off,safe\n"));
    const std::string figure = desk::read_all(folder / "out.svg");
    EXPECT_TRUE(has(figure, "<svg") && has(figure, "roost: open circuit") &&
                has(figure, "cold below 4 degC") && has(figure, "heat_lamp"));

    // Where more rows come than a figure has points, a band goes from the lowest to the highest.
    const std::string box = ZORILLA_SOURCE "/examples/proofing_box/";
    zorilla(fmt::format("run {0}proofing_box.toml --trace {0}dough.csv --figure {1}", box,
                        folder / "dough.svg"));
    EXPECT_TRUE(has(desk::read_all(folder / "dough.svg"), "fill-opacity = '0.3"));
}

TEST(Tool, draws_a_figure_of_whatever_there_is) {
    const Folder folder;
    for (const char* rows : {"0,1023\n10,1023\n", "5,700\n", "5,700\n6,700\n", "0,\n1e6,3\n"}) {
        const Outcome run = zorilla(
            fmt::format("run {} --trace {} --figure {}", heat_lamp,
                        folder.write("t.csv", "time (s),roost (code)\n" + std::string(rows)),
                        folder / "f.svg"));
        EXPECT_EQ(run.status, 0) << rows << run.err;
        EXPECT_EQ(run.err, "") << rows;
        // The threshold is in sight wherever the readings are.
        EXPECT_TRUE(has(desk::read_all(folder / "f.svg"), "cold below 4 degC")) << rows;
    }
}

TEST(Tool, run_tells_which_rest_time_was_waited_for) {
    const Folder folder;
    std::string text = "time (min),roost (code)\n";
    for (int minute = 0; minute < 30; ++minute)
        text += fmt::format("{},{}\n", minute, minute < 10 || minute == 13 ? 680 : 790);
    const Outcome run = zorilla("run " + heat_lamp + " --trace " + folder.write("t.csv", text));
    EXPECT_TRUE(has(run.out, "0d 00:10:00  heat_lamp  on             claim 1, \"cold\": roost is "
                             "-0.079 degC, below 4 degC\n"))
        << run.out;
    EXPECT_TRUE(has(run.out, "0d 00:18:00  heat_lamp  on             claim 1, \"cold\": roost is "
                             "-0.079 degC, below 4 degC; waited 4 min for min_off\n"))
        << run.out;
}

TEST(Tool, run_goes_on_after_a_bad_line_and_ends_with_1) {
    const Folder folder;
    const std::string trace =
        folder.write("t.csv", "time (s),roost (code)\n0,700\n1,oops\n2,700\n");
    const Outcome run = zorilla("run " + heat_lamp + " --trace " + trace);
    EXPECT_EQ(run.status, 1);
    EXPECT_EQ(run.err, trace + ":3: \"oops\" is not a number; its samples count as missing\n");
    EXPECT_TRUE(has(run.out, "roost      missing        no sample"));
    EXPECT_TRUE(has(run.out, "1 line was not understood"));
}

TEST(Tool, many_bad_lines_are_counted_not_all_told) {
    const Folder folder;
    std::string text = "time (s),roost (code)\n";
    for (int i = 0; i < 500; ++i)
        text += fmt::format("{},?\n", i);
    const Outcome run = zorilla("run " + heat_lamp + " --trace " + folder.write("t.csv", text));
    EXPECT_EQ(run.status, 1);
    EXPECT_EQ(desk::lines_of(run.err), 21);
    EXPECT_TRUE(has(run.err, "and 480 more lines"));
}

TEST(Tool, bad_input_is_told_in_one_line_and_ends_with_2) {
    const Folder folder;
    const std::string trace = folder.write("t.csv", short_trace());
    const std::string secret = folder.write("secret.csv", short_trace());
    const std::string run = "run " + heat_lamp + " --trace ";
    const struct {
        std::string arguments;
        const char* said;
    } cases[] = {
        {run + folder.write("empty.csv", ""), "the file is empty"},
        {run + folder.write("bare.csv", "time (s),roost (code)\n"), "no row after the header"},
        {run + folder.write("c.csv", "time (s),x (code)\n1,2\n"), "no column belongs to a sensor"},
        {run + folder.path().string(), "this is a directory"},
        {run + (folder / "none.csv"), "No such file"},
        {run + trace + " --figure " + (folder / "x.jpg"), "must end in .png or .svg"},
        {run + trace + " --csv " + (folder / "no/x.csv"), "cannot be written"},
        {run + trace + " --csv " + folder.path().string(), "this is a directory"},
        {run + trace + " --csv /dev/full", "No space left on device"},
        {run + trace + " --figure /dev/full/x.png", "cannot be written"},
        {"run " + folder.path().string() + " --trace " + trace, "this is a directory"},
        {"check " + (folder / "none.toml"), "No such file"},
        {"run " ZORILLA_SOURCE "/docs/six-mistakes.toml --trace " + trace, "mend the mistakes"},
        {"run " + heat_lamp, "--trace is required"},
        {run + trace + " --figur x.png", "no option --figur; did you mean \"--figure\"?"},
        {"chek x", "there is no command \"chek\"; did you mean \"check\"?"},
        {"", "for example: zorilla demo"},
    };
    for (const auto& c : cases) {
        const Outcome out = zorilla(c.arguments);
        EXPECT_EQ(out.status, 2) << c.arguments;
        EXPECT_TRUE(has(out.err, c.said)) << c.arguments << ": " << out.err;
    }
}

TEST(Tool, an_output_that_fails_leaves_nothing_under_its_name) {
    const Folder folder;
    std::string text = "time (s),roost (code)\n";
    for (int i = 0; i < 20'000; ++i)
        text += fmt::format("{},700\n", i);
    const std::string trace = folder.write("t.csv", text);
    folder.write("old.csv", "old");
    // A limit on the size of files stands for a disk that fills up.
    for (const char* name : {"new.csv", "old.csv"}) {
        const Outcome out = desk::shell(fmt::format("ulimit -f 64; {} run {} --trace {} --csv {}",
                                                    ZORILLA_TOOL, heat_lamp, trace, folder / name));
        EXPECT_EQ(out.status, 2);
        EXPECT_TRUE(has(out.err, "cannot be written: File too large")) << out.err;
    }
    EXPECT_FALSE(std::filesystem::exists(folder / "new.csv"));
    EXPECT_EQ(desk::read_all(folder / "old.csv"), "old");
    EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.path()), {}), 2)
        << "nothing half-written is left";
    EXPECT_EQ(
        desk::shell(fmt::format("{} run {} --trace {} > /dev/full", ZORILLA_TOOL, heat_lamp, trace))
            .status,
        2);
}

TEST(Tool, check_tells_all_mistakes_with_line_and_column_and_ends_with_1) {
    const Outcome out = zorilla("check " ZORILLA_SOURCE "/docs/six-mistakes.toml");
    EXPECT_EQ(out.status, 1);
    EXPECT_EQ(out.out, "");
    EXPECT_EQ(desk::lines_of(out.err), 7);
    for (const char* place : {":9:1: ", ":12:11: ", ":16:6: ", ":23:11: ", ":25:1: ", ":33:7: "})
        EXPECT_TRUE(has(out.err, place)) << place << out.err;
    const Outcome sensors = zorilla("check " ZORILLA_SOURCE "/docs/sensor-mistakes.toml");
    EXPECT_EQ(sensors.status, 1);
    for (const char* said :
         {":7:9: \"every\" must lie between 2 s and 1 h",
          ":14:9: \"gamma\" must lie between 0.3 and 1.5",
          ":21:9: \"20 degC\" is a temperature, but here a length is needed",
          ":34:9: \"40 %RH\" is a relative humidity, but here a temperature is needed"})
        EXPECT_TRUE(has(sensors.err, said)) << said << sensors.err;
    EXPECT_EQ(desk::lines_of(sensors.err), 5);
    const Outcome pins = zorilla("check " ZORILLA_SOURCE "/docs/pin-mistakes.toml");
    EXPECT_EQ(pins.status, 1);
    for (const char* said : {":17:7: PB6 carries the crystal",
                             ":24:7: PD1 is where the serial line sends; PB4 would do",
                             ":31:7: [drive.chime] on PD6 would take timer 0 for a tone",
                             ":37:7: [drive.horn] on PB1 would take timer 1 for a tone"})
        EXPECT_TRUE(has(pins.err, said)) << said << pins.err;
    EXPECT_EQ(desk::lines_of(pins.err), 5);
    const Outcome checked = zorilla("check " + heat_lamp);
    EXPECT_EQ(checked.status, 0);
    EXPECT_TRUE(has(checked.out, "no mistakes")) << checked.out;
}

TEST(Tool, help_has_an_example_for_every_command) {
    for (const char* command : {"", "check", "run", "demo"}) {
        const Outcome help = zorilla(std::string(command) + " --help");
        EXPECT_EQ(help.status, 0);
        EXPECT_TRUE(has(help.out, "Example: zorilla")) << help.out;
        EXPECT_EQ(help.err, "");
    }
}

TEST(Tool, colour_is_for_terminals_that_want_it) {
    const Folder folder;
    const std::string run = fmt::format("{} run {} --trace {}", ZORILLA_TOOL, heat_lamp,
                                        folder.write("t.csv", short_trace()));
    const std::string terminal = "TERM=xterm script -qec '" + run + "' /dev/null";
    EXPECT_TRUE(has(desk::shell("env -u NO_COLOR " + terminal).out, "\x1b[1m"));
    EXPECT_FALSE(has(desk::shell("NO_COLOR=1 " + terminal).out, "\x1b["));
}

TEST(Tool, a_gap_of_many_days_wraps_the_device_clock_without_harm) {
    const Folder folder;
    std::string text = "time (h),roost (code)\n";
    for (int day = 0; day < 120; ++day)
        text += fmt::format("{},{}\n", day * 24, day % 2 == 0 ? 680 : 790);
    const Outcome out = zorilla("run " + heat_lamp + " --trace " + folder.write("t.csv", text));
    EXPECT_EQ(out.status, 1) << out.err; // it is too cold, as is promised not to be
    EXPECT_TRUE(has(out.out, "switched on 60 times")) << out.out;
}

} // namespace
