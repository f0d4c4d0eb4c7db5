// SPDX-License-Identifier: MIT
/// \file
/// The live view of a capture: a few lines that are drawn over and over.
#pragma once

#include "bench/capture.hpp"

#include <string>
#include <termios.h>

namespace zorilla::cli {

/// A terminal that shows a capture, and a keyboard that names its conditions.
class Live {
  public:
    /// Takes over standard output and the keyboard, if both are terminals.
    /// \param data_is_input  whether standard input brings the data, and so no keys
    explicit Live(bool data_is_input);
    ~Live();
    Live(const Live&) = delete;
    Live& operator=(const Live&) = delete;

    bool shows() const { return shows_; }
    /// Where keys come from; -1 if there is no keyboard.
    int keyboard() const { return keyboard_; }

    /// Draws everything anew. \param state  what the port is doing
    void draw(const bench::Capture& capture, const std::string& state, int64_t milliseconds);

    /// What the keys ask for.
    struct Keys {
        bool end = false;
        bool named = false;
        std::string name;
    };
    Keys read_keys();

  private:
    std::string bar(const bench::LiveColumn& column, double full, int width) const;
    /// One row of the means of the last seconds, counted from below.
    std::string history(const bench::LiveColumn& column, double full, int width, int row) const;
    static constexpr int history_rows = 3;

    bool shows_ = false;
    bool colour_ = false;
    bool blocks_ = false; ///< whether the terminal knows more than ASCII
    int keyboard_ = -1;
    bool own_keyboard_ = false;
    termios before_{};
    std::string typed_;
    int drawn_ = 0; ///< lines
};

} // namespace zorilla::cli
