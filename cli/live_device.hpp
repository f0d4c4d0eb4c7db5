// SPDX-License-Identifier: MIT
/// \file
/// A device that is watched: its port, the rig beside it, and who is told of it.
#pragma once

#include "bench/broker/broker.hpp"
#include "bench/conversation.hpp"
#include "bench/history/recorder.hpp"
#include "bench/live/kept_trace.hpp"
#include "bench/live/paced.hpp"
#include "bench/live/watched.hpp"
#include "bench/port.hpp"
#include "cli/listening.hpp"

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace zorilla::cli {

/// What is done with the devices that are watched.
struct WatchPlan {
    struct Place {
        std::string rig, port;
    };
    std::vector<Place> devices;
    int baud = 38'400;
    std::optional<double> pace; ///< of recorded files; without it as fast as can be
    std::string duration;
    std::string save;
    std::string history, began;
    int keep_days = 30;
    std::string broker, broker_user, broker_password, broker_ca;
    bool let_broker_command = false;
    std::string page, page_phrase;
    std::vector<std::string> say;
};

/// Milliseconds of UTC.
bench::Utc utc_now();
/// The first line of a file, such as one that holds a password. \throws rig::InputError
std::string first_line(const std::string& path);

class LiveDevice {
  public:
    struct Tells {
        std::function<void(const std::string&)> say; ///< what becomes of the port, or of a command
        std::function<void(const bench::Event&)> event;
        std::function<void()> row;
    };
    /// \param history  may be null  \throws rig::InputError
    LiveDevice(const WatchPlan& plan, const WatchPlan::Place& place, rig::Rig rig,
               const std::shared_ptr<bench::HistoryFile>& history, Tells tells);
    LiveDevice(const LiveDevice&) = delete;
    LiveDevice& operator=(const LiveDevice&) = delete;

    const std::string& port() const { return place_.port; }
    const std::string& rig_path() const { return place_.rig; }
    const rig::Rig& rig() const { return rig_; }
    const std::string& rig_text() const { return text_; }
    bench::Watched& watched() { return *watched_; }
    Listening& listening() { return *listening_; }
    /// Whether its port is open and rows have come.
    bool is_there() const { return port_.is_open() && watched_->companion().any(); }
    /// What the port is doing, where it is not simply there.
    const std::string& line() const { return line_; }

    /// Says a command, once those before it are answered. \param answered  may be empty
    void say(const std::string& command, std::function<void(const std::string&)> answered = {});
    /// To be called over and over: says what is to be said.
    void converse();
    /// To be called a few times a second: hands on what has come.
    void step();
    /// Nothing comes any more.
    void finish();
    /// Commands that nobody has answered, and whether all others were obeyed.
    const bench::Conversation& conversation() const { return conversation_; }

  private:
    void take(std::string_view bytes);
    void tell_silence();
    void tell_broker();

    const WatchPlan::Place place_;
    const int baud_;
    std::string text_;
    rig::Rig rig_;
    Tells tells_;
    std::unique_ptr<bench::Paced> paced_;
    bench::Port port_;
    bench::Conversation conversation_;
    struct Answered {
        std::string command;
        std::function<void(const std::string&)> tell;
    };
    std::vector<Answered> waiting_;
    std::optional<bench::Recorder> recorder_;
    std::optional<bench::Broker> broker_;
    std::unique_ptr<bench::Watched> watched_;
    std::unique_ptr<Listening> listening_;
    std::optional<bench::KeptTrace> kept_;
    bool told_silence_ = false, told_rows_ = false;
    std::string line_;
};

} // namespace zorilla::cli
