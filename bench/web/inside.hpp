// SPDX-License-Identifier: MIT
/// \file
/// The server behind the page. Only for bench/web/ itself.
#pragma once

#include "bench/web/bounded_server.hpp"
#include "bench/web/web_page.hpp"

#include <fmt/format.h>
#include <httplib.h>
#include <sys/eventfd.h>
#include <unistd.h>

#include <chrono>
#include <condition_variable>
#include <mutex>
#include <string>
#include <thread>

namespace zorilla::bench {

namespace web {

/// Milliseconds that never go back.
inline int64_t steady_now() {
    return std::chrono::duration_cast<std::chrono::milliseconds>(
               std::chrono::steady_clock::now().time_since_epoch())
        .count();
}

/// Answers with an object of a single text: {"answer": "ok"}.
void say(httplib::Response& response, int status, const char* key, const std::string& text);
inline void refuse(httplib::Response& response, int status, const std::string& why) {
    say(response, status, "error", why);
}
/// A text in an object that was sent; empty if there is none.
std::string text_in(const std::string& body, const char* key);

} // namespace web

using httplib::Request;
using httplib::Response;
using web::refuse;
using web::say;
using web::steady_now;
using web::text_in;

struct WebPage::Inside {
    explicit Inside(const WebPlan& where)
        : plan(where), door(where.phrase), cookie(fmt::format("zorilla_{}", where.port)),
          wake(eventfd(0, EFD_NONBLOCK | EFD_CLOEXEC)) {}
    ~Inside() { close(wake); }

    WebPlan plan;
    web::BoundedServer server;
    std::thread thread;

    std::mutex guard; ///< of all below
    std::condition_variable news;
    bool ends = false;
    std::vector<std::unique_ptr<Told>> devices;
    Door door;
    std::string cookie;
    Rate commands{20, 1000}, requests{400, 1000};
    std::vector<Asked> asked;
    size_t streams = 0;
    const int wake;

    // What a request is answered with.
    void routes();
    httplib::Server::HandlerResponse let_in(const Request& request, Response& response);
    bool may_see(const Request& request, Response& response, int64_t now);
    bool may_command(const Request& request, Response& response);
    void enter(const Request& request, Response& response);
    void stream(const Request& request, Response& response);
    void ask(const Request& request, Response& response, const char* kind);
    /// Of an address such as /api/devices/hen_house/chart; `guard` is held.
    std::optional<size_t> device_of(const Request& request, Response& response) const;
    /// Hands a question to whoever watches, and waits for the answer.
    void wait_for(Asked what, Response& response);
    bool write_news(std::vector<uint64_t>& seen, const std::string& session,
                    httplib::DataSink& sink);
    std::string session_of(const Request& request) const {
        return cookie_of(request.get_header_value("Cookie"), cookie);
    }
};

} // namespace zorilla::bench
