// SPDX-License-Identifier: MIT
// line_switch: what is said over the serial line, on or off.
#include "tests/parts/part.hpp"

#include <zorilla/board/line.hpp>

namespace {

using namespace parts;

TEST(LineSwitch, what_its_room_delivers_is_read_back) {
    expect_read_back("part = \"line_switch\"\n", {1}, 0);
}

TEST(LineSwitch, a_command_is_done_whole_or_refused_with_a_reason) {
    const struct {
        const char* text; ///< behind "set NAME"
        Answer answer;
        int code;     ///< -1: nothing
        int seconds;  ///< for how long; it is nothing a millisecond later
        bool percent; ///< of a line_value
    } cases[] = {
        {"on", Answer::ok, 1, 3600, false},
        {"off", Answer::ok, 0, 3600, false},
        {"1", Answer::ok, 1, 3600, false},
        {"on for 90", Answer::ok, 1, 90, false},
        {"on for 90 s", Answer::ok, 1, 90, false},
        {"on for 1.5 min", Answer::ok, 1, 90, false},
        {"on for 1 h", Answer::ok, 1, 3600, false},
        {"on for 61 min", Answer::too_much, -1, 0, false},
        {"on for 2 h", Answer::too_much, -1, 0, false},
        {"on for 99999999 h", Answer::no_time, -1, 0, false},
        {"on for 0", Answer::no_time, -1, 0, false},
        {"on for -3 s", Answer::no_time, -1, 0, false},
        {"on for 3 days", Answer::no_time, -1, 0, false},
        {"on for", Answer::no_time, -1, 0, false},
        {"on please", Answer::no_time, -1, 0, false},
        {"onward", Answer::no_value, -1, 0, false},
        {"2", Answer::too_much, -1, 0, false},
        {"", Answer::no_value, -1, 0, false},
        {"40", Answer::ok, 400, 3600, true},
        {"40 %", Answer::ok, 400, 3600, true},
        {"40.55 % for 3 s", Answer::ok, 405, 3, true},
        {"on", Answer::ok, 1000, 3600, true},
        {"0", Answer::ok, 0, 3600, true},
        {"100.001", Answer::too_much, -1, 0, true},
        {"-0.1", Answer::too_much, -1, 0, true},
        {"1.2345", Answer::no_value, -1, 0, true},
        {".5", Answer::no_value, -1, 0, true},
        {"1e3", Answer::no_value, -1, 0, true},
        {"4294967296", Answer::no_value, -1, 0, true},
    };
    const auto said = [](LineInput& input, Instant now) {
        const Sample sample = input.sample(now);
        return sample.taken() ? int{sample.code()} : -1;
    };
    for (const auto& one : cases) {
        LineInput input(1_h, one.percent ? said_full : 1);
        const Instant now(0xffff'fff0); // and across the wrap
        Command command(one.text);
        EXPECT_EQ(input.set(command, now), one.answer) << one.text;
        EXPECT_EQ(said(input, now), one.code) << one.text;
        if (one.answer != Answer::ok)
            continue;
        const Duration time = Duration::from_thousandths(one.seconds * 1000);
        EXPECT_EQ(said(input, now + (time - 1_ms)), one.code) << one.text;
        EXPECT_EQ(said(input, now + time), -1) << one.text;
    }
}

} // namespace
