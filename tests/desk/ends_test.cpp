// SPDX-License-Identifier: MIT
// Files and ends: no input is ever lost, nothing half-written is left, and whatever is closed, full
// or hostile gets an answer.
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <sys/stat.h>

namespace {

using desk::has;
using desk::Outcome;

const std::string lamp = R"toml([sense.roost]
part = "thermistor"
pin = "ADC0"
nominal = "10 kohm"
beta = "3950 K"
pull_up = "10 kohm"
range = ["-30 degC", "80 degC"]
[decide.cold]
of = "roost"
below = "4 degC"
release = "6 degC"
[drive.lamp]
part = "relay"
pin = "PB0"
active = "low"
safe = "off"
claims = [ { when = "cold", then = "on" } ]
)toml";

/// A folder with a rig and a trace.
class Desk {
  public:
    explicit Desk(const std::string& rows = "time (s),roost (code)\n0,700\n1,800\n2,700\n")
        : rig(folder.write("rig.toml", lamp)), trace(folder.write("trace.csv", rows)) {}
    Outcome run(const std::string& more) const {
        return desk::shell(fmt::format("cd '{}' && {} run rig.toml --trace trace.csv {}",
                                       folder.path().string(), ZORILLA_TOOL, more));
    }
    size_t files() const {
        return static_cast<size_t>(std::distance(std::filesystem::directory_iterator(folder.path()),
                                                 std::filesystem::directory_iterator()));
    }
    desk::Folder folder;
    std::string rig, trace;
};

TEST(Files, an_input_is_never_written_whatever_it_is_called) {
    const Desk desk;
    std::filesystem::create_symlink("trace.csv", desk.folder.path() / "link.csv");
    std::filesystem::create_hard_link(desk.rig, desk.folder.path() / "other.csv");
    const std::string rig = desk::read_all(desk.rig), trace = desk::read_all(desk.trace);
    for (const char* more :
         {"--csv trace.csv", "--csv ./trace.csv", "--csv link.csv", "--csv rig.toml",
          "--csv other.csv", "--csv $PWD/../$(basename $PWD)/trace.csv"}) {
        const Outcome out = desk.run(more);
        EXPECT_EQ(out.status, 2) << more;
        EXPECT_TRUE(has(out.err, "is read by this very command")) << out.err;
        EXPECT_EQ(desk::read_all(desk.rig), rig) << more;
        EXPECT_EQ(desk::read_all(desk.trace), trace) << more;
    }
    EXPECT_EQ(desk.files(), 4u) << "and nothing was left";
    const Outcome twice = desk.run("--csv a.svg --figure a.svg");
    EXPECT_EQ(twice.status, 2);
    EXPECT_TRUE(has(twice.err, "written by this command already")) << twice.err;
}

TEST(Files, links_and_modes_stay_and_nothing_half_written_is_left) {
    const Desk desk;
    const std::string real = desk.folder.write("real.csv", "old");
    chmod(real.c_str(), 0640);
    std::filesystem::create_symlink("real.csv", desk.folder.path() / "link.csv");
    EXPECT_EQ(desk.run("--csv link.csv").status, 0);
    EXPECT_TRUE(std::filesystem::is_symlink(desk.folder.path() / "link.csv"));
    EXPECT_TRUE(has(desk::read_all(real), "roost"));
    struct stat is {};
    stat(real.c_str(), &is);
    EXPECT_EQ(is.st_mode & 0777U, 0640U);
    // A pipe that never ends holds the replay; the signal comes while it is at work.
    const Outcome ended = desk::shell(fmt::format(
        "cd '{}' && mkfifo pipe && {{ (cat trace.csv; sleep 3) > pipe & timeout -s TERM 1 {} run "
        "rig.toml --trace pipe --csv late.csv; }}",
        desk.folder.path().string(), ZORILLA_TOOL));
    EXPECT_NE(ended.status, 0);
    for (const auto& entry : std::filesystem::directory_iterator(desk.folder.path()))
        EXPECT_FALSE(has(entry.path().string(), "late.csv")) << entry.path();
}

TEST(Files, the_demo_keeps_what_was_changed) {
    const desk::Folder folder;
    const std::string demo = fmt::format("demo --out '{}'", folder / "d");
    EXPECT_EQ(desk::zorilla(demo).status, 0);
    const std::string rig = folder / "d/hen_house.toml";
    const std::string changed = desk::read_all(rig) + "# mine\n";
    std::ofstream(rig) << changed;
    const Outcome again = desk::zorilla(demo);
    EXPECT_EQ(again.status, 0) << again.err;
    EXPECT_EQ(desk::read_all(rig), changed);
    EXPECT_TRUE(has(again.err, "was changed, and is kept as it is; for a fresh copy")) << again.err;
}

