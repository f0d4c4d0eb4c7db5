// SPDX-License-Identifier: MIT
#include "bench/web/door.hpp"

#include "rig/text/files.hpp"

#include <arpa/inet.h>
#include <fmt/format.h>
#include <sys/random.h>
#include <unistd.h>

#include <algorithm>
#include <cctype>
#include <cerrno>
#include <charconv>
#include <cstring>

namespace zorilla::bench {

namespace {

/// Whether a text is an address in numbers, without brackets.
bool is_number(const std::string& host) {
    unsigned char bytes[sizeof(in6_addr)];
    return inet_pton(AF_INET, host.c_str(), bytes) == 1 ||
           inet_pton(AF_INET6, host.c_str(), bytes) == 1;
}

std::string without_brackets(std::string host) {
    if (host.size() > 1 && host.front() == '[' && host.back() == ']')
        return host.substr(1, host.size() - 2);
    return host;
}

/// 128 bits that nobody can guess.
std::string secret() {
    unsigned char bytes[16];
    if (getrandom(bytes, sizeof bytes, 0) != static_cast<ssize_t>(sizeof bytes))
        throw rig::InputError(
            fmt::format("no random numbers are to be had: {}", std::strerror(errno)));
    std::string out;
    for (const unsigned char byte : bytes)
        out += fmt::format("{:02x}", byte);
    return out;
}

} // namespace

bool WebPlan::is_only_here() const {
    return address == "localhost" || address == "::1" || address.rfind("127.", 0) == 0;
}

WebPlan web_plan(const std::string& where, const std::string& phrase) {
    WebPlan out;
    out.phrase = phrase;
    const size_t colon = where.rfind(':');
    if (colon != std::string::npos)
        out.address = without_brackets(where.substr(0, colon));
    const std::string port = where.substr(colon == std::string::npos ? 0 : colon + 1);
    const auto [end, error] = std::from_chars(port.data(), port.data() + port.size(), out.port);
    if (error != std::errc() || end != port.data() + port.size() || out.port < 0 ||
        out.port > 65'535)
        throw rig::InputError(fmt::format("--page: \"{}\" is no port from 1 to 65535; write 8080, "
                                          "or with an address 0.0.0.0:8080",
                                          where));
    if (out.address != "localhost" && !is_number(out.address))
        throw rig::InputError(
            fmt::format("--page: \"{}\" is no address of this machine in numbers; "
                        "for this machine alone leave it away, for all of its "
                        "addresses write 0.0.0.0:{}",
                        out.address, port));
    return out;
}

bool Rate::allows(int64_t now) {
    while (!when_.empty() && when_.front() <= now - time_)
        when_.pop_front();
    if (when_.size() >= most_)
        return false;
    when_.push_back(now);
    return true;
}

bool is_equal(std::string_view a, std::string_view b) {
    // All of the longer one is looked at, whatever is found on the way.
    volatile unsigned different = a.size() == b.size() ? 0 : 1;
    for (size_t i = 0; i < std::max(a.size(), b.size()); ++i) {
        const unsigned char left = i < a.size() ? static_cast<unsigned char>(a[i]) : 0;
        const unsigned char right = i < b.size() ? static_cast<unsigned char>(b[i]) : 0;
        different = different | (left ^ right);
    }
    return different == 0;
}

Door::Entry Door::knows(const std::string& phrase, int64_t now, const std::string& from) {
    if (!needs_phrase())
        return Entry::in;
    // Who says nothing only asks whether there is one.
    if (phrase.empty())
        return Entry::wrong;
    // Each try counts until it was right, so that many at once are no way around it.
    if (tries_.size() >= most_addresses && tries_.count(from) == 0)
        tries_.erase(
            std::min_element(tries_.begin(), tries_.end(), [](const auto& a, const auto& b) {
                return a.second.last < b.second.last;
            }));
    Tries& tries = tries_[from];
    tries.last = now;
    const Rate before = tries.rate;
    if (!tries.rate.allows(now))
        return Entry::too_many;
    if (!is_equal(phrase, phrase_))
        return Entry::wrong;
    tries.rate = before;
    return Entry::in;
}

Door::Entry Door::enter(const std::string& phrase, int64_t now, Session& session,
                        const std::string& from) {
    const Entry entry = knows(phrase, now, from);
    if (entry != Entry::in)
        return entry;
    for (auto i = sessions_.begin(); i != sessions_.end();)
        i = i->second.until <= now ? sessions_.erase(i) : std::next(i);
    if (sessions_.size() >= most_sessions)
        sessions_.erase(
            std::min_element(sessions_.begin(), sessions_.end(), [](const auto& a, const auto& b) {
                return a.second.until < b.second.until;
            }));
    session = {secret(), secret(), now + lasts};
    sessions_[session.id] = session;
    return Entry::in;
}

const Door::Session* Door::find(const std::string& id, int64_t now) {
    const auto found = sessions_.find(id);
    return found == sessions_.end() || found->second.until <= now ? nullptr : &found->second;
}

bool is_own_host(std::string_view header) {
    // "127.0.0.1:8080", "[::1]:8080", "localhost"
    const size_t colon = header.rfind(':');
    const bool has_port = colon != std::string_view::npos &&
                          header.find(']', colon) == std::string_view::npos &&
                          (header.front() == '[' || header.find(':') == colon);
    std::string host =
        without_brackets(std::string(header.substr(0, has_port ? colon : header.size())));
    std::transform(host.begin(), host.end(), host.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    if (host == "localhost" || is_number(host))
        return true;
    char name[256] = "";
    if (gethostname(name, sizeof name - 1) != 0 || name[0] == '\0')
        return false;
    std::string own = name;
    std::transform(own.begin(), own.end(), own.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return host == own || host == own + ".local";
}

bool is_same_origin(std::string_view origin, std::string_view host) {
    for (const std::string_view scheme : {"http://", "https://"})
        if (origin.substr(0, scheme.size()) == scheme && origin.substr(scheme.size()) == host)
            return true;
    return false;
}

std::string cookie_of(std::string_view header, std::string_view name) {
    while (!header.empty()) {
        const size_t end = std::min(header.find(';'), header.size());
        std::string_view one = header.substr(0, end);
        header.remove_prefix(std::min(end + 1, header.size()));
        one.remove_prefix(std::min(one.find_first_not_of(' '), one.size()));
        if (one.size() > name.size() && one.substr(0, name.size()) == name &&
            one[name.size()] == '=')
            return std::string(one.substr(name.size() + 1));
    }
    return "";
}

} // namespace zorilla::bench
