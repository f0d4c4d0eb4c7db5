// SPDX-License-Identifier: MIT
#include "bench/web/web_page.hpp"

#include "bench/live/setting.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>
#include <httplib.h>
#include <nlohmann/json.hpp>
#include <sys/eventfd.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <condition_variable>
#include <future>
#include <mutex>
#include <thread>

namespace zorilla::bench {

using httplib::Request;
using httplib::Response;
using nlohmann::json;

namespace {

constexpr size_t threads = 64, most_streams = 32, most_asked = 32;
constexpr size_t longest_command = 64;

int64_t steady_now() {
    return std::chrono::duration_cast<std::chrono::milliseconds>(
               std::chrono::steady_clock::now().time_since_epoch())
        .count();
}
int64_t utc_now() {
    return std::chrono::duration_cast<std::chrono::milliseconds>(
               std::chrono::system_clock::now().time_since_epoch())
        .count();
}

void say(Response& response, int status, const json& what) {
    response.status = status;
    response.set_content(what.dump(-1, ' ', false, json::error_handler_t::replace),
                         "application/json");
}
void refuse(Response& response, int status, const std::string& why) {
    say(response, status, {{"error", why}});
}

/// A text of an object; empty if there is none.
std::string text_in(const json& object, const char* key) {
    const auto found = object.is_object() ? object.find(key) : object.end();
    return found != object.end() && found->is_string() ? found->get<std::string>() : "";
}

} // namespace

struct WebPage::Inside {
    explicit Inside(const WebPlan& where)
        : plan(where), door(where.phrase), cookie(fmt::format("zorilla_{}", where.port)),
          wake(eventfd(0, EFD_NONBLOCK | EFD_CLOEXEC)) {}
    ~Inside() { close(wake); }

