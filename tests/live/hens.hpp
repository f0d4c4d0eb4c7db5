// SPDX-License-Identifier: MIT
// A hen house that is not there, watched, with a page.
#pragma once

#include "tests/desk/background.hpp"

#include <gtest/gtest.h>
#include <httplib.h>

#include <optional>

namespace live {

const std::string hens = ZORILLA_SOURCE "/data/live/hen_house.toml";
const std::string hens_world = ZORILLA_SOURCE "/data/live/winter.toml";

/// A hen house that is not there, and its page.
class Page {
  public:
    explicit Page(const std::string& more = "", const std::string& rig = hens, int pace = 20)
        : rig_(rig), port_(desk::free_port()) {
        device_.emplace(folder,
                        fmt::format("device {} --in {} --pass 5s --pace {} --link {}", rig,
                                    hens_world, pace, folder / "port"),
                        "device");
        EXPECT_TRUE(desk::is_there(folder / "port"));
        live_.emplace(folder,
                      fmt::format("live {} {} --page {} --save {} {}", rig, folder / "port", port_,
                                  folder / "sent.csv", more),
                      "live");
        EXPECT_TRUE(desk::wait_for([&] { return desk::has(live_->log(), "The page: "); }))
            << live_->log();
    }
    std::string address() const { return fmt::format("http://127.0.0.1:{}/", port_); }
    httplib::Client client() const { return httplib::Client("127.0.0.1", port_); }
    void cut() { device_.reset(); }
    void mend() {
        device_.emplace(folder,
                        fmt::format("device {} --in {} --pass 5s --pace 20 --link {}", rig_,
                                    hens_world, folder / "port"),
                        "device");
    }
    /// Whether rows come.
    static bool runs(httplib::Client& client) {
        return desk::wait_for([&] {
            const auto reply = client.Get("/api/devices/hen_house");
            return reply && desk::has(reply->body, "seen from its start");
        });
    }
    int end() { return live_->end(SIGINT); }
    std::string log() const { return live_->log(); }
    int port() const { return port_; }
    pid_t process() const { return live_->process(); }
    /// The last row that the device has sent.
    std::string last_row() const {
        const std::string all = desk::read_all(folder / "sent.csv");
        const size_t end = all.rfind('\n'), begin = all.rfind('\n', end - 1);
        return all.substr(begin + 1, end - begin);
    }
    desk::Folder folder;

  private:
    std::string rig_;
    int port_;
    std::optional<desk::Background> device_, live_;
};

} // namespace live
