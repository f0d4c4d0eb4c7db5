// SPDX-License-Identifier: MIT
/// \file
/// A port that is read while somebody looks on, and that may vanish and come back.
#pragma once

#include "bench/port.hpp"

#include <chrono>
#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::cli {

class Listening {
  public:
    struct Tells {
        std::function<void(std::string_view)> bytes;
        std::function<void()> gone; ///< the port has vanished
        /// What the port is doing; empty: all is well again.
        std::function<void(const std::string& state)> state;
    };
    /// \param name  of the port  \param keyboard  what to wait on besides; -1: nothing
    Listening(bench::Port& port, std::string name, int keyboard, Tells tells)
        : port_(port), name_(std::move(name)), keyboard_(keyboard), tells_(std::move(tells)) {}

    /// Milliseconds since it began.
    int64_t now() const {
        return std::chrono::duration_cast<std::chrono::milliseconds>(
                   std::chrono::steady_clock::now() - begin_)
            .count();
    }
    /// Waits until then at the latest, a fifth of a second at most, and takes what has come.
    /// \return  whether a key was pressed
    bool wait(int64_t until);
    /// Whether nothing can come any more.
    bool over() const { return over_; }
    /// How often the port has vanished.
    uint64_t losses() const { return losses_; }

  private:
    void take();

    bench::Port& port_;
    std::string name_;
    int keyboard_;
    Tells tells_;
    const std::chrono::steady_clock::time_point begin_ = std::chrono::steady_clock::now();
    std::vector<char> buffer_;
    int64_t try_again_ = 0;
    uint64_t losses_ = 0;
    bool over_ = false;
};

} // namespace zorilla::cli
