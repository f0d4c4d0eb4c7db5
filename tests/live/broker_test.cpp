// SPDX-License-Identifier: MIT
// zorilla live at a real broker on this machine.
#include "tests/live/box.hpp"

#include <gtest/gtest.h>
#include <mosquitto.h>

#include <map>
#include <mutex>

namespace {

using desk::Background;
using desk::free_port;
using desk::has;
using desk::wait_for;
using live::Box;
using live::box;

/// The broker itself, as it is installed.
class RealBroker {
  public:
    /// \param lets_in  whom, and how, as its configuration has it
    RealBroker(const desk::Folder& folder, int port,
               const std::string& lets_in = "allow_anonymous true\n") {
        const std::string plan =
            folder.write("broker.conf", fmt::format("listener {} 127.0.0.1\npersistence false\n{}",
                                                    port, lets_in));
        const std::string command = fmt::format("exec /usr/sbin/mosquitto -c '{}' > '{}' 2>&1",
                                                plan, folder / "broker.log");
        const char* const argv[] = {"sh", "-c", command.c_str(), nullptr};
        posix_spawnp(&child_, "sh", nullptr, nullptr, const_cast<char* const*>(argv), environ);
    }
    ~RealBroker() {
        kill(child_, SIGKILL);
        waitpid(child_, nullptr, 0);
    }
    RealBroker(const RealBroker&) = delete;
    RealBroker& operator=(const RealBroker&) = delete;

  private:
    pid_t child_ = 0;
};

/// Somebody else at the broker.
class Guest {
  public:
    explicit Guest(int port) {
        mosquitto_lib_init();
        client_ = mosquitto_new(nullptr, true, this);
        mosquitto_message_callback_set(client_, [](mosquitto*, void* self,
                                                   const mosquitto_message* message) {
            Guest& guest = *static_cast<Guest*>(self);
            const std::lock_guard<std::mutex> lock(guard_of(guest));
            guest.heard_[message->topic] = std::string(static_cast<const char*>(message->payload),
                                                       static_cast<size_t>(message->payloadlen));
        });
        wait_for([&] { return mosquitto_connect(client_, "127.0.0.1", port, 30) == 0; });
        mosquitto_loop_start(client_);
        mosquitto_subscribe(client_, nullptr, "zorilla/#", 1);
    }
    ~Guest() {
        mosquitto_disconnect(client_);
        mosquitto_loop_stop(client_, true);
        mosquitto_destroy(client_);
    }
    Guest(const Guest&) = delete;
    Guest& operator=(const Guest&) = delete;

    std::string heard(const std::string& topic) {
        const std::lock_guard<std::mutex> lock(guard_);
        return heard_["zorilla/proofing_box" + (topic.empty() ? "" : "/" + topic)];
    }
    bool hears(const std::string& topic, const std::string& part) {
        return wait_for([&] { return has(heard(topic), part); });
    }
    void say(const std::string& topic, const std::string& text, bool kept = false) {
        mosquitto_publish(client_, nullptr, ("zorilla/proofing_box/" + topic).c_str(),
                          static_cast<int>(text.size()), text.data(), 1, kept);
    }

