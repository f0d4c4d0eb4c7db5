// SPDX-License-Identifier: MIT
// Readings for the tests of what is derived from them, and a derived quantity of a rig file.
#pragma once

#include "tests/parts/output.hpp"
#include "tests/parts/wander.hpp"

namespace parts {

inline Reading<Temperature> at(Temperature value) { return Reading<Temperature>::of(value); }

/// What [derive.it] of two percentages a and b says, which are read from these codes.
inline rig::AnyReading derived_of(const std::string& part, uint16_t a, uint16_t b) {
    const auto sensor = [](const std::string& name) {
        return "[sense." + name + "]\npart = \"percent\"\npin = \"" + name +
               "\"\ncode_at_0 = 100\ncode_at_100 = 900\n";
    };
    const rig::RigFile file =
        rig::parse_rig("[board]\nchip = \"other\"\nadc_bits = 10\n" + sensor("a") + sensor("b") +
                       "[derive.it]\npart = \"" + part + "\"\nof = [\"a\", \"b\"]\n");
    if (!file.mistakes.empty()) {
        ADD_FAILURE() << file.mistakes.front().text;
        return {};
    }
    rig::RunningRig running(file.rig);
    const rig::Raw raws[] = {rig::Raw(a), rig::Raw(b)};
    running.pass(Instant(0), raws);
    return running.readings()[2];
}

/// A part over every tenth code of two sensors, one of which may be lost.
/// \param exact  of the percentages
template <class Exact> void expect_derived(const std::string& part, Exact exact) {
    for (uint16_t a = 100; a <= 900; a += 160)
        for (uint16_t b = 100; b <= 900; b += 50) {
            const double x = (a - 100) / 8.0, y = (b - 100) / 8.0;
            const rig::AnyReading reading = derived_of(part, a, b);
            ASSERT_TRUE(reading.ok());
            ASSERT_NEAR(reading.value_or({}).thousandths() / 1000.0, exact(x, y), 0.0011)
                << x << " " << y;
        }
    EXPECT_FALSE(derived_of(part, 1023, 500).ok()) << "the wire of one of them is off";
}

} // namespace parts
