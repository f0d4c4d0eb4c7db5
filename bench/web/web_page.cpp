// SPDX-License-Identifier: MIT
// The page: what is at which address.
#include "bench/web/inside.hpp"

#include "rig/text/files.hpp"

#include <utility>

namespace zorilla::bench {

namespace {

constexpr size_t threads = 64;

int64_t utc_now() {
    return std::chrono::duration_cast<std::chrono::milliseconds>(
               std::chrono::system_clock::now().time_since_epoch())
        .count();
}

} // namespace

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
    in.server.set_payload_max_length(web::BoundedServer::most_body);
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
