// SPDX-License-Identifier: MIT
/// \file
/// Commands for a device, one after the other, each once the one before was answered.
#pragma once

#include "bench/port.hpp"

#include <cstdint>
#include <deque>
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::bench {

class Conversation {
  public:
    explicit Conversation(const std::vector<std::string>& commands)
        : commands_(commands.begin(), commands.end()) {}

    void say(std::string command) { commands_.push_back(std::move(command)); }
    /// The device has answered.
    void hear(std::string_view answer) { answer_ = answer; }
    /// It has sent its header, which is the answer to who asked for that.
    void hear_header();
    /// Says the next one, if it is its turn. \param answered  told what became of the one before
    void step(
        Port& port, int64_t milliseconds,
        const std::function<void(const std::string& command, const std::string& answer)>& answered);

    /// What was not answered yet.
    const std::deque<std::string>& pending() const { return commands_; }
    /// Whether the device has done all that it has answered.
    bool obeyed() const { return obeyed_; }

  private:
    /// The one whose turn it is, without what stands before it.
    std::string first() const;

    std::deque<std::string> commands_;
    std::optional<int64_t> asked_; ///< when the first of them was
    std::string answer_;
    bool obeyed_ = true;
};

} // namespace zorilla::bench
