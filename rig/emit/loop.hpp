// SPDX-License-Identifier: MIT
/// \file
/// The main.cpp of a firmware: roles, their wiring, and the loop of passes. Only for rig/emit/
/// itself.
#pragma once

#include "rig/emit/cpp.hpp"
#include "rig/model/chip.hpp"
#include "rig/model/raw.hpp"

#include <zorilla/units/time.hpp>

#include <cstdint>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace zorilla::rig {

/// A number that stands for a text: FNV-1a, 32 bits.
uint32_t number_of(std::string_view text);

class MainWriter {
  public:
    /// \param line  the chip's line that it uses, by its name
    MainWriter(const ChipFacts& chip, const std::string& line);
    /// Names a role, such as `Analogue<Board::adc0>`; how it is called afterwards.
    std::string role(const std::string& of, const std::string& what);
    /// A column of the trace that it sends. \param value  an expression
    void column(const std::string& name, RawKind kind, const std::string& value);
    /// A column of what an output is. \param width  its characters at most, with its comma
    void output(const std::string& name, size_t width, const std::string& value);
    /// Those columns, as they stand in the header.
    static std::string head(const std::string& name, RawKind kind);
    static std::string output_head(const std::string& name) { return "," + name + " (out)"; }
    /// The header of rows. \param columns  their heads
    static std::string header(const std::string& columns, uint32_t number);
    /// How many characters of a line a column takes at most, with its comma.
    static size_t width(RawKind kind);
    /// The same of the time, the check and the end of the line.
    static constexpr size_t time_width = 17;
    /// And the longest answer to a command.
    static constexpr size_t answer_width = 35;

    /// Lets it send what `column` was told of. \param every  how often; 0: in each pass
    void send(Duration every = {});
    /// Something that is said over the line. \param makes  its LineInput's arguments
    void said(const std::string& name, const std::string& makes);
    /// Something that is set over the line, and kept. \param spec  the constant of its ends
    /// \param means  what its bytes mean, in any words that change when that does
    void setting(const std::string& name, const std::string& spec, const std::string& means);
    /// What it answers to "who", and what its rows' checks begin with.
    void identify(uint32_t rig) { who_ = rig; }
    /// The whole. \param title  its first comment
    std::string text(const std::string& title, Duration every);

    std::string includes, globals; ///< more lines of each
    std::string reads, writes;     ///< statements of a pass: before what is sent, and after
  private:
    const ChipFacts& chip_;
    const LineFacts& line_;
    CppNames names_;
    std::string roles_, wires_, columns_, row_;
    std::string said_, named_, changes_, kept_, means_;
    uint32_t who_ = 0;
    size_t row_size_ = time_width;
    bool sends_ = false;
    Duration report_{};

    bool listens() const { return !said_.empty(); }
    std::string commands();
    std::string line_role() const;
};

} // namespace zorilla::rig
