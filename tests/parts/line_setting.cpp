// SPDX-License-Identifier: MIT
// line_setting: what is set over the serial line, within its ends.
#include "tests/parts/part.hpp"

#include <zorilla/board/line.hpp>

namespace {

using namespace parts;

const char* const plain_line_setting =
    "part = \"line_setting\"\nvalue = \"6 degC\"\nfrom = \"-4.5 degC\"\nto = \"12 degC\"\n";

TEST(LineSetting, what_its_room_delivers_is_read_back) {
    expect_read_back(plain_line_setting, {-4.5, 0, 6, 12}, 0.001);
}

TEST(LineSetting, every_value_between_its_ends_is_met_to_half_a_step) {
    std::mt19937 random(3);
    for (int i = 0; i < 20'000; ++i) {
        const auto number = [&random] { return static_cast<int32_t>(random()) >> random() % 28; };
        const int32_t a = number(), b = number(), from = std::min(a, b), to = std::max(a, b);
        if (from == to || int64_t{to} - from > 2'000'000'000)
            continue;
        const auto within = [&] {
            return static_cast<int32_t>(from +
                                        static_cast<int64_t>(random()) % (int64_t{to} - from + 1));
        };
        const SettingSpec spec = setting_between(from, to, within());
        ASSERT_TRUE(spec.is_possible());
        ASSERT_LE((int64_t{to} - from) / spec.step, 65'000);
        const int32_t value = within();
        const uint16_t code = spec.code(value);
        // Behind the last whole step the end itself is as near as it gets.
        ASSERT_LE(std::abs(int64_t{spec.value(code)} - value), spec.step) << from << " " << to;
        ASSERT_GE(spec.value(code), from);
        ASSERT_LE(spec.value(code), to);
        if (spec.step == 1) {
            ASSERT_EQ(spec.value(code), value);
        }
    }
}

constexpr auto warm_at = setting(-4.5_degC, 12_degC, 6_degC);

TEST(LineSetting, takes_what_is_typed_or_stays) {
    LineSetting<warm_at> it;
    const struct {
        const char* text;
        Answer answer;
        int32_t value;
    } cases[] = {{"", Answer::no_value, 6000},       {"5", Answer::ok, 5000},
                 {"12.001", Answer::too_much, 5000}, {"-4.501", Answer::too_much, 5000},
                 {"-4.5", Answer::ok, -4500},        {"12", Answer::ok, 12'000},
                 {"on", Answer::no_value, 12'000},   {"3 degC", Answer::no_value, 12'000},
                 {"0.125", Answer::ok, 125},         {"-0.5", Answer::ok, -500}};
    for (const auto& one : cases) {
        Command command(one.text);
        EXPECT_EQ(it.set(command), one.answer) << one.text;
        EXPECT_EQ(said_setting<Temperature>(warm_at, it.sample()).value_or({}).thousandths(),
                  one.value)
            << one.text;
    }
    it.clear();
    EXPECT_EQ(said_setting<Temperature>(warm_at, it.sample()).value_or({}), 6_degC);
    // What was stored by somebody else is not taken.
    const uint8_t odd[] = {0xff, 0xff};
    const uint8_t* from = odd;
    it.from_bytes(from);
    EXPECT_EQ(said_setting<Temperature>(warm_at, it.sample()).value_or({}), 6_degC);
}

} // namespace
