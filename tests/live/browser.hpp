// SPDX-License-Identifier: MIT
// A real browser, Chromium without a window, through chromedriver's WebDriver interface (W3C).
#pragma once

#include "tests/desk/background.hpp"

#include <gtest/gtest.h>
#include <httplib.h>
#include <nlohmann/json.hpp>

#include <fcntl.h>

#include <fstream>
#include <string>

namespace live {

using nlohmann::json;

class Browser {
  public:
    explicit Browser(int width = 1280, int height = 1100)
        : port_(desk::free_port()), client_("127.0.0.1", port_) {
        client_.set_read_timeout(60);
        const std::string option = fmt::format("--port={}", port_);
        const char* const argv[] = {"chromedriver", option.c_str(), nullptr};
        posix_spawn_file_actions_t quiet;
        posix_spawn_file_actions_init(&quiet);
        posix_spawn_file_actions_addopen(&quiet, 1, "/dev/null", O_WRONLY, 0);
        posix_spawn_file_actions_addopen(&quiet, 2, "/dev/null", O_WRONLY, 0);
        posix_spawnp(&driver_, "chromedriver", &quiet, nullptr, const_cast<char* const*>(argv),
                     environ);
        posix_spawn_file_actions_destroy(&quiet);
        EXPECT_TRUE(desk::wait_for([&] { return bool(client_.Get("/status")); }));
        json arguments = {"--headless",
                          "--disable-gpu",
                          "--disable-dev-shm-usage",
                          "--disable-quic",
                          "--no-first-run",
                          "--disable-background-networking",
                          "--disable-component-update",
                          "--disable-sync",
                          "--hide-scrollbars",
                          "--user-data-dir=" + (folder_ / "profile"),
                          fmt::format("--window-size={},{}", width, height)};
        if (geteuid() == 0)
            arguments.push_back("--no-sandbox");
        const json made = ask(
            "/session",
            {{"capabilities", {{"alwaysMatch", {{"goog:chromeOptions", {{"args", arguments}}}}}}}});
        session_ = "/session/" + made.value("sessionId", "");
        size(width, height);
    }
    ~Browser() {
        client_.Delete(session_);
        kill(driver_, SIGTERM);
        waitpid(driver_, nullptr, 0);
    }
    Browser(const Browser&) = delete;
    Browser& operator=(const Browser&) = delete;

    void go(const std::string& address) { ask(session_ + "/url", {{"url", address}}); }
    /// What a script returns; a promise is waited for.
    json run(const std::string& script) {
        return ask(session_ + "/execute/sync", {{"script", script}, {"args", json::array()}});
    }
    /// The text of the first element that a selector finds; empty without one.
    std::string text(const std::string& selector) {
        return run("return document.querySelector(`" + selector + "`)?.innerText ?? ''")
            .get<std::string>();
    }
    /// Clicks on it, as a person does: it must be to be seen, and nothing may lie on it.
    void click(const std::string& selector) {
        const json found =
            ask(session_ + "/element", {{"using", "css selector"}, {"value", selector}});
        ASSERT_TRUE(found.is_object() && !found.contains("error")) << selector;
        const json clicked = ask(
            session_ + "/element/" + found.begin()->get<std::string>() + "/click", json::object());
        EXPECT_TRUE(clicked.is_null()) << selector << ": " << clicked;
    }
    /// Presses keys where the focus is.
    void type(const std::string& keys) {
        json actions = json::array();
        for (const char key : keys)
            for (const char* kind : {"keyDown", "keyUp"})
                actions.push_back({{"type", kind},
                                   {"value", key == '\t'   ? std::string("\uE004")
                                             : key == '\n' ? std::string("\uE007")
                                                           : std::string(1, key)}});
        ask(session_ + "/actions",
            {{"actions", {{{"type", "key"}, {"id", "keys"}, {"actions", actions}}}}});
    }
    bool sees(const std::string& selector, const std::string& part) {
        return desk::wait_for([&] { return desk::has(text(selector), part); });
    }
    void size(int width, int height) {
        ask(session_ + "/goog/cdp/execute", {{"cmd", "Emulation.setDeviceMetricsOverride"},
                                             {"params",
                                              {{"width", width},
                                               {"height", height},
                                               {"deviceScaleFactor", 1},
                                               {"mobile", width < 600}}}});
    }
    void take_picture(const std::string& path) {
        json reply = json::parse(client_.Get(session_ + "/screenshot")->body);
        const std::string text = reply["value"].get<std::string>();
        static constexpr std::string_view letters =
            "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
        std::ofstream out(path, std::ios::binary);
        uint32_t bits = 0;
        int count = 0;
        for (const char letter : text) {
            const size_t value = letters.find(letter);
            if (value == std::string_view::npos)
                break;
            bits = bits << 6 | static_cast<uint32_t>(value);
            if ((count += 6) >= 8)
                out.put(static_cast<char>(bits >> (count -= 8) & 0xff));
        }
    }
    /// What the page has complained of: errors of scripts, and what was refused.
    std::string complaints() {
        std::string out;
        for (const json& one : ask(session_ + "/se/log", {{"type", "browser"}}))
            out += one.value("message", "") + "\n";
        return out;
    }

  private:
    json ask(const std::string& path, const json& body) {
        const auto reply = client_.Post(path, body.dump(), "application/json");
        return reply ? json::parse(reply->body)["value"] : json();
    }

    desk::Folder folder_;
    int port_;
    httplib::Client client_;
    pid_t driver_ = 0;
    std::string session_;
};

} // namespace live
