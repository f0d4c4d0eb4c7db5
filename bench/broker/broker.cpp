// SPDX-License-Identifier: MIT
#include "bench/broker/broker.hpp"

#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/chrono.h>
#include <fmt/format.h>
#include <mosquitto.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cstdlib>
#include <cstring>
#include <mutex>

namespace zorilla::bench {

/// What the broker's own thread shares with whoever watches.
struct Broker::Link {
    mosquitto* client = nullptr;
    std::mutex guard;
    bool connected = false;
    std::string refused; ///< why it did not let us in
    bool told_tls = false;
    std::vector<std::string> commands; ///< topic and text, with a blank between
    std::string wants;                 ///< a pattern of topics to listen to; empty: none
    std::string will;                  ///< the topic that says whether anybody is here

    ~Link() {
        if (client == nullptr)
            return;
        mosquitto_loop_stop(client, true);
        mosquitto_destroy(client);
        mosquitto_lib_cleanup();
    }
    static void on_connect(mosquitto* client, void* self, int code) {
        Link& link = *static_cast<Link*>(self);
        {
            const std::lock_guard<std::mutex> lock(link.guard);
            link.connected = code == 0;
            link.refused = code == 0 ? "" : mosquitto_connack_string(code);
        }
        // The library calls us from within its own calls.
        if (code == 0 && !link.wants.empty())
            mosquitto_subscribe(client, nullptr, link.wants.c_str(), 1);
    }
    static void on_disconnect(mosquitto*, void* self, int) {
        Link& link = *static_cast<Link*>(self);
        const std::lock_guard<std::mutex> lock(link.guard);
        link.connected = false;
    }
    /// Why TLS did not come about is told here alone.
    static void on_log(mosquitto*, void* self, int level, const char* text) {
        Link& link = *static_cast<Link*>(self);
        if (level != MOSQ_LOG_ERR || std::strstr(text, "SSL") == nullptr)
            return;
        const std::lock_guard<std::mutex> lock(link.guard);
        if (link.told_tls)
            return;
        link.refused =
            fmt::format("TLS: {}; is its certificate one of those in --broker-ca?", text);
        link.told_tls = true; // once: it is tried over and over
    }
    static void on_message(mosquitto*, void* self, const mosquitto_message* message) {
        constexpr size_t most_waiting = 16;
        Link& link = *static_cast<Link*>(self);
        // One that was kept for whoever comes later is none that somebody gives now.
        if (message->retain || message->payloadlen < 0 || message->payloadlen > 64)
            return;
        const std::string text(static_cast<const char*>(message->payload),
                               static_cast<size_t>(message->payloadlen));
        if (!std::all_of(text.begin(), text.end(), [](char c) { return c >= ' ' && c <= '~'; }))
            return;
        const std::lock_guard<std::mutex> lock(link.guard);
        if (link.commands.size() < most_waiting)
            link.commands.push_back(std::string(message->topic) + " " + text);
    }
};

BrokerPlan broker_plan(const std::string& address) {
    BrokerPlan out;
    const size_t colon = address.rfind(':');
    out.host = address.substr(0, colon);
    if (colon != std::string::npos) {
        char* end = nullptr;
        const long port = std::strtol(address.c_str() + colon + 1, &end, 10);
        if (*end != '\0' || end == address.c_str() + colon + 1 || port < 1 || port > 65'535)
            throw rig::InputError(fmt::format("--broker: \"{}\" has no port from 1 to 65535 behind "
                                              "its colon; write broker.lan or broker.lan:8883",
                                              address));
        out.port = static_cast<int>(port);
    }
    if (out.host.empty())
        throw rig::InputError("--broker: say where it is, such as broker.lan or broker.lan:8883");
    return out;
}

Broker::Broker(const BrokerPlan& plan, const rig::Rig& rig,
               std::function<void(const std::string&)> notice)
    : notice_(std::move(notice)), address_(fmt::format("{}:{}", plan.host, plan.port)),
      base_("zorilla/" + short_name(rig.name)), link_(std::make_unique<Link>()), plan_(plan) {
    for (const rig::Sense& sense : rig.senses)
        if (sense.pin.empty())
            said_[short_name(sense.name)] = sense.name;
    mosquitto_lib_init();
    Link& link = *link_;
    link.client = mosquitto_new(nullptr, true, &link);
    link.will = base_;
    if (plan.lets_command)
        link.wants = base_ + "/+/set";
    const auto needs = [&plan](int code, const char* what) {
        if (code != MOSQ_ERR_SUCCESS)
            throw rig::InputError(
                fmt::format("--broker {}: {}: {}", plan.host, what, mosquitto_strerror(code)));
    };
    const std::string gone = R"({"state":"gone"})";
    needs(mosquitto_will_set(link.client, link.will.c_str(), static_cast<int>(gone.size()),
                             gone.data(), 1, true),
          "its last will");
    if (!plan.user.empty())
        needs(mosquitto_username_pw_set(link.client, plan.user.c_str(), plan.password.c_str()),
              "--broker-user");
    if (!plan.ca.empty())
        needs(mosquitto_tls_set(link.client, plan.ca.c_str(), nullptr, nullptr, nullptr, nullptr),
              "--broker-ca");
    mosquitto_connect_callback_set(link.client, Link::on_connect);
    mosquitto_disconnect_callback_set(link.client, Link::on_disconnect);
    mosquitto_log_callback_set(link.client, Link::on_log);
    mosquitto_message_callback_set(link.client, Link::on_message);
    mosquitto_reconnect_delay_set(link.client, 1, 30, true);
    needs(mosquitto_loop_start(link.client), "cannot be listened to");
    reach();
}

/// A broker that is not there yet is waited for: the library's thread only tries again what has
/// been reached once.
void Broker::reach() {
    reached_ = mosquitto_connect_async(link_->client, plan_.host.c_str(), plan_.port, 30) ==
               MOSQ_ERR_SUCCESS;
}

Broker::~Broker() {
    if (connected_) {
        const std::string gone = R"({"state":"gone"})";
        mosquitto_publish(link_->client, nullptr, link_->will.c_str(),
                          static_cast<int>(gone.size()), gone.data(), 1, true);
        mosquitto_disconnect(link_->client);
    }
}

void Broker::tell(const std::string& name, const std::string& fields, int64_t utc, int64_t now,
                  bool is_reading) {
    Told& told = told_[name];
    if (told.text == fields || (is_reading && told.at > now - 1000))
        return;
    const std::string topic = name.empty() ? base_ : base_ + "/" + short_name(name);
    const std::string text = fmt::format(
        "{},\"time\":\"{:%Y-%m-%dT%H:%M:%S}.{:03}Z\"}}", fields.substr(0, fields.size() - 1),
        fmt::gmtime(static_cast<std::time_t>(utc / 1000)), utc % 1000);
    if (mosquitto_publish(link_->client, nullptr, topic.c_str(), static_cast<int>(text.size()),
                          text.data(), 1, true) == MOSQ_ERR_SUCCESS)
        told = {fields, now};
}

void Broker::step(const Watched& watched, int64_t utc, int64_t now) {
    if (!reached_ && now - tried_ >= 1000) {
        tried_ = now;
        reach();
    }
    std::string refused;
    {
        const std::lock_guard<std::mutex> lock(link_->guard);
        connected_ = link_->connected;
        refused.swap(link_->refused);
    }
    if (!connected_ && !told_away_ && now >= 1000) {
        notice_(fmt::format("broker {}: is not there yet; it is waited for", address_));
        told_away_ = true;
    }
    told_away_ = told_away_ || connected_;
    if (!refused.empty())
        notice_(fmt::format("broker {}: {}", address_, refused));
    if (connected_ && !was_)
        told_.clear(); // whoever listens gets all of it anew
    if (connected_ != was_)
        notice_(fmt::format("broker {}: {}", address_,
                            connected_ ? "is told what changes"
                                       : "has gone; of each the newest is kept for it"));
    was_ = connected_;
    const Companion& beside = watched.companion();
    if (!connected_ || !beside.any())
        return;
    using nlohmann::json;
    const rig::Rig& rig = watched.rig();
    const rig::RunningRig& running = beside.running();
    static constexpr const char* standings[] = {"waiting", "seen from its start", "in part open",
                                                "caught up"};
    tell("",
         json{{"state",
               beside.differs() ? "differs" : standings[static_cast<size_t>(beside.standing())]}}
             .dump(),
         utc, now, false);
    for (size_t i = 0; i < rig.sources.size(); ++i) {
        const rig::AnyReading reading = running.readings()[i];
        json out;
        out["health"] = rig::to_text(reading.health());
        if (reading.ok() && rig.sources[i].kind == rig::Kind::truth)
            out["value"] = reading.value_or({}).thousandths() != 0;
        else if (reading.ok())
            out["value"] = reading.value_or({}).thousandths() / 1000.0;
        out["unit"] = rig::stored_unit_of(rig.sources[i].kind);
        if (beside.is_open_source(i))
            out = {{"health", "open"}};
        tell(rig.sources[i].name, out.dump(), utc, now, rig.sources[i].kind != rig::Kind::truth);
    }
    for (const rig::Decide& decide : rig.decides) {
        if (!decide.has_truth())
            continue;
        const bool open = beside.is_open_fact(decide.fact);
        tell(decide.name,
             json{{"value",
                   open ? "open" : std::string(rig::to_text(running.truths()[decide.fact]))}}
                 .dump(),
             utc, now, false);
    }
    for (size_t i = 0; i < rig.machines.size(); ++i)
        tell(rig.machines[i].name,
             json{{"value",
                   beside.is_open_machine(i) ? "open" : rig.machines[i].states[running.state(i)]}}
                 .dump(),
             utc, now, false);
    for (size_t i = 0; i < rig.drives.size(); ++i) {
        const Event* last = watched.last_of(i);
        const bool by_hand = watched.hand_left(i).has_value();
        tell(rig.drives[i].name,
             json{{"value", beside.explainer().what_driven(i)},
                  {"by", by_hand ? "hand" : "rule"},
                  {"reason", beside.is_open_drive(i) ? "open"
                             : last != nullptr       ? last->reason
                                                     : std::string()}}
                 .dump(-1, ' ', false, json::error_handler_t::replace),
             utc, now, false);
    }
}

std::vector<std::string> Broker::take_commands() {
    std::vector<std::string> came, out;
    {
        const std::lock_guard<std::mutex> lock(link_->guard);
        came.swap(link_->commands);
    }
    for (const std::string& one : came) {
        // zorilla/RIG/NAME/set TEXT
        const size_t blank = one.find(' ');
        const std::string topic = one.substr(0, blank), text = one.substr(blank + 1);
        const size_t begin = base_.size() + 1, end = topic.rfind('/');
        const auto found = said_.find(topic.substr(begin, end - begin));
        if (found == said_.end())
            notice_(fmt::format("broker {}: {}: nothing that is said over the line is called that",
                                address_, topic));
        else
            out.push_back(text.empty() || text == "clear"
                              ? "clear " + found->second
                              : fmt::format("set {} {}", found->second, text));
    }
    return out;
}

} // namespace zorilla::bench
