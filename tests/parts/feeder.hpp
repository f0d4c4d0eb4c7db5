// SPDX-License-Identifier: MIT
// A rig with each kind of decision and a machine, and what is said of mistakes in it.
#pragma once

#include "tests/parts/output.hpp"

namespace parts {

inline const char* const feeder = R"toml([rig]
name = "Feeder"

[sense.room]
part = "thermistor"
pin = "ADC0"
nominal = "10 kohm"
beta = "3950 K"
pull_up = "10 kohm"
range = ["-10 degC", "60 degC"]

[sense.button]
part = "digital_input"
pin = "PD2"
active = "low"
debounce = "0 s"

[sense.stuck]
part = "digital_input"
pin = "PD3"
active = "low"
debounce = "0 s"

[decide.fine]
of = "room"
inside = ["18 degC", "24 degC"]
release = ["17 degC", "25 degC"]
for_at_least = "10 s"
gone_for = "3 s"

[decide.fans]
of = "room"
rising = ["28 degC", "34 degC"]
release = "26 degC"

[decide.shake]
when = "stuck"
act_for = "2 s"
rest_for = "5 s"
tries = 3
reset = "button"

[decide.odd]
when = "not fine and not lost(room)"

[decide.slams]
when = "button"
times = 3
reset = "hatch in jammed"

[machine.hatch]
start = "shut"
moves = [
  { from = "shut", to = "opening", when = "button" },
  { from = "opening", to = "open", after = "4 s" },
  { from = "open", to = "shut", when = "fans < 1", after = "10 s" },
  { from = "any", to = "jammed", when = "locked(shake)" },
  { from = "jammed", to = "shut", when = "rises(button)" },
]

[drive.motor]
part = "relay"
pin = "PB0"
active = "high"
safe = "off"
warn = "1 s"
never_with = "second_fan"
claims = [ { when = "hatch in opening", then = "on" }, { when = "shake", then = "on" } ]

[drive.siren]
part = "relay"
pin = "PB2"
active = "high"
safe = "off"
claims = [ { when = "warns(motor)", then = "on" } ]

[drive.second_fan]
part = "relay"
pin = "PB1"
active = "high"
safe = "on"
claims = [ { when = "fans >= 2 or lost(room) or hatch enters open", then = "on" } ]
)toml";

/// The feeder with one text in place of another.
inline std::string with(const std::string& before, const std::string& after) {
    return desk::with(feeder, before, after);
}

inline void expect_told_of_feeder(const std::vector<RigMistake>& cases) { expect_told(cases, ""); }

} // namespace parts
