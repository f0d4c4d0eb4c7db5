// SPDX-License-Identifier: MIT
/// \file
/// A device that is not there: a rig that is fed with a trace, sends rows as its firmware would,
/// and obeys what is said to it. All of that is done by the blocks that a chip does it with.
#pragma once

#include "rig/run/running_rig.hpp"

#include <zorilla/board/line.hpp>

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::bench {

class SendingDevice {
  public:
    /// \param rig  must outlive it
    explicit SendingDevice(const rig::Rig& rig);

    /// What it sends when it begins.
    std::string header() const { return header_ + "\n"; }
    /// Characters that come to it.
    void hear(std::string_view bytes);
    /// One pass. \param raws  what its pins read, one for each sensor; what is said over the line
    /// comes from there  \return  the row, and an answer if a command had come
    std::string pass(Instant now, std::vector<rig::Raw> raws);

    const rig::RunningRig& running() const { return running_; }

  private:
    /// A sensor that is said over the line.
    struct Said {
        size_t sense;
        LineInput input;
    };
    struct Setting {
        size_t sense;
        SettingSpec spec;
        uint16_t code;
    };
    std::string obey(Command command, Instant now);
    Answer change(Command& command, bool sets, Instant now);
    std::string row(Instant now, const std::vector<rig::Raw>& raws) const;

    const rig::Rig& rig_;
    rig::RunningRig running_;
    std::string header_;
    uint32_t number_;
    LineIn in_;
    std::string heard_; ///< what has come behind a whole line
    std::vector<Said> said_;
    std::vector<Setting> settings_;
};

} // namespace zorilla::bench
