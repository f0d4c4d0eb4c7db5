// SPDX-License-Identifier: MIT
// What nobody can do to a page who has not even been let in: make it hold much, or make it wait.
#include "tests/live/hens.hpp"

#include <gtest/gtest.h>

#include <arpa/inet.h>
#include <sys/socket.h>

#include <string>
#include <utility>
#include <vector>

namespace {

using desk::has;
using live::Page;

/// A client that sends what it likes, from an address of this machine.
class Rude {
  public:
    explicit Rude(int port, const char* from = "127.0.0.1")
        : socket_(socket(AF_INET, SOCK_STREAM, 0)) {
        sockaddr_in here{}, there{};
        here.sin_family = there.sin_family = AF_INET;
        inet_pton(AF_INET, from, &here.sin_addr);
        EXPECT_EQ(bind(socket_, reinterpret_cast<sockaddr*>(&here), sizeof here), 0);
        there.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
        there.sin_port = htons(static_cast<uint16_t>(port));
        connect(socket_, reinterpret_cast<sockaddr*>(&there), sizeof there);
    }
    Rude(Rude&& other) noexcept : socket_(std::exchange(other.socket_, -1)) {}
    Rude& operator=(Rude&&) = delete;
    ~Rude() {
        if (socket_ >= 0)
            close(socket_);
    }
    /// \return  whether it was still taken
    bool say(const std::string& text) {
        return send(socket_, text.data(), text.size(), MSG_NOSIGNAL) ==
               static_cast<ssize_t>(text.size());
    }
    /// All that is answered, until the other end closes.
    std::string rest() {
        std::string out;
        char piece[4096];
        for (ssize_t got; (got = recv(socket_, piece, sizeof piece, 0)) > 0;)
            out.append(piece, static_cast<size_t>(got));
        return out;
    }

  private:
    int socket_;
};

/// The most memory that a process has held so far, in kB.
long most_memory(pid_t process) {
    const std::string status = desk::read_all(fmt::format("/proc/{}/status", process));
    return std::strtol(status.c_str() + status.find("VmHWM:") + 6, nullptr, 10);
}

const std::string post = "POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: "
                         "application/json\r\n";

TEST(WebServer, holds_little_of_whatever_is_sent_to_it) {
    Page page;
    auto client = page.client();
    ASSERT_TRUE(page.runs(client)) << page.log();
    const long before = most_memory(page.process());
    std::string ranges = "bytes=0-1";
    while (ranges.size() < 7'000)
        ranges += ",0-1";
    const std::string chunk = "1000\r\n" + std::string(4096, 'x') + "\r\n";
    std::string chunks;
    for (int i = 0; i < 5000; ++i)
        chunks += chunk;
    const struct {
        const char* what;
        std::string head, body, answer;
    } all[] = {
        {"folded", post + "Content-Encoding: br\r\nContent-Length: 200\r\n\r\n",
         std::string(200, 'x'), " 413 "},
        {"folded otherwise", post + "Content-Encoding: gzip\r\nContent-Length: 200\r\n\r\n",
         std::string(200, 'x'), " 413 "},
        {"in chunks", post + "Transfer-Encoding: chunked\r\n\r\n", chunks, ""},
        {"long", post + "Content-Length: 200000000\r\n\r\n", std::string(20'000'000, 'x'), ""},
        {"longer than it says", post + "Content-Length: 2\r\n\r\n", std::string(20'000'000, 'x'),
         ""},
        {"a head without end", post + "X-Note: ", std::string(20'000'000, 'x'), ""},
        {"many heads", post,
         [] {
             std::string out;
             for (int i = 0; i < 100'000; ++i)
                 out += "X-Note: note\r\n";
             return out;
         }(),
         ""},
        {"many ranges", "GET / HTTP/1.1\r\nHost: 127.0.0.1\r\nRange: " + ranges + "\r\n\r\n", "",
         " 413 "},
    };
    for (const auto& one : all) {
        for (int i = 0; i < 3; ++i) {
            Rude rude(page.port());
            rude.say(one.head);
            rude.say(one.body);
            const std::string answer = rude.rest();
            EXPECT_TRUE(has(answer, one.answer)) << one.what << ": " << answer;
            EXPECT_FALSE(has(answer, " 200 ") && !has(answer, "token"))
                << one.what << ": " << answer;
        }
    }
    // A few MB for what it has read and sent meanwhile; one of these took 200 and more.
    EXPECT_LT(most_memory(page.process()) - before, 16'000);
    EXPECT_TRUE(client.Get("/api/devices")) << page.log();
}

TEST(WebServer, answers_and_records_while_slow_clients_hang_on_it) {
    const desk::Folder folder;
    Page page("--history " + folder / "h.db");
    auto client = page.client();
    ASSERT_TRUE(page.runs(client)) << page.log();
    const auto rows = [&] { return desk::lines_of(desk::read_all(page.folder / "sent.csv")); };
    std::vector<Rude> slow;
    for (int i = 0; i < 150; ++i) {
        slow.emplace_back(page.port(), "127.0.0.2");
        slow.back().say("GET / HTTP/1.1\r\nHo");
    }
    // Another one is answered while they hang there, and rows come, and are kept.
    client.set_read_timeout(60);
    const auto before = rows();
    for (int i = 0; i < 5; ++i) {
        const auto reply = client.Get("/api/devices/hen_house");
        ASSERT_TRUE(reply && reply->status == 200) << i;
        for (Rude& one : slow) // a byte now and then
            one.say("s");
    }
    EXPECT_TRUE(desk::wait_for([&] { return rows() > before + 20; }));
    // Each of them is let go after ten seconds, whatever it still sends.
    EXPECT_TRUE(desk::wait_for([&] {
        int left = 0;
        for (Rude& one : slow)
            left += one.say("s") ? 1 : 0;
        return left == 0;
    }));
    EXPECT_EQ(page.end(), 0) << page.log();
    EXPECT_TRUE(has(desk::zorilla("history " + folder / "h.db").out, "rows kept"));
}

} // namespace