  private:
    static std::mutex& guard_of(Guest& guest) { return guest.guard_; }
    mosquitto* client_;
    std::mutex guard_;
    std::map<std::string, std::string> heard_;
};

TEST(Broker, is_told_what_a_device_does_takes_it_over_where_it_may_and_is_waited_for) {
    const Box at(50);
    const int port = free_port();
    // It is begun before there is a broker.
    Background live(
        at.folder,
        fmt::format("live {} {} --broker 127.0.0.1:{} --let-broker-command", box, at.port(), port),
        "log");
    ASSERT_TRUE(wait_for([&] { return has(live.log(), "it is waited for"); })) << live.log();
    auto broker = std::make_unique<RealBroker>(at.folder, port);
    {
        Guest guest(port);
        ASSERT_TRUE(guest.hears("air", "\"unit\":\"degC\",\"value\":")) << live.log();
        EXPECT_TRUE(has(guest.heard("air"), "{\"health\":\"ok\",")) << guest.heard("air");
        EXPECT_TRUE(guest.hears("", "{\"state\":\"seen from its start\",\"time\":\"20"));
        EXPECT_TRUE(guest.hears("cool", "{\"value\":\""));
        EXPECT_TRUE(guest.hears("flap", "\"by\":\"rule\""));
        guest.say("open_flap/set", "on for 20 min");
        EXPECT_TRUE(guest.hears("flap", "{\"by\":\"hand\",\"reason\":\"by hand: taken over with "
                                        "\\\"open_flap\\\""))
            << guest.heard("flap") << live.log();
        guest.say("open_flap/set", "clear");
        EXPECT_TRUE(guest.hears("flap", "\"by\":\"rule\""));
        guest.say("rise_at/set", "24");
        EXPECT_TRUE(guest.hears("rise_at", "\"value\":24.0"));
        // What is no command does nothing.
        guest.say("rise_at/set", "26\nset open_flap on");
        guest.say("rise_at/set", std::string(65, '1'));
        guest.say("flap/set", "on");
        EXPECT_TRUE(wait_for([&] { return has(live.log(), "flap/set: nothing that is said"); }));
        std::this_thread::sleep_for(
            std::chrono::milliseconds(1500)); // a reading is told each second
        EXPECT_TRUE(has(guest.heard("rise_at"), "\"value\":24.0")) << guest.heard("rise_at");
        EXPECT_TRUE(has(guest.heard("flap"), "\"by\":\"rule\"")) << guest.heard("flap");
    }
    broker.reset();
    ASSERT_TRUE(wait_for([&] { return has(live.log(), "has gone; of each the newest is kept"); }));
    broker = std::make_unique<RealBroker>(at.folder, port);
    Guest guest(port);
    ASSERT_TRUE(guest.hears("air", "\"value\":")) << live.log();
    live.end(SIGKILL);
    EXPECT_TRUE(guest.hears("", "{\"state\":\"gone\"}"));
}

TEST(Broker, takes_no_commands_unless_it_may) {
    const Box at(50);
    const int port = free_port();
    const RealBroker broker(at.folder, port);
    Guest guest(port);
    Background live(at.folder,
                    fmt::format("live {} {} --broker 127.0.0.1:{}", box, at.port(), port), "log");
    ASSERT_TRUE(guest.hears("rise_at", "\"value\":27.0")) << live.log();
    guest.say("rise_at/set", "24");
    std::this_thread::sleep_for(std::chrono::milliseconds(1500));
    EXPECT_TRUE(has(guest.heard("rise_at"), "\"value\":27.0")) << guest.heard("rise_at");
    EXPECT_EQ(live.end(SIGINT), 0);
    EXPECT_TRUE(guest.hears("", "{\"state\":\"gone\"}"));
    EXPECT_TRUE(has(desk::zorilla("live " + box + " - --broker host:99999 < /dev/null").err,
                    "has no port from 1 to 65535"));
}

TEST(Broker, takes_no_command_that_was_kept_from_before) {
    const Box at(50);
    const int port = free_port();
    const RealBroker broker(at.folder, port);
    Guest guest(port);
    guest.say("rise_at/set", "24", true);
    ASSERT_TRUE(guest.hears("rise_at/set", "24"));
    const Background live(
        at.folder,
        fmt::format("live {} {} --broker 127.0.0.1:{} --let-broker-command", box, at.port(), port),
        "log");
    ASSERT_TRUE(guest.hears("rise_at", "\"value\":27.0")) << live.log();
    std::this_thread::sleep_for(std::chrono::milliseconds(1500));
    EXPECT_TRUE(has(guest.heard("rise_at"), "\"value\":27.0")) << guest.heard("rise_at");
    guest.say("rise_at/set", "25");
    EXPECT_TRUE(guest.hears("rise_at", "\"value\":25.0")) << live.log();
}

TEST(Broker, is_reached_by_tls_and_with_a_password_or_it_is_said_why_not) {
    const Box at(50);
    const desk::Folder& folder = at.folder;
    ASSERT_EQ(
        desk::shell(
            fmt::format(
                "cd '{}' && openssl req -x509 -newkey rsa:2048 -nodes -days 2 -keyout key -out "
                "cert -subj /CN=localhost -addext subjectAltName=IP:127.0.0.1 && openssl req "
                "-x509 -newkey rsa:2048 -nodes -days 2 -keyout other.key -out other -subj "
                "/CN=other && mosquitto_passwd -b -c users hens 'straw and oats'",
                folder / ""))
            .status,
        0);
    folder.write("password", "straw and oats\n");
    folder.write("wrong", "hay\n");
    const int port = free_port();
    const RealBroker broker(folder, port,
                            fmt::format("certfile {}\nkeyfile {}\npassword_file {}\n"
                                        "user root\n",
                                        folder / "cert", folder / "key", folder / "users"));
    const struct {
        const char *password, *ca, *says;
    } ways[] = {{"password", "cert", "is told what changes"},
                {"wrong", "cert", "not authorised"},
                {"password", "other", "TLS"}};
    for (const auto& way : ways) {
        const Background live(folder,
                              fmt::format("live {} {} --broker 127.0.0.1:{} --broker-user hens "
                                          "--broker-password {} --broker-ca {}",
                                          box, at.port(), port, folder / way.password,
                                          folder / way.ca),
                              "log");
        EXPECT_TRUE(wait_for([&] { return has(live.log(), way.says); }))
            << way.says << ": " << live.log();
    }
}

} // namespace
