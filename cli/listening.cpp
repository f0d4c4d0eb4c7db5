// SPDX-License-Identifier: MIT
#include "cli/listening.hpp"

#include <poll.h>

#include <algorithm>
#include <chrono>

namespace zorilla::cli {

int64_t Listening::now() {
    using Clock = std::chrono::steady_clock;
    static const Clock::time_point begin = Clock::now();
    return std::chrono::duration_cast<std::chrono::milliseconds>(Clock::now() - begin).count();
}

void Listening::reopen() {
    if (port_.is_open() || over_ || now() < try_again_)
        return;
    std::string reason;
    if (port_.open(reason))
        tells_.state("");
    try_again_ = now() + 200;
}

std::vector<bool> Listening::wait(const std::vector<Listening*>& all,
                                  const std::vector<int>& others, int64_t until) {
    std::vector<pollfd> waiting;
    for (Listening* one : all) {
        one->reopen();
        waiting.push_back({one->over_ ? -1 : one->port_.descriptor(), POLLIN, 0});
    }
    for (const int other : others)
        waiting.push_back({other, POLLIN, 0});
    std::vector<bool> out(others.size(), false);
    const auto patience = static_cast<int>(std::clamp<int64_t>(until - now(), 0, 200));
    if (poll(waiting.data(), waiting.size(), patience) <= 0)
        return out;
    for (size_t i = 0; i < all.size(); ++i)
        if (all[i]->port_.is_open() && waiting[i].revents != 0)
            all[i]->take();
    for (size_t i = 0; i < out.size(); ++i)
        out[i] = waiting[all.size() + i].revents != 0;
    return out;
}

void Listening::take() {
    switch (port_.read(buffer_)) {
    case bench::Port::Got::bytes: tells_.bytes({buffer_.data(), buffer_.size()}); break;
    case bench::Port::Got::nothing: break;
    case bench::Port::Got::ended: over_ = true; break;
    case bench::Port::Got::gone:
        port_.close();
        ++losses_;
        tells_.gone();
        tells_.state("has vanished; waiting for it to come back");
        try_again_ = now() + 200;
        break;
    }
}

} // namespace zorilla::cli
