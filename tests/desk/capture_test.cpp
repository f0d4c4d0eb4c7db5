// SPDX-License-Identifier: MIT
// What a program prints, taken down: every form of line, a port that goes and comes, nothing lost.
#include "bench/printed.hpp"
#include "tests/desk/background.hpp"

#include <csignal>
#include <gtest/gtest.h>
#include <spawn.h>
#include <thread>

namespace {

using desk::Background;
using desk::is_there;
using desk::wait_for;

using namespace zorilla;
using bench::PrintedLines;
using desk::has;

/// The column of a CSV file, below its header.
std::string column_of(const std::string& path, size_t column) {
    std::istringstream lines(desk::read_all(path));
    std::string line, out;
    std::getline(lines, line);
    while (std::getline(lines, line)) {
        size_t at = 0;
        for (size_t i = 0; i < column; ++i)
            at = line.find(',', at) + 1;
        out += line.substr(at, line.find(',', at) - at) + "\n";
    }
    return out;
}

TEST(Printed, every_usual_form_of_line_becomes_columns) {
    struct Case {
        std::vector<const char*> lines;
        const char* columns; ///< NAME (UNIT), ...
        const char* rows;
    };
    const Case cases[] = {
        {{"512", "513", "0"}, "value (code)", "512;513;0;"},
        {{"512,300", "1, 2"}, "value_1 (code) value_2 (code)", "512 300;1 2;"},
        {{"512 300\t23.5", "1 2 3"},
         "value_1 (code) value_2 (code) value_3 ()",
         "512 300 23.5;1 2 3;"},
        {{"light,temp (degC)", "512,23.5", "513,23.25"},
         "light (code) temp (degC)",
         "512 23.5;513 23.25;"},
        {{"light temp", "512 -3.5"}, "light (code) temp ()", "512 -3.5;"},
        {{"light (code) temp (degC)", "512 -3.5"}, "light (code) temp (degC)", "512 -3.5;"},
        {{"light=512 temp=23.5", "temp=1 light=2"}, "light (code) temp ()", "512 23.5;2 1;"},
        {{"light: 512, temp: 23.5 degC", "light: 1, temp: 2 degC"},
         "light (code) temp (degC)",
         "512 23.5;1 2;"},
        {{"t: 23.5degC", "t: -1degC"}, "t (degC)", "23.5;-1;"},
        {{"t: 23.5 C h: 40 %RH", "t: 1 C h: 2 %RH"}, "t () h (%RH)", "23.5 40;1 2;"},
        {{"time (s),light (code)", "0.5,7"}, "light (code)", "7@500;"},
        {{"millis=1200 light=7", "millis=1300 light=8"}, "light (code)", "7@1200;8@1300;"},
        {{"23.5,nan", "23.6,41.0"}, "value_1 () value_2 ()", "23.5 -;23.6 41.0;"},
        {{"Hello!", "512\r", "", "  7  "}, "value (code)", "512;7;"},
        {{"512,,3", "1,2,3"}, "value_1 (code) value_2 () value_3 (code)", "512 - 3;1 2 3;"},
        {{"1,2", "3", "4,5,6", "x,1", "7,8"}, "value_1 (code) value_2 (code)", "1 2;7 8;"},
        {{"a=1", "b=2", "a=70000", "5", "a=3"}, "a (code)", "1;3;"},
    };
    for (const Case& c : cases) {
        PrintedLines lines;
        std::string rows;
        for (const char* line : c.lines) {
            const auto kind = lines.take(line);
            EXPECT_EQ(kind == PrintedLines::Kind::nonsense && lines.problem().empty(), false)
                << line;
            if (kind != PrintedLines::Kind::row)
                continue;
            for (const std::string_view value : lines.values())
                rows += fmt::format("{}{}", rows.empty() || rows.back() == ';' ? "" : " ",
                                    value.empty() ? "-" : value);
            if (lines.milliseconds())
                rows += fmt::format("@{}", *lines.milliseconds());
            rows += ';';
        }
        std::string columns;
        for (const bench::SampleColumn& column : lines.columns())
            columns +=
                fmt::format("{}{} ({})", columns.empty() ? "" : " ", column.name, column.unit);
        EXPECT_EQ(columns, c.columns) << c.lines.front();
        EXPECT_EQ(rows, c.rows) << c.lines.front();
    }
}

TEST(Capture, two_thousand_lines_a_second_lose_none) {
    const desk::Folder folder;
    std::string text = "time (s),count (code),light (code)\n";
    for (int i = 0; i < 6000; ++i)
        text += fmt::format("{:.4f},{},{}\n", i / 2000.0, i, 500 + i * i % 13);
    const std::string recorded = folder.write("recorded.csv", text);
    const Background device(
        folder, fmt::format("device '{}' --link '{}' --once", recorded, folder / "port"), "device");
    ASSERT_TRUE(is_there(folder / "port"));
    const desk::Outcome out =
        desk::zorilla(fmt::format("capture '{}' --lines 6000 --condition \"a, b\" --out '{}'",
                                  folder / "port", folder / "out.csv"));
    EXPECT_EQ(out.status, 0) << out.err;
    EXPECT_EQ(column_of(folder / "out.csv", 1), column_of(recorded, 1));
    EXPECT_EQ(column_of(folder / "out.csv", 2), column_of(recorded, 2));
    EXPECT_TRUE(has(desk::read_all(folder / "out.csv"), ",500,\"a, b\"\n"));
}

TEST(Capture, a_port_that_goes_and_comes_back_is_waited_for_and_nothing_is_lost) {
    const desk::Folder folder;
    const std::string play = fmt::format(
        "device thermistor --values \"20 degC\" --every \"10 ms\" --link '{}'", folder / "port");
    auto device = std::make_unique<Background>(folder, play, "device");
    ASSERT_TRUE(is_there(folder / "port"));
    Background capture(
        folder, fmt::format("capture '{}' --out '{}'", folder / "port", folder / "out.csv"), "log");
    const auto rows = [&] {
        return std::filesystem::exists(folder / "out.csv")
                   ? desk::lines_of(desk::read_all(folder / "out.csv"))
                   : 0;
    };
    ASSERT_TRUE(wait_for([&] { return rows() > 20; }));
    device->end(SIGKILL); // the plug is pulled
    std::filesystem::remove(folder / "port");
    ASSERT_TRUE(wait_for([&] { return has(capture.log(), "waiting for it to come back"); }));
    const long before = rows();
    device = std::make_unique<Background>(folder, play, "device");
    ASSERT_TRUE(wait_for([&] { return rows() > before + 20; })) << capture.log();
    EXPECT_EQ(capture.end(SIGINT), 0) << capture.log();
    EXPECT_TRUE(has(capture.log(), "the port vanished once")) << capture.log();
    EXPECT_TRUE(has(capture.log(), "saved in")) << capture.log();
    // Every line is whole.
    std::istringstream lines(desk::read_all(folder / "out.csv"));
    std::string line;
    std::getline(lines, line);
    EXPECT_EQ(line, "time (s),probe (code),condition");
    while (std::getline(lines, line)) {
        double time = 0;
        int code = 0;
        EXPECT_EQ(std::sscanf(line.c_str(), "%lf,%d,", &time, &code), 2) << line;
        EXPECT_NEAR(code, 570, 15) << line;
    }
}

TEST(Capture, each_reader_of_a_stand_in_gets_the_next_value_and_a_file_is_added_to_not_over) {
    const desk::Folder folder;
    const Background device(
        folder,
        fmt::format(
            "device photoresistor --values \"5 lx,500 lx,500 lx\" --clock --pace 0 --form pairs "
            "--link '{}'",
            folder / "port"),
        "device");
    ASSERT_TRUE(is_there(folder / "port"));
    const std::string command = fmt::format("capture '{}' --lines 50 --out '{}' --condition ",
                                            folder / "port", folder / "out.csv");
    EXPECT_EQ(desk::zorilla(command + "dim").status, 0);
    const std::string first = desk::read_all(folder / "out.csv");
    const desk::Outcome over = desk::zorilla(command + "bright");
    EXPECT_EQ(over.status, 2);
    EXPECT_TRUE(has(over.err, "is there already; add to it with --append"));
    EXPECT_EQ(desk::read_all(folder / "out.csv"), first);
    const desk::Outcome added = desk::zorilla(command + "bright --append");
    EXPECT_EQ(added.status, 0) << added.err;
    EXPECT_TRUE(has(added.out, "of the device's clock")) << added.out;
    const std::string both = desk::read_all(folder / "out.csv");
    EXPECT_EQ(both.substr(0, first.size()), first);
    EXPECT_EQ(desk::lines_of(both), 101);
    // The first line of a port may be half a line; so one more was read. Ten a second: 5 s, then a
    // second between.
    EXPECT_TRUE(has(both, "\n4.900,")) << both;
    EXPECT_TRUE(has(both, ",bright\n"));
    EXPECT_TRUE(
        has(desk::zorilla("survey '" + (folder / "out.csv") + "'").out, "Between dim and bright"));
}

TEST(Capture, standard_input_is_taken_as_a_port_is_and_misfits_are_told) {
    const desk::Folder folder;
    const auto capture = [&](const std::string& input, const std::string& options) {
        return desk::shell(fmt::format("cat '{}' | {} capture - --out '{}' {}",
                                       folder.write("in", input), ZORILLA_TOOL, folder / "out.csv",
                                       options));
    };
    const desk::Outcome good = capture("5 6\n7 8", "--names light,temp --condition lamp");
    EXPECT_EQ(good.status, 0) << good.err;
    const std::string text = desk::read_all(folder / "out.csv");
    EXPECT_TRUE(has(text, "time (s),light (code),temp (code),condition\n")) << text;
    EXPECT_TRUE(has(text, ",7,8,lamp\n")) << text;

    const desk::Outcome other = capture("5\n", "--append");
    EXPECT_EQ(other.status, 2);
    EXPECT_TRUE(has(other.err, "its header is \"time (s),light (code),temp (code),condition\""));
    EXPECT_EQ(desk::read_all(folder / "out.csv"), text);

    std::filesystem::remove(folder / "out.csv");
    const desk::Outcome nothing = capture("hello world\n", "");
    EXPECT_EQ(nothing.status, 2);
    EXPECT_TRUE(has(nothing.err, "no row of numbers came, and nothing was saved")) << nothing.err;
    EXPECT_FALSE(std::filesystem::exists(folder / "out.csv"));

    const desk::Outcome some =
        capture("5\nrubbish 1 x\n6\n" + std::string(9000, '1') + "\n7\n", "");
    EXPECT_EQ(some.status, 1);
    EXPECT_TRUE(has(some.err, "2 lines were not understood")) << some.err;
    EXPECT_EQ(column_of(folder / "out.csv", 1), "5\n6\n7\n");

    std::filesystem::remove(folder / "out.csv");
    const desk::Outcome anew = capture("time (ms),a (code)\n0,1\n100,2\n200,3\n0,4\n100,5\n", "");
    EXPECT_TRUE(has(anew.err, "the device has begun anew once, and its rows go on")) << anew.err;
    EXPECT_TRUE(has(anew.out, "5 rows in 300 ms")) << anew.out;

    const desk::Outcome late = desk::shell(fmt::format(
        "cd '{}' && mkfifo board && {{ (sleep 6; printf '4\\n5\\n6\\n7\\n') >board 2>&1 & }} && "
        "{} capture board --lines 3 --out late.csv",
        folder.path().string(), ZORILLA_TOOL));
    EXPECT_EQ(late.status, 0) << late.err;
    EXPECT_TRUE(has(late.err, "board: nothing has come yet; does the program print, and at 38400"))
        << late.err;
    EXPECT_EQ(column_of(folder / "late.csv", 1), "5\n6\n7\n");

    EXPECT_EQ(desk::zorilla("capture /dev/no-such-port").status, 2);
    EXPECT_TRUE(has(desk::zorilla("capture /dev/no-such-port").err, "cannot be opened"));
    EXPECT_TRUE(has(desk::zorilla("device thermometer --values \"1 degC\"").err,
                    "possible are \"thermistor\""));
}

TEST(Capture, keys_name_the_condition_while_it_runs) {
    const desk::Folder folder;
    // A terminal of its own, on which somebody types what fits what is to be seen.
    const desk::Outcome out = desk::shell(fmt::format(
        "{0} device thermistor --values \"20 degC\" --every \"10 ms\" --link '{1}' > /dev/null & "
        "seen() {{ for i in $(seq 300); do grep -aq \"$1\" '{3}' 2> /dev/null && break; sleep 0.1; "
        "done; }}; while [ ! -e '{1}' ]; do sleep 0.05; done; "
        "(seen lowest; printf 'lamp onX\\177\\n'; seen 'condition:.*lamp on'; sleep 0.7; "
        "printf '\\003'; sleep 0.5) | "
        "script -qefc \"{0} capture '{1}' --out '{2}' --condition dark\" '{3}'; kill %1",
        ZORILLA_TOOL, folder / "port", folder / "out.csv", folder / "screen"));
    const std::string text = desk::read_all(folder / "out.csv");
    EXPECT_TRUE(has(text, ",dark\n")) << out.out << out.err;
    EXPECT_TRUE(has(text, ",lamp on\n")) << out.out << out.err;
    EXPECT_TRUE(has(out.out, "condition: ")) << out.out;
    EXPECT_TRUE(has(out.out, "saved in")) << out.out;
}

/// What a capture makes of lines on standard input, and its file.
struct Taken {
    desk::Outcome outcome;
    std::string file;
};
Taken taken(const std::string& lines, const std::string& more = "") {
    const desk::Folder folder;
    const std::string in = folder.write("in", lines);
    Taken out{desk::shell(fmt::format("{} capture - --out '{}' {} < '{}'", ZORILLA_TOOL,
                                      folder / "out.csv", more, in)),
              {}};
    if (std::filesystem::exists(folder / "out.csv"))
        out.file = desk::read_all(folder / "out.csv");
    return out;
}
/// Without times and conditions.
std::string columns_of(const std::string& file) {
    std::string out;
    for (size_t at = 0, end = 0; at < file.size(); at = end + 1) {
        end = std::min(file.find('\n', at), file.size());
        const std::string line = file.substr(at, end - at);
        const size_t from = line.find(',') + 1;
        out += line.substr(from, line.rfind(',') - from) + ";";
    }
    return out;
}

TEST(Capture, columns_are_what_most_lines_agree_on) {
    std::string rows;
    for (int i = 0; i < 500; ++i)
        rows += fmt::format("{},{}\n", 500 + i % 7, 300 + i % 5);
    for (const char* greeting :
         {"Temp sensor: 1 found\n",
          "boot 2 of 3\nets Jun  8 2016 00:22:57\nrst:0x1 (POWERON),boot:0x13\n", "7\n",
          "ready\n1 2 3\n", ""}) {
        const Taken is = taken(greeting + rows);
        EXPECT_EQ(std::count(is.file.begin(), is.file.end(), '\n'), 501)
            << greeting << is.outcome.err;
        EXPECT_TRUE(has(is.file, "value_1 (code),value_2 (code)")) << greeting;
    }
    const Taken named = taken("1 2\n3\n5\n9\n", "--names light");
    EXPECT_EQ(columns_of(named.file), "light (code);3;5;9;") << named.outcome.err;
}

TEST(Capture, keeps_frames_levels_and_reports_and_what_it_writes_can_be_run_and_surveyed) {
    const struct {
        const char* lines;
        const char* columns;
    } cases[] = {
        {"air=037000bc2f\nair=037000bc30\nair=none\n", "air (frame);037000bc2f;037000bc30;none;"},
        {"air (frame),eye (us)\n0370001230,500\n0370001231,none\n037000bc2f,900\n",
         "air (frame),eye (us);0370001230,500;0370001231,none;037000bc2f,900;"},
        {"t=1000 ms roost=4.231 degC lamp=on\nt=2000 ms roost=open circuit lamp=off\nt=3000 ms "
         "roost=-0.5 degC lamp=on\n",
         "roost (degC),lamp (level);4.231,1;,0;-0.5,1;"},
        {"a=1 a=2\na=3 a=4\na=5 a=6\n", "a (code),a_2 (code);1,2;3,4;5,6;"},
        {"x,condition\n1,2\n3,4\n5,6\n", "x (code),condition_2 (code);1,2;3,4;5,6;"},
    };
    for (const auto& c : cases) {
        const Taken is = taken(c.lines);
        EXPECT_EQ(columns_of(is.file), c.columns) << c.lines << is.outcome.err;
        const desk::Folder folder;
        const desk::Outcome survey =
            desk::zorilla("survey '" + folder.write("s.csv", is.file) + "'");
        EXPECT_TRUE(survey.status != 2 || !has(is.file, "(code)")) << is.file << survey.err;
    }
    // By the rig, numbers that come without names and units become its trace.
    const desk::Folder folder;
    const std::string rig = folder.write("rig.toml", R"toml([sense.roost]
part = "thermistor"
pin = "ADC0"
nominal = "10 kohm"
beta = "3950 K"
pull_up = "10 kohm"
[sense.eye]
part = "ranger"
pin = "PD2"
ping_pin = "PD7"
blind = "20 mm"
far = "4 m"
temperature = "20 degC"
[sense.air]
part = "humidity_frame"
pin = "PD4"
coding = "tenths"
[sense.door]
part = "digital_input"
pin = "PD5"
active = "low"
)toml");
    const Taken is = taken("700 1500 028c015df2 1\n701 none 028c015df2 0\n702 1501 none 1\n",
                           "--rig '" + rig + "'");
    EXPECT_EQ(columns_of(is.file),
              "roost (code),eye (us),air (frame),door (level);700,1500,028c015df2,"
              "1;701,none,028c015df2,0;702,1501,none,1;");
    const desk::Outcome run =
        desk::zorilla(fmt::format("run '{}' --trace '{}'", rig, folder.write("t.csv", is.file)));
    EXPECT_EQ(run.status, 0) << run.err << is.file;
}

TEST(Capture, one_line_has_one_reader) {
    const desk::Folder folder;
    const std::string in = folder.path().string();
    const desk::Outcome out = desk::shell(fmt::format(
        "cd '{0}' && ({1} device photoresistor --values '100 lx' --link board --pace 1 > dev & "
        "P=$!; while [ ! "
        "-e board ]; do sleep 0.05; done; {1} capture board --out a.csv --for '2 s' > a & sleep "
        "0.7; {1} "
        "capture board --out b.csv --for '1 s'; echo status $?; wait; kill $P 2>/dev/null; true)",
        in, ZORILLA_TOOL));
    EXPECT_TRUE(has(out.out, "status 2")) << out.out << out.err;
    EXPECT_TRUE(has(out.err, "another program reads it already")) << out.err;
    EXPECT_FALSE(std::filesystem::exists(folder / "b.csv"));
}

TEST(Capture, live_view_stays_on_the_screen_and_shows_no_escapes) {
    const desk::Folder folder;
    std::string line;
    for (int i = 0; i < 12; ++i)
        line += fmt::format("s{}={} ", i, i);
    std::string lines;
    for (int i = 0; i < 30; ++i)
        lines += line + "\x1b[31mred=1\n";
    folder.write("in", lines);
    const auto seen = [&](const char* terminal) {
        return desk::shell(fmt::format("cd '{}' && rm -f o.csv; TERM={} script -qec \"stty rows 16 "
                                       "cols 80; {} capture - --out "
                                       "o.csv < in\" typescript > /dev/null; cat typescript",
                                       folder.path().string(), terminal, ZORILLA_TOOL))
            .out;
    };
    const std::string live = seen("xterm");
    EXPECT_FALSE(has(live, "\x1b[31m")) << live;
    EXPECT_TRUE(has(live, "and 4 more; a taller window shows them") ||
                has(live, "more; a taller window shows them"))
        << live;
    const size_t up = live.find("A\r");
    EXPECT_TRUE(up == std::string::npos || std::stoi(live.substr(live.rfind('[', up) + 1)) <= 16)
        << live;
    EXPECT_FALSE(has(seen("dumb"), "\x1b")) << "a dumb terminal gets plain lines";
}

} // namespace
