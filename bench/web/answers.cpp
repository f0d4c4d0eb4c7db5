// SPDX-License-Identifier: MIT
// What is told as it changes, and what is asked of those who watch.
#include "bench/web/inside.hpp"

#include "bench/live/setting.hpp"
#include "rig/text/files.hpp"

#include <algorithm>
#include <future>

namespace zorilla::bench {

namespace {

constexpr size_t most_streams = 32, most_asked = 32, longest_command = 64;

} // namespace

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
    say(response, fine ? 200 : 409, "answer", text);
}

void WebPage::Inside::ask(const Request& request, Response& response, const char* kind) {
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
            what.command =
                new_setting(rig, text_in(request.body, "name"), text_in(request.body, "value"))
                    .command;
        } catch (const rig::InputError& error) {
            return refuse(response, 400, error.what());
        }
    } else {
        what.command = text_in(request.body, "command");
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

} // namespace zorilla::bench
