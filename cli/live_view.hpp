// SPDX-License-Identifier: MIT
/// \file
/// A running device on one screen of a terminal, and the keys that take it over.
#pragma once

#include "bench/live/watched.hpp"
#include "cli/terminal.hpp"

#include <string>
#include <vector>

namespace zorilla::cli {

class LiveView {
  public:
    /// \param data_is_input  whether standard input brings the data, and so no keys
    explicit LiveView(bool data_is_input);
    ~LiveView() { end(); }
    LiveView(const LiveView&) = delete;
    LiveView& operator=(const LiveView&) = delete;

    bool shows() const { return terminal_.shows(); }
    int keyboard() const { return terminal_.keyboard(); }

    /// Draws everything anew, whatever size the terminal has now. \param state  what the port is
    /// doing, or what the device has answered  \param place  among several devices, "2 of 3"; else
    /// empty
    void draw(const bench::Watched& watched, const std::string& state, const std::string& place);
    /// Gives the screen back.
    void end();

    /// What the keys ask for.
    struct Asked {
        bool end = false;
        size_t next = 0; ///< by how many devices to go on
        std::vector<std::string> commands;
    };
    Asked read_keys(const bench::Watched& watched);

  private:
    using Lines = std::vector<std::string>;
    std::string title(const bench::Watched& watched, size_t width, const std::string& place) const;
    std::string reading(const bench::Watched& watched, size_t source, size_t width) const;
    std::string trend(const bench::Trend& trend, size_t width) const;
    /// How wide a trend is at most; 0: there is no room for it.
    size_t trend_width(const rig::Rig& rig, size_t width) const;
    /// How far trends go back, if there are any.
    std::string trends_over(const bench::Watched& watched, size_t width) const;
    /// How long the pieces of time are that a character stands for, as a place in `lengths`.
    size_t level_of(const bench::Trend& trend, size_t width) const;
    Lines decisions(const bench::Watched& watched, size_t width) const;
    std::string output(const bench::Watched& watched, size_t drive, size_t width) const;
    std::string event(const bench::Event& event, size_t width) const;
    std::string bottom(size_t width) const;
    Lines whole_why(const bench::Watched& watched, size_t width) const;
    /// A text that is not wider than that.
    std::string fit(std::string_view text, size_t width) const;
    void key(const bench::Watched& watched, char key, Asked& out);

    Terminal terminal_;
    bool on_screen_ = false;
    size_t selected_ = 0; ///< an output
    size_t zoom_ = 0;     ///< 0: all that was seen; else a level, from 1
    bool asks_why_ = false;
    bool types_ = false;
    bool several_ = false; ///< devices
    TypedLine typed_;
    std::string hint_; ///< what a key could not do
};

} // namespace zorilla::cli
