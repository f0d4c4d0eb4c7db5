// SPDX-License-Identifier: MIT
// Who is let in, and who may command.
#include "bench/web/inside.hpp"

namespace zorilla::bench {

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
    else if (const char* why = web::BoundedServer::refused(request))
        refuse(response, 413, why);
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
    const Door::Entry entry = door.knows(bearer.substr(7), now, request.remote_addr);
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
    const std::lock_guard<std::mutex> lock(guard);
    const int64_t now = steady_now();
    Door::Session session;
    // Who has one already keeps it: several windows of a browser share a cookie.
    if (const Door::Session* open = door.find(session_of(request), now)) {
        session = *open;
    } else {
        switch (door.enter(text_in(request.body, "phrase"), now, session, request.remote_addr)) {
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
    say(response, 200, "token", session.token);
}

} // namespace zorilla::bench
