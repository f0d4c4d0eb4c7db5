// SPDX-License-Identifier: MIT
/// \file
/// What sensors have in common that are said over the serial line.
#pragma once

#include "rig/sense/common.hpp"

#include <zorilla/sense/said.hpp>

namespace zorilla::rig {

constexpr Duration said_for = 1_h; ///< unless the rig says otherwise

/// How long what was said holds at most; false if that cannot be.
inline bool read_longest(TableReader& keys) {
    const auto time = keys.quantity("longest", Kind::duration, "1 h");
    const bool fine = !time || (*time > 0 && of<Duration>(time) <= 24_h * 24);
    keys.expect(fine, "longest", "above 0, and up to 24 d");
    return fine;
}
inline Duration longest_said(const Node& table) {
    const Node* time = table.get("longest");
    return time != nullptr && time->measure()
               ? Duration::from_thousandths(time->measure()->thousandths)
               : said_for;
}

/// The ends and steps of a `line_setting`, of its table.
inline SettingSpec setting_of(const Node& table) {
    const auto end = [&table](const char* key) { return table.get(key)->measure()->thousandths; };
    return setting_between(end("from"), end("to"), end("value"));
}
/// The table of a sensor.
inline const Node& table_of(const Rig& rig, const Sense& sense) {
    return *rig.written.get("sense")->get(sense.name);
}

} // namespace zorilla::rig
