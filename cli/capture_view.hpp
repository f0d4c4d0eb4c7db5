// SPDX-License-Identifier: MIT
/// \file
/// The live view of a capture: a few lines that are drawn over and over.
#pragma once

#include "bench/capture.hpp"
#include "cli/terminal.hpp"

#include <string>

namespace zorilla::cli {

/// A terminal that shows a capture, and a keyboard that names its conditions.
class CaptureView {
  public:
    /// \param data_is_input  whether standard input brings the data, and so no keys
    explicit CaptureView(bool data_is_input) : terminal_(data_is_input) {}

    bool shows() const { return terminal_.shows(); }
    int keyboard() const { return terminal_.keyboard(); }

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

    Terminal terminal_;
    TypedLine typed_;
    int drawn_ = 0; ///< lines
};

} // namespace zorilla::cli
