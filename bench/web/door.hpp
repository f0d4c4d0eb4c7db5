// SPDX-License-Identifier: MIT
/// \file
/// Who may see the page, and who may command from it.
#pragma once

#include <cstdint>
#include <deque>
#include <map>
#include <string>
#include <string_view>

namespace zorilla::bench {

/// Where the page is, and what it asks of those who come.
struct WebPlan {
    std::string address = "127.0.0.1";
    int port = 0;       ///< 0: any that is free
    std::string phrase; ///< empty: none is needed

    /// Whether only this machine can reach it.
    bool is_only_here() const;
};
/// "8080", "0.0.0.0:8080" or "[::1]:8080". \throws rig::InputError  with what to write instead
WebPlan web_plan(const std::string& where, const std::string& phrase);

/// So many things in so long a time, and no more.
class Rate {
  public:
    Rate(size_t most, int64_t milliseconds) : most_(most), time_(milliseconds) {}
    bool allows(int64_t now);

  private:
    size_t most_;
    int64_t time_;
    std::deque<int64_t> when_;
};

/// Sessions of browsers. A session is known by a cookie that no script sees and that no other site
/// can make the browser send; a command also by a token that stands in the page alone.
class Door {
  public:
    explicit Door(std::string phrase) : phrase_(std::move(phrase)) {}

    bool needs_phrase() const { return !phrase_.empty(); }
    struct Session {
        std::string id, token;
        int64_t until = 0;
    };
    enum class Entry : uint8_t { in, wrong, too_many };
    /// Opens a session for whoever knows the pass phrase. \param now  milliseconds that never go
    /// back  \param session  becomes it
    /// \param from  the address that it comes from: wrong tries there lock out nobody elsewhere
    Entry enter(const std::string& phrase, int64_t now, Session& session, const std::string& from);
    /// The session of a cookie, if it is still open.
    const Session* find(const std::string& id, int64_t now);
    /// Whether that is the pass phrase; wrong ones count.
    Entry knows(const std::string& phrase, int64_t now, const std::string& from);

    /// A session ends after twelve hours.
    static constexpr int64_t lasts = 12 * 3'600'000;

  private:
    static constexpr size_t most_sessions = 100;
    std::string phrase_;
    std::map<std::string, Session> sessions_;
    struct Tries {
        Rate rate{10, 60'000};
        int64_t last = 0;
    };
    static constexpr size_t most_addresses = 1000;
    std::map<std::string, Tries> tries_; ///< of each address, the last so many of them
};

/// Whether a Host header names this machine: by a number, as localhost, or by its own name. A name
/// that somebody else has given it, to have a browser here talk to it, is none.
bool is_own_host(std::string_view host);
/// Whether a page of this origin came from that host.
bool is_same_origin(std::string_view origin, std::string_view host);
/// Takes as long for any two texts of their lengths.
bool is_equal(std::string_view a, std::string_view b);
/// The value of a cookie; empty if there is none.
std::string cookie_of(std::string_view header, std::string_view name);

} // namespace zorilla::bench
