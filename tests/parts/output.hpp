// SPDX-License-Identifier: MIT
// An output of a rig file among sensors, decisions and a pattern, and what is said of mistakes.
#pragma once

#include "rig/rig_file.hpp"
#include "rig/run/running_rig.hpp"
#include "tests/desk/process.hpp"
#include "tests/desk/rig_text.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <string>
#include <vector>

namespace parts {

using namespace zorilla;
using desk::has;

/// All but the keys of [drive.it].
inline const std::string head = R"toml([board]
chip = "other"
adc_bits = 10
[sense.a]
part = "percent"
pin = "A0"
code_at_0 = 60
code_at_100 = 900
[sense.key]
part = "digital_input"
pin = "D0"
active = "high"
debounce = "0 s"
[sense.turns]
part = "pulse_counter"
pin = "D1"
edges_per_turn = 1
[decide.high]
of = "a"
above = "60 %"
release = "50 %"
[decide.much]
of = "a"
points = [["10 %", "0 %"], ["90 %", "100 %"]]
[decide.stages]
of = "a"
rising = ["20 %", "40 %", "60 %"]
release = "10 %"
[pattern.blink]
steps = [["on", "1 s"], ["off", "1 s"]]
[drive.user]
part = "led"
pin = "D9"
safe = "off"
claims = [ { when = "key", then = "blink" } ]
[drive.it]
)toml";

/// Keys of an output but for its claims; and such a list of one claim.
inline std::string keys_of(const std::string& part) {
    return "part = \"" + part + "\"\npin = \"D2\"\nsafe = \"off\"\n";
}
inline std::string then(const std::string& what) {
    return "claims = [ { when = \"high\", then = \"" + what + "\" } ]\n";
}

struct RigMistake {
    std::string text; ///< the keys of an output, or a whole rig
    const char* said;
};
inline void expect_told(const std::vector<RigMistake>& cases, const std::string& before = head) {
    for (const RigMistake& c : cases) {
        const std::string told = desk::mistakes_of(before + c.text);
        EXPECT_TRUE(has(told, c.said)) << c.text << "\n" << told;
    }
}

} // namespace parts
