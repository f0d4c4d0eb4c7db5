// SPDX-License-Identifier: MIT
#include "bench/conversation.hpp"

#include <algorithm>

namespace zorilla::bench {

std::string Conversation::first() const {
    const std::string& typed = commands_.front();
    return typed.substr(std::min(typed.find_first_not_of(' '), typed.size()));
}

void Conversation::hear_header() {
    if (asked_ && first() == "header")
        answer_ = "ok";
}

void Conversation::step(
    Port& port, int64_t milliseconds,
    const std::function<void(const std::string&, const std::string&)>& answered) {
    if (commands_.empty())
        return;
    const std::string command = first();
    std::string answer;
    if (!asked_) {
        answer_.clear();
        asked_ = milliseconds;
        if (port.say(command))
            return;
        answer = "the port takes no more";
    } else if (!answer_.empty()) {
        answer = answer_;
    } else if (milliseconds - *asked_ > 2000) {
        answer = "nobody answers; does its rig have a line_switch or line_value?";
    } else {
        return;
    }
    obeyed_ = obeyed_ && answer.substr(0, 2) == "ok";
    commands_.pop_front();
    asked_.reset();
    answered(command, answer);
}

} // namespace zorilla::bench
