// SPDX-License-Identifier: MIT
/// \file
/// What the command-line tool prints: results on standard output, messages on standard error.
#pragma once

#include "bench/replay.hpp"
#include "rig/rig_file.hpp"

#include <cstdio>
#include <string>
#include <string_view>

namespace zorilla::cli {

/// Standard output, in colour if it is a terminal that wants colour (https://no-color.org).
class Page {
  public:
    Page();

    void line(std::string_view text = "");
    std::string bold(std::string_view text) const;
    std::string warning(std::string_view text) const;
    /// A time of the timeline, so that those with parts of a second stand under those without.
    std::string clock(const std::string& time);

    /// Hands on what was printed so far.
    void flush() { std::fflush(stdout); }
    /// \throws rig::InputError  if something could not be written
    void finish();

  private:
    std::string painted(std::string_view text, int code) const;
    bool colour_ = false;
    bool parts_of_seconds_ = false; ///< whether there was one yet
};

/// A text as a terminal may be given it: what would steer the terminal is shown as \x1b and the
/// like.
std::string shown_text(std::string_view text);

/// A message on standard error.
void message(std::string_view text);

/// What is wrong with a rig file, one mistake a line, as FILE:LINE:COLUMN.
void print_mistakes(const std::string& path, const std::vector<rig::Mistake>& mistakes);

/// What a checked rig is made of.
void print_rig(Page& page, const rig::Rig& rig);

/// "once", "twice", "12 times".
std::string how_often(uint64_t count);

/// One line of the timeline. \param before  stands at its beginning
void print_event(Page& page, const rig::Rig& rig, const bench::Event& event,
                 const std::string& before = "");

void print_summary(Page& page, const rig::Rig& rig, const bench::Summary& summary,
                   uint64_t bad_lines);

} // namespace zorilla::cli
