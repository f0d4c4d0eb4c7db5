// SPDX-License-Identifier: MIT
/// \file
/// Ports that are read while somebody looks on, and that may vanish and come back.
#pragma once

#include "bench/port.hpp"

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
    /// \param keyboard  what to wait on besides; -1: nothing
    Listening(bench::Port& port, int keyboard, Tells tells)
        : port_(port), keyboard_(keyboard), tells_(std::move(tells)) {}

    /// Milliseconds since the first time that anybody asked.
    static int64_t now();
    /// Waits until then at the latest, a fifth of a second at most, and takes what has come.
    /// \return  whether a key was pressed
    bool wait(int64_t until) { return wait({this}, {keyboard_}, until).front(); }
    /// The same of several. \param others  descriptors to wait on besides; -1: none
    /// \return  of each of the others, whether there is something
    static std::vector<bool> wait(const std::vector<Listening*>& all,
                                  const std::vector<int>& others, int64_t until);
    /// Whether nothing can come any more.
    bool over() const { return over_; }
    /// How often the port has vanished.
    uint64_t losses() const { return losses_; }

  private:
    void reopen();
    void take();

    bench::Port& port_;
    int keyboard_;
    Tells tells_;
    std::vector<char> buffer_;
    int64_t try_again_ = 0;
    uint64_t losses_ = 0;
    bool over_ = false;
};

} // namespace zorilla::cli
