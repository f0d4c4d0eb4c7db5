// SPDX-License-Identifier: MIT
// The tool in the background, for tests of what goes on for a while.
#pragma once

#include "tests/desk/process.hpp"

#include <fmt/format.h>

#include <chrono>
#include <csignal>
#include <filesystem>
#include <netinet/in.h>
#include <spawn.h>
#include <string>
#include <sys/socket.h>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>

namespace desk {

/// The tool in the background, its output in a file.
class Background {
  public:
    Background(const Folder& folder, const std::string& arguments, const std::string& log)
        : log_(folder / log) {
        // The shell is replaced by the tool, so that signals reach it.
        const std::string command =
            fmt::format("exec {} {} > '{}' 2>&1 < /dev/null", ZORILLA_TOOL, arguments, log_);
        const char* const argv[] = {"sh", "-c", command.c_str(), nullptr};
        posix_spawnp(&child_, "sh", nullptr, nullptr, const_cast<char* const*>(argv), environ);
    }
    ~Background() {
        if (child_ > 0)
            end(SIGTERM);
    }
    Background(const Background&) = delete;
    Background& operator=(const Background&) = delete;

    /// Ends it with a signal, or waits for it with none. Its exit status.
    int end(int signal) {
        if (signal != 0)
            kill(child_, signal);
        int status = 0;
        waitpid(child_, &status, 0);
        child_ = 0;
        return WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
    }
    std::string log() const { return read_all(log_); }
    pid_t process() const { return child_; }

  private:
    std::string log_;
    pid_t child_ = 0;
};

/// Waits for a minute at most: for what must come, however busy the machine.
template <class Done> bool wait_for(Done done) {
    for (int i = 0; i < 6000; ++i) {
        if (done())
            return true;
        std::this_thread::sleep_for(std::chrono::milliseconds(10));
    }
    return false;
}
inline bool is_there(const std::string& path) {
    return wait_for([&] { return std::filesystem::exists(path); });
}

/// A port of this machine that nobody uses.
inline int free_port() {
    const int at = socket(AF_INET, SOCK_STREAM, 0);
    sockaddr_in address{};
    address.sin_family = AF_INET;
    address.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    socklen_t size = sizeof address;
    bind(at, reinterpret_cast<sockaddr*>(&address), size);
    getsockname(at, reinterpret_cast<sockaddr*>(&address), &size);
    close(at);
    return ntohs(address.sin_port);
}

} // namespace desk
