// SPDX-License-Identifier: MIT
#include "bench/web/bounded_server.hpp"

#include "bench/web/inside.hpp"

#include <arpa/inet.h>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <charconv>

namespace zorilla::bench::web {

namespace {

constexpr int one_wait = 5000; ///< ms: for one piece of a request or an answer
constexpr int longest_idle = 2000;
constexpr int most_requests = 100; ///< over one connection

bool is_ready(int socket, short event, int milliseconds) {
    pollfd one{socket, event, 0};
    int found = 0;
    do
        found = poll(&one, 1, milliseconds);
    while (found < 0 && errno == EINTR);
    return found > 0 && (one.revents & (event | POLLHUP | POLLERR)) != 0;
}

/// An address in numbers, and the port.
void name_of(const sockaddr_storage& from, std::string& address, int& port) {
    char text[INET6_ADDRSTRLEN] = {};
    if (from.ss_family == AF_INET6) {
        const auto& six = reinterpret_cast<const sockaddr_in6&>(from);
        inet_ntop(AF_INET6, &six.sin6_addr, text, sizeof text);
        port = ntohs(six.sin6_port);
    } else if (from.ss_family == AF_INET) {
        const auto& four = reinterpret_cast<const sockaddr_in&>(from);
        inet_ntop(AF_INET, &four.sin_addr, text, sizeof text);
        port = ntohs(four.sin_port);
    }
    address = text;
}

/// One request of a connection, as far as it is let in.
class BoundedStream : public httplib::Stream {
  public:
    explicit BoundedStream(int socket)
        : socket_(socket), until_(steady_now() + BoundedServer::longest_request) {}

    bool is_readable() const override { return is_ready(socket_, POLLIN, 0); }
    bool is_writable() const override { return is_ready(socket_, POLLOUT, one_wait); }
    ssize_t read(char* to, size_t size) override {
        // A piece at a time, so that what follows in the same connection is counted as its own.
        if (next_ == end_) {
            const int64_t left = std::min<int64_t>(until_ - steady_now(), one_wait);
            if (left <= 0 || read_ >= BoundedServer::most_bytes ||
                !is_ready(socket_, POLLIN, static_cast<int>(left)))
                return -1;
            const ssize_t got = recv(socket_, buffer_, sizeof buffer_, 0);
            if (got <= 0)
                return got;
            next_ = 0;
            end_ = static_cast<size_t>(got);
            read_ += end_;
        }
        const size_t out = std::min(size, end_ - next_);
        std::copy_n(buffer_ + next_, out, to);
        next_ += out;
        return static_cast<ssize_t>(out);
    }
    ssize_t write(const char* from, size_t size) override {
        if (!is_writable())
            return -1;
        ssize_t sent = 0;
        do
            sent = send(socket_, from, size, MSG_NOSIGNAL);
        while (sent < 0 && errno == EINTR);
        return sent;
    }
    void get_remote_ip_and_port(std::string& address, int& port) const override {
        sockaddr_storage from{};
        socklen_t size = sizeof from;
        if (getpeername(socket_, reinterpret_cast<sockaddr*>(&from), &size) == 0)
            name_of(from, address, port);
    }
    void get_local_ip_and_port(std::string& address, int& port) const override {
        sockaddr_storage from{};
        socklen_t size = sizeof from;
        if (getsockname(socket_, reinterpret_cast<sockaddr*>(&from), &size) == 0)
            name_of(from, address, port);
    }
    socket_t socket() const override { return socket_; }

    /// The next request of the same connection.
    void begin() {
        read_ = end_ - next_;
        until_ = steady_now() + BoundedServer::longest_request;
    }
    bool has_more() const { return next_ < end_; }

  private:
    int socket_;
    int64_t until_;
    size_t read_ = 0;
    char buffer_[4096];
    size_t next_ = 0, end_ = 0;
};

} // namespace

const char* BoundedServer::refused(const httplib::Request& request) {
    if (request.has_header("Content-Encoding") || request.has_header("Transfer-Encoding"))
        return "send it as it is, with its Content-Length: no compressed bodies, and none in "
               "chunks";
    if (request.has_header("Range"))
        return "answers are given whole: leave the Range out";
    const std::string length = request.get_header_value("Content-Length");
    size_t bytes = 0;
    const auto [end, error] = std::from_chars(length.data(), length.data() + length.size(), bytes);
    if (!length.empty() &&
        (error != std::errc() || end != length.data() + length.size() || bytes > most_body))
        return "a body has at most 4,096 bytes";
    return nullptr;
}

bool BoundedServer::enters(const std::string& address) {
    const std::lock_guard<std::mutex> lock(guard_);
    size_t& count = connections_[address];
    if (count >= most_connections)
        return false;
    ++count;
    return true;
}

void BoundedServer::leaves(const std::string& address) {
    const std::lock_guard<std::mutex> lock(guard_);
    const auto found = connections_.find(address);
    if (found != connections_.end() && --found->second == 0)
        connections_.erase(found);
}

bool BoundedServer::process_and_close_socket(socket_t sock) {
    BoundedStream stream(sock);
    std::string address;
    int port = 0;
    stream.get_remote_ip_and_port(address, port);
    if (enters(address)) {
        const auto comes = [&] {
            for (int waited = 0; waited < longest_idle && svr_sock_ != INVALID_SOCKET;
                 waited += 100)
                if (stream.has_more() || is_ready(sock, POLLIN, 100))
                    return true;
            return false;
        };
        for (int i = 1; i <= most_requests && comes(); ++i) {
            bool closed = false, refuses = false;
            stream.begin();
            const bool done = process_request(
                stream, i == most_requests, closed,
                [&refuses](httplib::Request& request) { refuses = refused(request) != nullptr; });
            // What was refused is not read to its end, and nothing can follow it.
            if (!done || closed || refuses)
                break;
        }
        leaves(address);
    }
    shutdown(sock, SHUT_RDWR);
    close(sock);
    return true;
}

} // namespace zorilla::bench::web
