// SPDX-License-Identifier: MIT
// A rig for proofs to work on.
#pragma once

#include "rig/rig_file.hpp"
#include "tests/desk/rig_text.hpp"

#include <gtest/gtest.h>

#include <string>

namespace desk {

namespace rig = zorilla::rig;

/// A gate with two motors, a probe, and a machine; `never` and one line may be changed.
inline std::string gate(const std::string& never, const std::string& before = "",
                        const std::string& after = "") {
    std::string out = R"toml([rig]
never = NEVER

[sense.air]
part = "thermistor"
pin = "ADC0"
nominal = "10 kohm"
beta = "3950 K"
pull_up = "10 kohm"
range = ["-20 degC", "60 degC"]

[sense.up_pressed]
part = "digital_input"
pin = "PD2"
active = "low"
debounce = "0 s"

[sense.down_pressed]
part = "digital_input"
pin = "PD3"
active = "low"
debounce = "0 s"

[decide.frost]
of = "air"
below = "2 degC"
release = "4 degC"

[decide.hot]
of = "air"
above = "30 degC"
release = "28 degC"
for_at_least = "1 min"

[machine.gate]
start = "still"
moves = [
  { from = "still", to = "rising", when = "up_pressed and not frost" },
  { from = "still", to = "falling", when = "down_pressed" },
  { from = "rising", to = "still", when = "frost" },
  { from = "any", to = "still", after = "20 s" },
]

[drive.up]
part = "relay"
pin = "PB0"
active = "high"
safe = "off"
min_off = "1 s"
never_with = "down"
claims = [ { when = "gate in rising", then = "on" } ]

[drive.down]
part = "relay"
pin = "PB1"
active = "high"
safe = "off"
min_on = "2 s"
never_with = "up"
claims = [ { when = "gate in falling or hot", then = "on" } ]
)toml";
    out = with(out, "NEVER", never);
    return before.empty() ? out : with(out, before, after);
}

inline rig::Rig parsed(const std::string& text) {
    rig::RigFile file = rig::parse_rig(text);
    EXPECT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    return std::move(file.rig);
}

} // namespace desk
