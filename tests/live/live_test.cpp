// SPDX-License-Identifier: MIT
// zorilla live, with the stand-in of a device behind a pseudo-terminal.
#include "bench/live/sending.hpp"
#include "bench/printed.hpp"
#include "rig/rig_file.hpp"
#include "rig/text/files.hpp"
#include "tests/live/box.hpp"

#include <gtest/gtest.h>

namespace {

using namespace zorilla;
using desk::Background;
using desk::has;
using desk::Outcome;
using live::Box;
using live::box;
using live::dough;

TEST(Live, tells_what_a_device_does_and_why_takes_it_over_and_keeps_what_it_sends) {
    const Box at;
    const Outcome out =
        at.live("--for '4 s' --say 'set open_flap on for 2 min' --say 'set rise_at 24' --save " +
                at.folder / "sent.csv");
    EXPECT_EQ(out.status, 0) << out.err;
    for (const char* line :
         {"air        ok             reads 19.454 degC",
          "flap       100 %          by hand: taken over with \"open_flap\", for at most 30 min",
          "rise_at    24 degC        said over the line", "handed back after 2 min",
          "The device told its outputs in ", "they are the rig's",
          "; 0 lines were damaged; of 0 passes"})
        EXPECT_TRUE(has(out.out, line)) << line << "\n" << out.out;
    EXPECT_TRUE(has(out.err, "set open_flap on for 2 min: ok\n")) << out.err;
    // What it has sent is a trace that runs as the device did.
    const Outcome run = desk::zorilla("run " + box + " --trace " + at.folder / "sent.csv");
    EXPECT_EQ(run.status, 0) << run.err;
    EXPECT_TRUE(has(run.out, "they are the rig's")) << run.out;
    EXPECT_TRUE(has(at.live("--for '300 ms' --save " + at.folder / "sent.csv").err,
                    "is there already; choose another name"));
}

TEST(Live, says_what_is_refused_and_ends_with_status_1) {
    const Box at;
    const Outcome out = at.live("--for '4 s' --say 'set rise_at 50' --say 'set flap on'");
    EXPECT_EQ(out.status, 1) << out.out;
    EXPECT_TRUE(has(out.err, "set rise_at 50: no: outside of what it may be")) << out.err;
    EXPECT_TRUE(has(out.err, "set flap on: no: nothing is called that")) << out.err;
}

TEST(Live, finds_another_rig_and_a_line_that_nobody_understands) {
    const Box at;
    const Outcome other =
        desk::zorilla(fmt::format("live {}/examples/proofing_box/proofing_box.toml {} --for '2 s'",
                                  ZORILLA_SOURCE, at.port()));
    EXPECT_EQ(other.status, 2);
    EXPECT_TRUE(has(other.out, "the device was made of another rig file")) << other.out;
    EXPECT_TRUE(has(other.err, "no row came that this rig file explains")) << other.err;
    const Outcome noise =
        desk::shell(fmt::format("head -c 3000 /dev/urandom | {} live {} -", ZORILLA_TOOL, box));
    EXPECT_EQ(noise.status, 2);
    EXPECT_TRUE(has(noise.err, "no row came that this rig file explains")) << noise.err;
    EXPECT_TRUE(has(desk::zorilla("live " + box + " /dev/nothing").err, "cannot be opened"));
    // A recorded trace has no check, and is taken as it is.
    const Outcome trace = desk::shell(fmt::format("{} live {} - < {}", ZORILLA_TOOL, box, dough));
    EXPECT_EQ(trace.status, 2) << trace.out; // it has the columns of another box
}

TEST(Live, goes_on_when_a_device_is_unplugged_and_begins_anew) {
    const desk::Folder folder;
    const std::string play =
        fmt::format("device {} --trace {} --pace 100 --link {}", box, dough, folder / "port");
    auto device = std::make_unique<Background>(folder, play, "device");
    ASSERT_TRUE(desk::is_there(folder / "port"));
    Background live(
        folder, fmt::format("live {} {} --save {}", box, folder / "port", folder / "s.csv"), "log");
    const auto rows = [&] {
        return std::filesystem::exists(folder / "s.csv")
                   ? desk::lines_of(desk::read_all(folder / "s.csv"))
                   : 0;
    };
    ASSERT_TRUE(desk::wait_for([&] { return rows() > 20; }));
    device->end(SIGKILL);
    std::filesystem::remove(folder / "port");
    ASSERT_TRUE(desk::wait_for([&] { return has(live.log(), "waiting for it to come back"); }));
    const long before = rows();
    device = std::make_unique<Background>(folder, play, "device");
    ASSERT_TRUE(desk::wait_for([&] { return rows() > before + 20; })) << live.log();
    EXPECT_EQ(live.end(SIGINT), 0) << live.log();
    EXPECT_TRUE(has(live.log(), "the device has begun anew")) << live.log();
    EXPECT_FALSE(has(live.log(), "differ")) << live.log();
}

TEST(Live, a_screen_of_any_size_shows_outputs_first_and_keys_take_them_over) {
    const Box at(20);
    for (const char* size : {"16 60", "50 160", "8 20"}) {
        // Down to the flap, take it over for a while, then ask why; hand back; a setting; the end.
        const Outcome out = desk::shell(fmt::format(
            "cd '{}' && (sleep 0.7; printf '\\033[B'; sleep 0.2; printf 't for 9 min\\n'; sleep "
            "0.7; "
            "printf '\\n'; sleep 0.4; printf '\\n'; printf 'h'; sleep 0.6; printf 'p24\\n'; sleep "
            "0.6; printf 'q') | LC_ALL=C.UTF-8 TERM=xterm script -qefc \"stty {} rows {} cols {}; "
            "{} "
            "live {} port\" /dev/null",
            at.folder.path().string(), "", std::string(size).substr(0, std::string(size).find(' ')),
            std::string(size).substr(std::string(size).find(' ') + 1), ZORILLA_TOOL, box));
        EXPECT_EQ(out.status, 0) << size << out.out;
        EXPECT_TRUE(has(out.out, "\033[?1049h")) << size;
        EXPECT_TRUE(has(out.out, "\033[?1049l")) << size;
        EXPECT_TRUE(has(out.out, "Proofing")) << size;
        EXPECT_TRUE(has(out.out, "In all")) << size << out.out;
        if (std::string(size) == "8 20")
            continue;
        EXPECT_TRUE(has(out.out, "set open_flap on for 9 min: ok")) << size << out.out;
        EXPECT_TRUE(has(out.out, "clear open_flap: ok")) << size;
        EXPECT_TRUE(has(out.out, "set rise_at 24: ok")) << size;
        EXPECT_TRUE(has(out.out, "by hand, at most 2")) << size;     // of 30 min
        EXPECT_TRUE(has(out.out, "flap at 0d ")) << size << out.out; // the whole why
    }
}

TEST(Live, who_comes_and_goes_in_the_middle_of_a_row_counts_no_damage_and_saves_a_trace) {
    const rig::RigFile file = rig::parse_rig(rig::read_file(box));
    bench::SendingDevice device(file.rig);
    const std::string header = device.header();
    std::string sent = header;
    for (int i = 0; i < 12; ++i)
        sent += device.pass(Instant(static_cast<uint32_t>(100 * i)),
                            {rig::Raw(int64_t{500 + i}), rig::Raw(), rig::Raw()});
    const desk::Folder folder;
    const size_t rows = header.size(), end = sent.size();
    const std::pair<size_t, size_t> pieces[] = {{0, end},
                                                {0, end - 1},
                                                {1, end - 2},
                                                {rows - 9, end - 4},
                                                {rows - 1, end - 9},
                                                {rows, end - 15},
                                                {rows + 1, end - 40},
                                                {rows + 30, end}};
    for (const auto& [from, to] : pieces) {
        folder.write("rest", sent.substr(from, to - from));
        // Through a pipe with a name, of which nobody knows where its lines begin.
        const Outcome live = desk::shell(fmt::format(
            "cd '{}' && rm -f port kept.csv; mkfifo port && {{ cat rest >port & }} && {} live {} "
            "port --save kept.csv --for '20 s'",
            folder.path().string(), ZORILLA_TOOL, box));
        int whole = 0;
        for (size_t at = rows; at < end; at = sent.find('\n', at) + 1)
            whole += at >= from && sent.find('\n', at) <= to ? 1 : 0;
        EXPECT_TRUE(has(live.out, fmt::format("  {} rows came; 0 lines were damaged", whole)))
            << from << live.out << live.err;
        const Outcome run = desk::zorilla("run " + box + " --trace " + folder / "kept.csv");
        EXPECT_TRUE(has(run.out, fmt::format("samples    {} rows", whole))) << from << run.out;
        EXPECT_FALSE(has(run.out + run.err, "damaged")) << from << run.err;
    }
}

TEST(Live, tells_that_nothing_comes_and_that_it_comes_then) {
    const rig::RigFile file = rig::parse_rig(rig::read_file(box));
    bench::SendingDevice device(file.rig);
    const desk::Folder folder;
    folder.write("sent", device.header() + device.pass(Instant(0), {rig::Raw(int64_t{500}),
                                                                    rig::Raw(), rig::Raw()}));
    const Outcome live = desk::shell(fmt::format(
        "cd '{}' && mkfifo port && {{ (sleep 6; cat sent; sleep 1) >port & }} && {} live {} port",
        folder.path().string(), ZORILLA_TOOL, box));
    EXPECT_TRUE(
        has(live.err, "port: no row yet at 38400 baud; was the device built with --send?\n"))
        << live.err;
    EXPECT_TRUE(has(live.err, "port: rows come\n")) << live.err;
    EXPECT_TRUE(has(live.out, "  1 row came; 0 lines")) << live.out;
}

TEST(Capture, knows_rows_with_a_check_by_their_header_or_by_themselves) {
    const rig::RigFile file = rig::parse_rig(rig::read_file(box));
    bench::SendingDevice device(file.rig);
    const desk::Folder folder;
    std::string rows;
    for (int i = 0; i < 40; ++i)
        rows += device.pass(Instant(static_cast<uint32_t>(100 * i)),
                            {rig::Raw(int64_t{500 + i}), rig::Raw(), rig::Raw()});
    std::string damaged = rows;
    damaged[damaged.find(",520,") + 2] = '7';
    for (const bool headed : {true, false}) {
        const std::string sent =
            folder.write("sent.txt", (headed ? device.header() : "") + damaged);
        const Outcome out = desk::shell(
            fmt::format("cd '{}' && rm -f c.csv; {} capture - --rig {} --out c.csv < {}",
                        folder.path().string(), ZORILLA_TOOL, box, sent));
        EXPECT_EQ(out.status, 1) << out.err;
        EXPECT_TRUE(has(out.err, "1 line was not understood; the last: \"")) << out.err;
        EXPECT_TRUE(has(out.err, "it was damaged on the way: its check is wrong")) << out.err;
        EXPECT_TRUE(has(out.out, "39 rows in ")) << out.out << out.err;
        const std::string kept = desk::read_all(folder / "c.csv");
        EXPECT_TRUE(has(kept, headed
                                  ? "time (s),air (code),rise_at (code),open_flap (level),mat (out)"
                                  : "time (s),air (code)"))
            << kept;
        EXPECT_FALSE(has(kept, "check")) << kept;
        EXPECT_FALSE(has(kept, ",720,")) << kept;
    }
    // The same of a trace as it was sent.
    const Outcome run = desk::zorilla("run " + box + " --trace " +
                                      folder.write("raw.csv", device.header() + damaged));
    EXPECT_EQ(run.status, 1) << run.out;
    EXPECT_TRUE(has(run.err, "raw.csv:22: it was damaged on the way: its check is wrong"))
        << run.err;
}

} // namespace
