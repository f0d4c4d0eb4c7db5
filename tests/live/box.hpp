// SPDX-License-Identifier: MIT
// A proofing box that is not there, at work behind a pseudo-terminal.
#pragma once

#include "tests/desk/background.hpp"

#include <gtest/gtest.h>

namespace live {

const std::string box = ZORILLA_SOURCE "/data/live/box.toml";
const std::string dough = ZORILLA_SOURCE "/examples/proofing_box/dough.csv";

/// At pace 100, five seconds of it in each 50 ms.
class Box {
  public:
    explicit Box(int pace = 100, const std::string& rig = box)
        : device_(folder,
                  fmt::format("device {} --trace {} --pace {} --link {}", rig, dough, pace, port()),
                  "device") {
        EXPECT_TRUE(desk::is_there(port()));
    }
    std::string port() const { return folder / "port"; }
    desk::Outcome live(const std::string& more) const {
        return desk::zorilla(fmt::format("live {} {} {}", box, port(), more));
    }
    desk::Folder folder;

  private:
    desk::Background device_;
};

} // namespace live