TEST(Ends, full_and_closed_streams_end_with_a_status) {
    const Desk desk;
    const struct {
        const char* command;
        int status;
    } cases[] = {
        {"run rig.toml --trace nothing.csv 2>/dev/full", 2},
        {"run rig.toml --trace nothing.csv 2>&-", 2},
        {"check nothing.toml 2>&1 | head -0; true", 0},
        {"--help >/dev/full", 2},
        {"check rig.toml >&-", 2},
        {"check rig.toml >/dev/full", 2},
    };
    for (const auto& c : cases)
        EXPECT_EQ(desk::shell(fmt::format("cd '{}' && {} {}", desk.folder.path().string(),
                                          ZORILLA_TOOL, c.command))
                      .status,
                  c.status)
            << c.command;
    desk::shell(fmt::format("cd '{}' && {} capture - --out data.csv 2>&- < trace.csv",
                            desk.folder.path().string(), ZORILLA_TOOL));
    EXPECT_FALSE(has(desk::read_all(desk.folder / "data.csv"), "condition was named"))
        << "messages are no data";
}

TEST(Trace, one_time_that_is_wrong_loses_one_line_only) {
    const auto rows = [](const std::string& times) {
        std::string out = "time (s),roost (code)\n";
        for (const char time : times)
            out += (time == 'X'   ? std::string("90000000")
                    : time == 'b' ? std::string("0")
                                  : std::to_string(100 + (time - 'a'))) +
                   ",700\n";
        return out;
    };
    const struct {
        std::string trace;
        const char* told;
        const char* span;
    } cases[] = {
        {rows("cdeXfghi"), "the next line goes on from before", "8 rows over 6 s"},
        {rows("cdebfghi"), "the next line goes on from before", "8 rows over 6 s"},
        {"time (s),roost (code)\n0,700\n1764000000,700\n1764000001,700\n1764000002,700\n",
         "the clock has begun anew", "4 rows over 2 s"},
        {"time (s),roost (code)\n50,700\n51,700\n0,700\n1,700\n2,700\n", "the clock has begun anew",
         "5 rows over 4 s"},
        {"time (s),roost (code)\n0,700\n1,700\n86400,700\n86401,700\n", nullptr,
         "4 rows over 1 d 1 s"},
    };
    for (const auto& c : cases) {
        const Desk desk(c.trace);
        const Outcome out = desk.run("");
        EXPECT_EQ(out.status, c.told == nullptr ? 0 : 1) << out.err;
        EXPECT_TRUE(c.told == nullptr || has(out.err, c.told)) << c.trace << out.err;
        EXPECT_TRUE(has(out.out, c.span)) << c.trace << out.out << out.err;
    }
}

