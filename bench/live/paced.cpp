// SPDX-License-Identifier: MIT
#include "bench/live/paced.hpp"

#include "rig/text/files.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <chrono>
#include <cstdlib>
#include <cstring>
#include <fstream>
#include <optional>

namespace zorilla::bench {

Paced::Paced(const std::string& file, double pace) {
    std::ifstream in(file);
    std::string header;
    if (!in || !std::getline(in, header))
        throw rig::InputError(fmt::format("{}: cannot be read: {}", file, std::strerror(errno)));
    const double unit = header.rfind("time (s)", 0) == 0    ? 1000
                        : header.rfind("time (ms)", 0) == 0 ? 1
                        : header.rfind("time (h)", 0) == 0  ? 3'600'000
                                                            : 0;
    if (unit == 0)
        throw rig::InputError(fmt::format("{}: --pace goes by the first column, which is to be "
                                          "\"time (s)\", as zorilla live --save writes it",
                                          file));
    int ends[2];
    if (pipe2(ends, O_CLOEXEC) != 0)
        throw rig::InputError(fmt::format("no pipe could be made: {}", std::strerror(errno)));
    read_ = ends[0];
    write_ = ends[1];
    fcntl(write_, F_SETFL, O_NONBLOCK);
    thread_ = std::thread([this, pace, unit, lines = std::move(in), text = header]() mutable {
        using Clock = std::chrono::steady_clock;
        const auto begin = Clock::now();
        std::optional<double> first;
        do {
            char* end = nullptr;
            const double time = std::strtod(text.c_str(), &end) * unit;
            // Headers and answers go out with the row before them.
            if (end != text.c_str() && *end == ',') {
                const std::chrono::duration<double, std::milli> since(
                    (time - *(first = first.value_or(time))) / pace);
                const auto due = begin + std::chrono::duration_cast<Clock::duration>(since);
                while (!stop_ && Clock::now() < due)
                    std::this_thread::sleep_for(std::min<Clock::duration>(
                        due - Clock::now(), std::chrono::milliseconds(20)));
            }
            text += '\n';
            for (size_t done = 0; !stop_ && done < text.size();) {
                const ssize_t is = write(write_, text.data() + done, text.size() - done);
                if (is > 0) {
                    done += static_cast<size_t>(is);
                } else {
                    pollfd waits{write_, POLLOUT, 0};
                    poll(&waits, 1, 50);
                }
            }
        } while (!stop_ && std::getline(lines, text));
        close(write_);
    });
}

Paced::~Paced() {
    stop_ = true;
    thread_.join();
    close(read_);
}

std::string Paced::path() const { return fmt::format("/proc/self/fd/{}", read_); }

} // namespace zorilla::bench
