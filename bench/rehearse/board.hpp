// SPDX-License-Identifier: MIT
/// \file
/// A whole board that is not there: an emulated chip behind a boot loader, on a pseudo-terminal.
/// It takes a program as a real one does, and runs it in real time.
#pragma once

#include "bench/stand_in.hpp"
#include "bench/upload/boot_loader.hpp"

#include <functional>
#include <map>
#include <string>
#include <vector>

namespace zorilla::bench {

/// What lies on the board's converter pins: for each a number of codes, one after the other.
struct BoardPins {
    /// Of each channel: the next code; `turn` counts who has opened the port to read.
    std::map<uint8_t, std::function<uint16_t(size_t turn)>> codes;
};

class Board {
  public:
    Board(StandIn& line, BoardPins pins) : line_(line), pins_(std::move(pins)) {}

    /// Serves whoever opens the port, from the reset that this is, until they leave or `stop` says
    /// so. \return  whether a program ran for them
    bool serve(double pace, const std::function<bool()>& stop);

  private:
    bool load(const std::function<bool()>& stop);
    void run(double pace, const std::function<bool()>& stop);

    StandIn& line_;
    BoardPins pins_;
    BootLoader boot_;
    size_t turn_ = 0;
};

} // namespace zorilla::bench
