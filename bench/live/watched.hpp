// SPDX-License-Identifier: MIT
/// \file
/// A device that is being watched: what comes of its bytes, and what somebody who looks wants to
/// see of it.
#pragma once

#include "bench/live/companion.hpp"
#include "bench/why.hpp"

#include <cstdint>
#include <deque>
#include <functional>
#include <iterator>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::bench {

/// How a source has been, on an axis that only ever widens.
struct Trend {
    /// The mean of each piece of time, the newest last; NaN where it was never healthy.
    struct Level {
        std::deque<double> means;
        int64_t piece = -1; ///< the number of the one that runs
        double sum = 0;
        uint64_t count = 0;
    };
    static constexpr int64_t most = 200; ///< pieces of each length
    static constexpr int64_t lengths[] = {1000, 10'000, 60'000, 600'000};
    Level levels[std::size(lengths)];
    int64_t last = 0, step = 0; ///< when the last row came, and the time between the last two
    int32_t from = 0, to = 0;   ///< the axis, in thousandths; the same: it has none

    /// \param value  in thousandths; NaN for a reading that is not healthy
    void add(int64_t milliseconds, double value);
};

class Watched {
  public:
    struct Tells {
        /// What has come about: of a part, or of the line and the device (`who` is empty).
        std::function<void(const Event&)> event = [](const Event&) {};
        std::function<void(const std::string&)> answer = [](const std::string&) {};
        std::function<void()> row = [] {}; ///< one has come, and was followed
        std::function<void()> header = [] {};
    };
    /// \param rig  must outlive it
    Watched(const rig::Rig& rig, Tells tells);
    Watched(const Watched&) = delete;
    Watched& operator=(const Watched&) = delete;

    void take(std::string_view bytes);
    /// Nothing comes any more. \return  whether a last line without an end was whole
    bool finish();
    /// The line was cut off for a while, or the device is on already.
    void begins_anywhere() { receiver_.begins_anywhere(); }

    const rig::Rig& rig() const { return rig_; }
    const Companion& companion() const { return companion_; }
    Companion& companion() { return companion_; }
    const Receiver& receiver() const { return receiver_; }
    /// Whether the rows that come are those of a device that was made of another rig.
    bool is_foreign() const { return foreign_; }

    const Trend& trend(size_t source) const { return trends_[source]; }
    /// The last things that came about, the newest last.
    const std::deque<Event>& events() const { return events_; }
    /// How an output has come to be what it is; null where that was before anybody looked.
    const Event* last_of(size_t drive) const {
        return last_[drive].who.empty() ? nullptr : &last_[drive];
    }
    /// For how long a person has it still at most; nothing if none has.
    std::optional<int64_t> hand_left(size_t drive) const;
    /// The whole way from samples to a pin, in sentences. Only once a row has come.
    std::vector<std::string> why(Question question) const;

  private:
    void took(Receiver::Kind kind);
    void add(const Event& event);
    void look();
    void widen(Trend& trend, int32_t from, int32_t to);

    const rig::Rig& rig_;
    Tells tells_;
    Receiver receiver_;
    Companion companion_;
    std::vector<Trend> trends_;
    std::deque<Event> events_;
    std::vector<Event> last_;         ///< of each output
    std::vector<int64_t> hand_since_; ///< of each output; -1 while nobody has it
    std::vector<std::string> moved_;  ///< of each machine
    std::vector<int64_t> said_;       ///< of each sensor that is said over the line, its last input
    std::vector<rig::Raw> raws_;
    bool foreign_ = false;
};

/// A name as it may stand in an address or a topic: "Hen house" is "hen_house".
std::string short_name(const std::string& name);

/// The names of what can be said over the line for a while that bears on an output: a setting is
/// none of them.
std::vector<std::string> said_about(const rig::Rig& rig, size_t drive);
/// The switches that can be said over the line to try all outputs, or to shut the device down.
std::vector<std::string> said_about_test(const rig::Rig& rig);
std::vector<std::string> said_about_shutdown(const rig::Rig& rig);

} // namespace zorilla::bench
