// SPDX-License-Identifier: MIT
/// \file
/// What outputs have in common that have no guards of their own.
#pragma once

#include "rig/drive/reader.hpp"

#include <fmt/format.h>

namespace zorilla::rig {

class PlainPart : public DrivePart {
  public:
    std::unique_ptr<DriveWork> start() const override { return nullptr; }
    std::string about(const DriveWords&) const override { return {}; }
    std::string guard(const DriveWords&, Cause, bool, bool) const override {
        return "it is on its way";
    }
    std::string waited(const DriveWords&, Cause, const std::string&, bool) const override {
        return {};
    }
    prove::Much prove(const Drive&, size_t, const WishWires& wish, prove::Pass&) const override {
        return wish.much;
    }
    std::vector<Duration> times() const override { return swings(); }
    std::vector<Duration> swings() const override { return {}; }
};

/// What there is to try of one that is set to a value on each of its pins.
inline std::vector<Trial> one_trial(const Drive& drive, std::string value) {
    return {
        {std::move(value), drive.pins.front(), level_text(drive, true), level_text(drive, false)}};
}

/// A pin that carries a duty. \param note  stands behind what is neither nothing nor all
inline std::string duty_pin(const Drive& drive, Duty duty, Duty shown, std::string_view note) {
    if (!duty.of_255() || duty.of_255() == 255)
        return fmt::format("The pin {} is {} all the time.", drive.pins.front(),
                           level_text(drive, duty.of_255() != 0));
    return fmt::format("The pin {} is {} for {} of 255 parts of its time{}.", drive.pins.front(),
                       level_text(drive, true), shown.of_255(), note);
}

} // namespace zorilla::rig