    WebPlan plan;
    httplib::Server server;
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

httplib::Server::HandlerResponse WebPage::Inside::let_in(const Request& request,
                                                         Response& response) {
    const std::lock_guard<std::mutex> lock(guard);
    const int64_t now = steady_now();
    response.set_header("X-Content-Type-Options", "nosniff");
    response.set_header("Referrer-Policy", "no-referrer");
    response.set_header("Cache-Control", "no-store");
    response.set_header("Content-Security-Policy",
                        "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' "
                        "data:; connect-src 'self'; form-action 'self'; base-uri 'none'; "
                        "frame-ancestors 'none'");
    const std::string host = request.get_header_value("Host");
    if (!is_own_host(host))
        refuse(response, 421,
               "this is not the page of \"" + host + "\"; type this machine's address in numbers");
    else if (!requests.allows(now))
        refuse(response, 429, "too many requests; wait a second");
    else if (request.method == "POST" && request.has_header("Origin") &&
             !is_same_origin(request.get_header_value("Origin"), host))
        refuse(response, 403, "a page of another site may not do that");
    else if (request.path.rfind("/api/", 0) != 0 && request.path != "/metrics")
        return httplib::Server::HandlerResponse::Unhandled;
    else if (request.path == "/api/session" || may_see(request, response, now))
        return httplib::Server::HandlerResponse::Unhandled;
    return httplib::Server::HandlerResponse::Handled;
}

bool WebPage::Inside::may_see(const Request& request, Response& response, int64_t now) {
    if (!door.needs_phrase() || door.find(session_of(request), now) != nullptr)
        return true;
    // Of a program, which has no session.
    const std::string bearer = request.get_header_value("Authorization");
    if (bearer.rfind("Bearer ", 0) != 0) {
        refuse(response, 401, "the pass phrase is needed: POST it to /api/session");
        return false;
    }
    const Door::Entry entry = door.knows(bearer.substr(7), now);
    if (entry == Door::Entry::in)
        return true;
    refuse(response, entry == Door::Entry::wrong ? 401 : 429,
           entry == Door::Entry::wrong ? "that is not the pass phrase"
                                       : "too many wrong tries; wait a minute");
    return false;
}

bool WebPage::Inside::may_command(const Request& request, Response& response) {
    const int64_t now = steady_now();
    const Door::Session* session = door.find(session_of(request), now);
    // Who has sent the pass phrase itself was let in by it, and no browser sends that by itself.
    const bool is_program =
        door.needs_phrase() && request.get_header_value("Authorization").rfind("Bearer ", 0) == 0;
    if (!is_program && (session == nullptr ||
                        !is_equal(request.get_header_value("X-Zorilla-Token"), session->token)))
        refuse(response, 403, "the token of a session is needed: POST to /api/session gives one");
    else if (request.get_header_value("Content-Type").rfind("application/json", 0) != 0)
        refuse(response, 415, "send it as application/json");
    else if (!commands.allows(now))
        refuse(response, 429, "too many commands; wait a second");
    else
        return true;
    return false;
}

void WebPage::Inside::enter(const Request& request, Response& response) {
    const json body = json::parse(request.body, nullptr, false);
    const std::lock_guard<std::mutex> lock(guard);
    const int64_t now = steady_now();
    Door::Session session;
    // Who has one already keeps it: several windows of a browser share a cookie.
    if (const Door::Session* open = door.find(session_of(request), now)) {
        session = *open;
    } else {
        switch (door.enter(text_in(body, "phrase"), now, session)) {
        case Door::Entry::in: break;
        case Door::Entry::wrong: refuse(response, 401, "that is not the pass phrase"); return;
        case Door::Entry::too_many:
            refuse(response, 429, "too many wrong tries; wait a minute");
            return;
        }
    }
    response.set_header("Set-Cookie",
                        fmt::format("{}={}; Path=/; HttpOnly; SameSite=Strict; Max-Age={}", cookie,
                                    session.id, (session.until - now) / 1000));
    say(response, 200, {{"token", session.token}});
}

std::optional<size_t> WebPage::Inside::device_of(const Request& request, Response& response) const {
    for (size_t i = 0; i < devices.size(); ++i)
        if (devices[i]->id() == request.matches[1])
            return i;
    refuse(response, 404,
           fmt::format("no device is called {}; see /api/devices", request.matches[1].str()));
    return std::nullopt;
}

bool WebPage::Inside::write_news(std::vector<uint64_t>& seen, const std::string& session,
                                 httplib::DataSink& sink) {
    std::string out;
    {
        std::unique_lock<std::mutex> lock(guard);
        const auto any = [&] {
            for (size_t i = 0; i < seen.size(); ++i)
                if (devices[i]->version() != seen[i])
                    return true;
            return ends;
        };
        news.wait_for(lock, std::chrono::seconds(5), any);
        if (ends || (door.needs_phrase() && !session.empty() &&
                     door.find(session, steady_now()) == nullptr))
            return false;
        for (size_t i = 0; i < seen.size(); ++i) {
            if (devices[i]->version() == seen[i])
                continue;
            out += "data: " + devices[i]->since(seen[i]) + "\n\n";
            seen[i] = devices[i]->version();
        }
    }
    // A browser that has gone is found by writing to it.
    if (out.empty())
        out = ": nothing new\n\n";
    if (!sink.write(out.data(), out.size()))
        return false;
    // What comes within a moment goes together.
    std::this_thread::sleep_for(std::chrono::milliseconds(30));
    return true;
}

void WebPage::Inside::stream(const Request& request, Response& response) {
    {
        const std::lock_guard<std::mutex> lock(guard);
        if (streams >= most_streams) {
            refuse(response, 503, "too many are looking already; close one of the windows");
            return;
        }
        ++streams;
    }
    const auto seen = std::make_shared<std::vector<uint64_t>>(devices.size(), 0);
    const std::string session = session_of(request);
    response.set_chunked_content_provider(
        "text/event-stream",
        [this, seen, session](size_t, httplib::DataSink& sink) {
            return write_news(*seen, session, sink);
        },
        [this](bool) {
            const std::lock_guard<std::mutex> lock(guard);
            --streams;
        });
}

void WebPage::Inside::wait_for(Asked what, Response& response) {
    const bool is_question = what.why.has_value();
    const auto promise = std::make_shared<std::promise<std::string>>();
    const auto answered = std::make_shared<std::once_flag>();
    std::future<std::string> answer = promise->get_future();
    what.answer = [promise, answered](const std::string& text) {
        std::call_once(*answered, [&] { promise->set_value(text); });
    };
    {
        const std::lock_guard<std::mutex> lock(guard);
        if (asked.size() >= most_asked) {
            refuse(response, 503, "too much is asked at once; wait a moment");
            return;
        }
        asked.push_back(std::move(what));
    }
    const uint64_t one = 1;
    if (write(wake, &one, sizeof one) != static_cast<ssize_t>(sizeof one)) {
        // It is awake already.
    }
    // As long as a device may take to answer, and what is before it.
    if (answer.wait_for(std::chrono::seconds(10)) != std::future_status::ready)
        return refuse(response, 504, "nobody has answered yet; is the device there?");
    const std::string text = answer.get();
    const bool fine = is_question || text.rfind("ok", 0) == 0;
    say(response, fine ? 200 : 409, {{"answer", text}});
}

void WebPage::Inside::ask(const Request& request, Response& response, const char* kind) {
    const json body = json::parse(request.body, nullptr, false);
    Asked what{};
    {
        const std::lock_guard<std::mutex> lock(guard);
        const auto device = device_of(request, response);
        if (!device || !may_command(request, response))
            return;
        what.device = *device;
    }
    const rig::Rig& rig = devices[what.device]->rig();
    if (std::string_view(kind) == "setting") {
        try {
            what.command = new_setting(rig, text_in(body, "name"), text_in(body, "value")).command;
        } catch (const rig::InputError& error) {
            return refuse(response, 400, error.what());
        }
    } else {
        what.command = text_in(body, "command");
        const auto fine = [](char c) { return c >= ' ' && c <= '~'; };
        if (what.command.empty() || what.command.front() == ' ' ||
            what.command.size() > longest_command ||
            !std::all_of(what.command.begin(), what.command.end(), fine))
            return refuse(response, 400,
                          "a command is one line of at most 64 characters, as docs/serial-line.md "
                          "has them: {\"command\": \"set boost on for 10 min\"}");
    }
    wait_for(std::move(what), response);
}

void WebPage::Inside::routes() {
    for (const WebFile& file : web_files())
        server.Get(std::string(file.path), [file](const Request&, Response& response) {
            response.set_content(std::string(file.text), std::string(file.type));
        });
    const std::string device = "/api/devices/([a-z0-9_.-]+)";
    server.Get("/api/devices", [this](const Request&, Response& response) {
        std::string out;
        const std::lock_guard<std::mutex> lock(guard);
        for (const auto& one : devices)
            out += (out.empty() ? "" : ",") + one->about();
        response.set_content("[" + out + "]", "application/json");
    });
    server.Get(device, [this](const Request& request, Response& response) {
        const std::lock_guard<std::mutex> lock(guard);
        if (const auto i = device_of(request, response))
            response.set_content(devices[*i]->since(0), "application/json");
    });
    server.Get(device + "/chart", [this](const Request& request, Response& response) {
        const std::lock_guard<std::mutex> lock(guard);
        const auto i = device_of(request, response);
        if (!i)
            return;
        const std::string out = devices[*i]->chart(request.get_param_value("part"),
                                                   request.get_param_value("span"), utc_now());
        if (out.empty())
            refuse(response, 404,
                   "say which part and span: ?part=roost&span=hour, or day, or week");
        else
            response.set_content(out, "application/json");
    });
    server.Get(device + "/why", [this](const Request& request, Response& response) {
        Asked what{};
        {
            const std::lock_guard<std::mutex> lock(guard);
            const auto i = device_of(request, response);
            if (!i)
                return;
            what.device = *i;
            what.why = Told::question(devices[*i]->rig(), request.get_param_value("part"));
            if (!what.why)
                return refuse(response, 404,
                              "say of which part: ?part=output.NAME, or decision., machine., "
                              "source.");
        }
        wait_for(std::move(what), response);
    });
    server.Get("/api/changes",
               [this](const Request& request, Response& response) { stream(request, response); });
    server.Get("/metrics", [this](const Request&, Response& response) {
        const std::lock_guard<std::mutex> lock(guard);
        response.set_content(open_metrics(devices),
                             "application/openmetrics-text; version=1.0.0; charset=utf-8");
    });
    server.Post("/api/session",
                [this](const Request& request, Response& response) { enter(request, response); });
    server.Post("/api/leave", [this](const Request& request, Response& response) {
        const std::lock_guard<std::mutex> lock(guard);
        if (!may_command(request, response))
            return;
        door.leave(session_of(request));
        say(response, 200, json::object());
    });
    for (const char* kind : {"command", "setting"})
        server.Post(device + "/" + kind, [this, kind](const Request& request, Response& response) {
            ask(request, response, kind);
        });
    server.set_pre_routing_handler(
        [this](const Request& request, Response& response) { return let_in(request, response); });
    server.set_error_handler([](const Request&, Response& response) {
        if (response.body.empty())
            refuse(response, response.status, "there is nothing here; the page is at /");
    });
}

WebPage::WebPage(const WebPlan& plan) : inside_(std::make_unique<Inside>(plan)) {
    Inside& in = *inside_;
    in.server.new_task_queue = [] { return new httplib::ThreadPool(threads); };
    in.server.set_tcp_nodelay(true);
    in.server.set_keep_alive_timeout(2);
    in.server.set_keep_alive_max_count(100);
    in.server.set_read_timeout(5);
    in.server.set_write_timeout(5);
    in.server.set_payload_max_length(4096);
    // Not what the library does without this: two of us would share the port.
    in.server.set_socket_options([](socket_t socket) {
        const int yes = 1;
        setsockopt(socket, SOL_SOCKET, SO_REUSEADDR, &yes, sizeof yes);
    });
    const bool any = plan.port == 0;
    const int port = any ? in.server.bind_to_any_port(plan.address)
                     : in.server.bind_to_port(plan.address, plan.port) ? plan.port
                                                                       : -1;
    if (port <= 0)
        throw rig::InputError(fmt::format("--page: {}:{} cannot be listened at; is another program "
                                          "there already? Choose another port",
                                          plan.address, plan.port));
    in.plan.port = port;
    in.cookie = fmt::format("zorilla_{}", port);
    in.routes();
}

void WebPage::open() {
    inside_->thread = std::thread([this] { inside_->server.listen_after_bind(); });
}

WebPage::~WebPage() {
    {
        const std::lock_guard<std::mutex> lock(inside_->guard);
        inside_->ends = true;
        for (Asked& one : inside_->asked)
            one.answer("it ended before that was answered");
    }
    inside_->news.notify_all();
    inside_->server.stop();
    if (inside_->thread.joinable())
        inside_->thread.join();
}

std::string WebPage::address() const {
    const bool six = inside_->plan.address.find(':') != std::string::npos;
    return fmt::format(six ? "http://[{}]:{}/" : "http://{}:{}/", inside_->plan.address,
                       inside_->plan.port);
}

void WebPage::add(const rig::Rig& rig) {
    const std::lock_guard<std::mutex> lock(inside_->guard);
    inside_->devices.push_back(std::make_unique<Told>(rig));
}

void WebPage::remember(size_t device, History& history, int64_t utc) {
    const std::lock_guard<std::mutex> lock(inside_->guard);
    inside_->devices[device]->remember(history, utc);
}

void WebPage::show(size_t device, const Watched& watched, const std::string& line, int64_t utc) {
    {
        const std::lock_guard<std::mutex> lock(inside_->guard);
        inside_->devices[device]->look(watched, line, utc);
    }
    inside_->news.notify_all();
}

void WebPage::event(size_t device, const Event& event, int64_t utc) {
    const std::lock_guard<std::mutex> lock(inside_->guard);
    inside_->devices[device]->add(event, utc);
}

std::vector<WebPage::Asked> WebPage::take() {
    uint64_t count = 0;
    if (read(inside_->wake, &count, sizeof count) < 0)
        return {};
    const std::lock_guard<std::mutex> lock(inside_->guard);
    return std::exchange(inside_->asked, {});
}

int WebPage::descriptor() const { return inside_->wake; }

} // namespace zorilla::bench
