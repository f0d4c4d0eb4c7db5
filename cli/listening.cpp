// SPDX-License-Identifier: MIT
#include "cli/listening.hpp"

#include <fmt/format.h>
#include <poll.h>

#include <algorithm>

namespace zorilla::cli {

bool Listening::wait(int64_t until) {
    if (!port_.is_open() && now() >= try_again_) {
        std::string reason;
        if (port_.open(reason))
            tells_.state("");
        try_again_ = now() + 200;
    }
    pollfd waiting[2] = {{port_.descriptor(), POLLIN, 0}, {keyboard_, POLLIN, 0}};
    if (poll(waiting, 2, static_cast<int>(std::clamp<int64_t>(until - now(), 0, 200))) <= 0)
        return false;
    if (port_.is_open() && waiting[0].revents != 0)
        take();
    return waiting[1].revents != 0;
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
