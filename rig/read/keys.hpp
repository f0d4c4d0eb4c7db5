// SPDX-License-Identifier: MIT
/// \file
/// The keys of the tables of a rig file that are no part's; those of parts stand in their rooms.
#pragma once

#include "rig/read/table_reader.hpp"

#include <vector>

namespace zorilla::rig::keys {

inline const std::vector<PartKey> of_rig = {
    {"name", "\"Heat lamp\""},
    {"show", "[\"degF\"]"},
    {"never", "[\"heat_lamp and ventilator\"]"},
    {"shutdown", "[rig.shutdown]"},
    {"self_test", "[rig.self_test]"},
};
inline const std::vector<PartKey> of_board = {
    {"chip", "\"atmega328p\""}, {"adc_bits", "12"}, {"line", "\"serial1\""}, {"report", "\"1 s\""}};
inline const std::vector<PartKey> of_shutdown = {
    {"when", "\"main_switch\""},
    {"order", "[\"water_valve\", \"heat_lamp\"]"},
    {"gap", "\"2 s\""},
};
inline const std::vector<PartKey> of_self_test = {{"when", "\"test_button\""}, {"each", "\"2 s\""}};
inline const std::vector<PartKey> of_machine = {
    {"start", "\"shut\""},
    {"moves", "[ { from = \"shut\", to = \"open\", when = \"dawn\" } ]"},
    {"ends_in", "[\"done\"]"},
};
inline const std::vector<PartKey> of_move = {
    {"from", "\"shut\""},
    {"to", "\"open\""},
    {"when", "\"dawn\""},
    {"after", "\"20 s\""},
};
inline const std::vector<PartKey> of_pattern = {
    {"steps", "[[\"on\", \"200 ms\"], [\"off\", \"800 ms\"]]"}};
inline const std::vector<PartKey> of_sense = {{"part", "\"thermistor\""}, {"pin", "\"ADC0\""}};
inline const std::vector<PartKey> of_derive = {{"part", "\"dew_point\""}};
inline const std::vector<PartKey> of_decide = {{"of", "\"roost\""}, {"when", "\"cold\""}};
inline const std::vector<PartKey> of_drive = {
    {"part", "\"relay\""},
    {"safe", "\"off\""},
    {"rest", "\"off\""},
    {"by_hand", "{ when = \"button\", then = \"on\", longest = \"15 min\" }"},
    {"claims", "[ { when = \"cold\", then = \"on\" } ]"},
};
inline const std::vector<PartKey> of_promise = {
    {"of", "\"roost\""},       {"at_least", "\"2 degC\""}, {"at_most", "\"30 degC\""},
    {"but_for", "\"10 min\""}, {"times_a_day", "30"},      {"on_a_day", "\"8 h\""},
    {"when", "\"cold\""},      {"then", "\"heat_lamp\""},  {"told", "\"watch in trouble\""},
    {"within", "\"10 min\""},
};
inline const std::vector<PartKey> of_claim = {{"when", "\"cold\""}, {"then", "\"on\""}};
inline const std::vector<PartKey> of_hand = {
    {"when", "\"button\""},
    {"then", "\"on\""},
    {"longest", "\"15 min\""},
    {"back", "\"automatic\""},
};

/// More keys behind those of a part.
inline std::vector<PartKey> with(std::vector<PartKey> own, const std::vector<PartKey>& more) {
    own.insert(own.end(), more.begin(), more.end());
    return own;
}

} // namespace zorilla::rig::keys
