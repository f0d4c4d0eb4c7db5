// SPDX-License-Identifier: MIT
/// \file
/// A watched device at an MQTT broker (OASIS MQTT 3.1.1): a retained message for each reading,
/// decision and output, and commands the other way (docs/live.md).
#pragma once

#include "bench/live/watched.hpp"

#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <string>
#include <vector>

namespace zorilla::bench {

struct BrokerPlan {
    std::string host;
    int port = 1883;
    std::string user, password; ///< empty: none
    std::string ca; ///< a file of certificates that the broker's is checked by; empty: no TLS
    bool lets_command = false;
};
/// "broker.lan" or "broker.lan:8883". \throws rig::InputError  if it is neither
BrokerPlan broker_plan(const std::string& address);

class Broker {
  public:
    /// Begins to connect, and goes on trying. \param notice  told what becomes of that
    /// \throws rig::InputError  if the plan cannot be carried out at all
    Broker(const BrokerPlan& plan, const rig::Rig& rig,
           std::function<void(const std::string&)> notice);
    ~Broker();
    Broker(const Broker&) = delete;
    Broker& operator=(const Broker&) = delete;

    /// Tells the broker what has changed: readings once a second at most, all else at once. While
    /// it is away only the newest of each counts. \param utc  now  \param now  milliseconds that
    /// never go back
    void step(const Watched& watched, int64_t utc, int64_t now);
    /// What somebody has sent for the device since the last call, as commands for it.
    std::vector<std::string> take_commands();

  private:
    struct Link;
    struct Told {
        std::string text; ///< without its time
        int64_t at = INT64_MIN;
    };
    void reach();
    void tell(const std::string& name, const std::string& fields, int64_t utc, int64_t now,
              bool is_reading);

    std::function<void(const std::string&)> notice_;
    std::string address_, base_;
    std::map<std::string, std::string> said_; ///< what can be said, by the level of its topic
    std::unique_ptr<Link> link_;
    std::map<std::string, Told> told_;
    BrokerPlan plan_;
    bool reached_ = false; ///< once; from then on its own thread goes on trying
    int64_t tried_ = 0;
    bool connected_ = false, was_ = false, told_away_ = false;
};

} // namespace zorilla::bench
