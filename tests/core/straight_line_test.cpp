// SPDX-License-Identifier: MIT
// Sensors that are straight lines over the codes of the converter, against their formulas.
#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <random>

namespace {

using namespace zorilla;

// Against the formula in wide integers: a whole number of thousandths is met, the rest within one.
TEST(StraightLine, is_exact_wherever_its_formula_is) {
    std::mt19937 random(11);
    int64_t whole = 0;
    for (int n = 0; n < 600; ++n) {
        const uint8_t bits = static_cast<uint8_t>(8 + random() % 9);
        const auto code = [&] { return static_cast<uint16_t>(random() % (1U << bits)); };
        __extension__ using Wide = __int128;
        Wide times, plus, by;
        StraightLine line;
        CodeRange range{};
        if (n % 2 == 0) {
            const ShareSpec spec = percent_between(code(), code()).bits(bits).without_wire_check();
            if (!spec.is_possible() || !spec.codes_can_be_told())
                continue;
            const ShareCurve c = spec.curve();
            times = c.at_all > c.at_none ? 100'000 : -100'000;
            plus = -times * c.at_none;
            by = c.at_all > c.at_none ? c.at_all - c.at_none : c.at_none - c.at_all;
            range = spec.code_range();
            line = c.line(range.first);
        } else {
            const auto spec =
                linear_chip(
                    VoltagePerKelvin::from_thousandths(
                        static_cast<int32_t>(1000 * (1 + random() % 20)) * (random() % 2 ? 1 : -1)),
                    Voltage::from_thousandths(static_cast<int32_t>(random() % 20 * 100'000)))
                    .reference(2.56_V)
                    .bits(bits)
                    .without_wire_check();
            if (!spec.is_possible() || !spec.codes_can_be_told())
                continue;
            const LinearCurve c = spec.curve();
            times = (c.slope < 0 ? -1000 : 1000) * c.reference;
            plus = (c.slope < 0 ? 1000 : -1000) * Wide{c.at_zero} * c.codes;
            by = (c.slope < 0 ? -c.slope : c.slope) * int64_t{c.codes};
            range = spec.code_range();
            line = c.line(range.first);
        }
        for (int32_t x = range.first; x <= range.last; ++x) {
            const Wide thousandths = times * x + plus;
            const Wide away = Wide{line.value_at(static_cast<uint16_t>(x))} * by - thousandths;
            if (thousandths % by == 0) {
                ++whole;
                ASSERT_TRUE(away == 0) << int{bits} << " bits, code " << x;
            }
            ASSERT_TRUE(away < by && -away < by) << int{bits} << " bits, code " << x;
        }
    }
    EXPECT_GT(whole, 10'000);
}

} // namespace