TEST(Hostile, input_is_refused_with_a_sentence) {
    const desk::Folder folder;
    std::string key = "a";
    for (int i = 0; i < 180'000; ++i)
        key += ".a";
    const Outcome bomb = desk::zorilla("check '" + folder.write("bomb.toml", key + " = 1\n") + "'");
    EXPECT_EQ(bomb.status, 1);
    EXPECT_TRUE(has(bomb.err, "more than 64 parts")) << bomb.err.substr(0, 200);
    EXPECT_TRUE(has(desk::zorilla("check /dev/zero").err, "is larger than 64 MiB"));
    std::string states = "<scxml xmlns=\"http://www.w3.org/2005/07/scxml\" version=\"1.0\">";
    for (int i = 0; i < 2000; ++i)
        states += "<state id=\"s\"/>";
    const Outcome scxml =
        desk::zorilla("machine '" + folder.write("many.scxml", states + "</scxml>") + "'");
    EXPECT_EQ(scxml.status, 2);
    EXPECT_TRUE(has(scxml.err, "has 2000 states; a rig's machine has at most 32")) << scxml.err;
    // What would steer a terminal is shown, not obeyed.
    const Outcome steered = desk::zorilla("check \"$(printf '\\033[31mred.toml')\"");
    EXPECT_TRUE(has(steered.err, "\\x1b[31mred.toml")) << steered.err;
}

TEST(Units, that_people_write_otherwise_are_understood_and_told) {
    const struct {
        const char* from;
        const char* to;
        const char* told;
    } cases[] = {
        {"\"4 degC\"", "\"4,5 degC\"", "write \"4.5 degC\", with a point"},
        {"\"4 degC\"", "\"4 C\"", "did you mean \"4 degC\"?"},
        {"\"4 degC\"", "\"40 F\"", "did you mean \"40 degF\"?"},
        {"\"4 degC\"", "\"-400 degC\"", "lies below absolute zero"},
        {"safe =", "min_on = \"0.4 ms\"\nsafe =", "is less than a thousandth"},
        {"safe =", "min_on = \"2 sec\"\nsafe =", "did you mean \"2 s\"?"},
        {"safe =", "min_on = \"2 minutes\"\nsafe =", "did you mean \"2 min\"?"},
        {"\"10 kohm\"", "\"10 k\"", "did you mean \"10 kohm\"?"},
    };
    for (const auto& c : cases) {
        const desk::Folder folder;
        std::string rig = lamp;
        rig.replace(rig.find(c.from), std::string(c.from).size(), c.to);
        const Outcome out = desk::zorilla("check '" + folder.write("rig.toml", rig) + "'");
        EXPECT_EQ(out.status, 1);
        EXPECT_TRUE(has(out.err, c.told)) << out.err;
        EXPECT_TRUE(has(out.err, ": 1 mistake\n")) << out.err;
    }
}

TEST(Draw, takes_every_legal_name_of_a_state_and_reads_it_back) {
    const desk::Folder folder;
    const char* const names[] = {"node",     "edge",     "graph", "strict", "digraph",
                                 "subgraph", "power_up", "any_0", "s"};
    std::string moves, rig = lamp + "[machine.node]\nstart = \"node\"\nmoves = [\n";
    for (size_t i = 0; i < std::size(names); ++i)
        moves += fmt::format("  {{ from = \"{}\", to = \"{}\", when = \"cold\" }},\n", names[i],
                             names[(i + 1) % std::size(names)]);
    rig += moves + "  { from = \"any\", to = \"s\", after = \"2 min\" },\n]\n";
    const std::string path = folder.write("rig.toml", rig);
    const Outcome svg =
        desk::zorilla(fmt::format("draw '{}' --out \"{}\"", path, folder / "it's.svg"));
    EXPECT_EQ(svg.status, 0) << svg.err;
    const std::string image = desk::read_all(folder / "it's.svg");
    for (const char* name : names)
        EXPECT_TRUE(has(image, fmt::format(">{}<", name))) << name;
    const Outcome scxml =
        desk::zorilla(fmt::format("draw '{}' --out '{}'", path, folder / "m.scxml"));
    EXPECT_EQ(scxml.status, 0) << scxml.err;
    const Outcome back = desk::zorilla(fmt::format("machine '{}'", folder / "m.scxml"));
    EXPECT_EQ(back.status, 0) << back.err;
    const Outcome checked =
        desk::zorilla(fmt::format("check '{}'", folder.write("back.toml", lamp + back.out)));
    EXPECT_EQ(checked.status, 0) << checked.err << back.out;
    for (const char* name : names)
        EXPECT_TRUE(has(back.out, fmt::format("\"{}\"", name))) << name << back.out;
}

TEST(Fit, keeps_a_fragment_a_fragment_and_takes_no_endless_list) {
    const desk::Folder folder;
    std::string pairs = "raw (code),true (degC),date\n";
    for (const auto& [code, value] :
         {std::pair(300, 45), {400, 36}, {500, 26}, {600, 16}, {700, 6}, {790, 0}})
        pairs += fmt::format("{},{},\"2026-11-02\nint trap; [trap]\"\n", code, value);
    folder.write("a\nint trap.csv", pairs);
    for (const char* form : {"--rig", "--cpp"}) {
        const Outcome out = desk::shell(fmt::format("cd '{}' && {} fit a*.csv --model linear {}",
                                                    folder.path().string(), ZORILLA_TOOL, form));
        EXPECT_LT(out.status, 2) << out.err;
        EXPECT_TRUE(has(out.out, "Fitted to ")) << out.out;
        for (const char* trap : {"\nint trap", "\n[trap]", "\n int trap"})
            EXPECT_FALSE(has(out.out, trap)) << out.out;
    }
    std::string many = "raw (code),true (degC)\n";
    for (int i = 0; i < 10'001; ++i)
        many += fmt::format("{},{}\n", 200 + i % 600, 50 - i % 600 / 12);
    const Outcome out =
        desk::zorilla(fmt::format("fit {} --model linear", folder.write("many.csv", many)));
    EXPECT_EQ(out.status, 2);
    EXPECT_TRUE(has(out.err, "many.csv:10002: more than 10000 pairs")) << out.err;
    const std::string own = folder.write("own.svg", "raw (code),true (degC)\n300,45\n500,26\n");
    const Outcome lost = desk::zorilla(fmt::format("fit {0} --model linear --figure {0}", own));
    EXPECT_EQ(lost.status, 2);
    EXPECT_TRUE(has(lost.err, "is read by this very command")) << lost.err;
}

TEST(Figure, obeys_no_start_file_and_takes_any_name) {
    const Desk desk;
    const desk::Folder home;
    home.write(".gnuplot", "exit status 3\n");
    const Outcome out = desk::shell(fmt::format(
        "cd '{}' && cp trace.csv \"it's.csv\" && HOME='{}' TMPDIR='{}' {} run rig.toml --trace "
        "\"it's.csv\" --figure \"it's.svg\"",
        desk.folder.path().string(), home.path().string(), home.path().string(), ZORILLA_TOOL));
    EXPECT_EQ(out.status, 0) << out.err;
    EXPECT_EQ(out.err, "");
    EXPECT_TRUE(has(desk::read_all(desk.folder / "it's.svg"), "it's.csv") ||
                has(desk::read_all(desk.folder / "it's.svg"), "it&apos;s.csv") ||
                has(desk::read_all(desk.folder / "it's.svg"), "it&#39;s.csv"));
    EXPECT_EQ(std::distance(std::filesystem::directory_iterator(home.path()),
                            std::filesystem::directory_iterator()),
              1)
        << "no temporary file is left";
}

} // namespace
