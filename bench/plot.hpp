// SPDX-License-Identifier: MIT
/// \file
/// How all figures look, and how they are drawn: by gnuplot, 1280 x 800 points, PNG or SVG. What a
/// reader must tell apart differs in line type or filling too, so that it can be told in black and
/// white and by whoever does not see colours.
#pragma once

#include "rig/text/files.hpp"

#include <cstdio>
#include <string>
#include <string_view>

namespace zorilla::bench::plot {

constexpr const char* ink = "#22303c";
constexpr const char* faint = "#8a97a3";
constexpr const char* grid = "#e3e8ec";
constexpr const char* fault_fill = "#d9480f";
constexpr const char* band_fill = "#dfe8d6";
constexpr const char* lane_fill = "#1f5f8b";
/// One for each curve of a panel, over and over.
constexpr const char* colours[] = {"#1f5f8b", "#b35900", "#3b7a57", "#7a3b69"};
constexpr size_t colour_count = sizeof colours / sizeof *colours;

/// gnuplot's terminal for a file by its ending. \throws rig::InputError  if it is not .png or .svg
std::string terminal_of(const std::string& path);

/// What every figure begins with: terminal, title, border, tics and grid.
std::string beginning(const std::string& terminal, std::string_view title);

/// A text for gnuplot in single quotes.
std::string quoted(std::string_view text);

/// A small text at a place such as "graph 0.5, first 3 left".
std::string label(int number, std::string_view text, std::string_view place);

/// The name of an axis, with its unit. \param axis  "x" or "y"
std::string axis_label(std::string_view axis, std::string_view text);

/// A round step that cuts a span into about so many parts.
double step_of(double span, int parts);

/// Draws a script into a file, which appears only if all went well. \throws rig::InputError  if
///     gnuplot is not there, or the file cannot be written
void draw(const std::string& path, const std::string& script);

/// gnuplot, started while what it is to draw is still being found out: it takes a tenth of a second
/// to find its fonts.
class Pen {
  public:
    /// \param terminal  as of `terminal_of`
    explicit Pen(const std::string& terminal);
    ~Pen();
    Pen(const Pen&) = delete;
    Pen& operator=(const Pen&) = delete;
    /// As `plot::draw`; once.
    void draw(const std::string& path, const std::string& script);

  private:
    rig::TemporaryFile image_, said_;
    std::FILE* pipe_;
};

/// What a drawing program makes of a script. \param program  with its options; the script's file
/// comes last  \param name, package  for a message \throws rig::InputError  if it is not there, or
/// fails
std::string output_of(const std::string& program, const std::string& script,
                      const std::string& name, const std::string& package);

} // namespace zorilla::bench::plot
