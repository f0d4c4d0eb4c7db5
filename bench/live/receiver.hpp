// SPDX-License-Identifier: MIT
/// \file
/// What comes from a device over its line (docs/serial-line.md), told apart: rows, headers,
/// answers, and what the way has damaged.
#pragma once

#include "bench/trace/field.hpp"
#include "rig/model/rig.hpp"

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::bench {

/// A row of a device, as it came.
struct DeviceRow {
    int64_t milliseconds = 0;   ///< of the device's clock, which begins anew after 49.7 days
    std::vector<rig::Raw> raws; ///< one for each sensor, then one for each output, where it is told
    bool checked = false;       ///< a device's own, with a check; else a trace without one
};

/// Makes lines of bytes, and sense of lines. Nothing that comes can do worse than be counted.
class Receiver {
  public:
    /// \param rig  must outlive it
    explicit Receiver(const rig::Rig& rig);

    enum class Kind : uint8_t {
        row,     ///< `row()` has it
        header,  ///< of this rig, or of a trace that holds its sensors
        answer,  ///< to a command: `text()`
        damaged, ///< not what was sent
        foreign, ///< of a device that was made of another rig
    };
    /// Takes bytes up to the end of one line. \param bytes  becomes what is left
    /// \return  nothing if they end before the line does
    std::optional<Kind> next(std::string_view& bytes);
    /// The end of what comes: a last line without an end counts too if it is whole.
    std::optional<Kind> finish();
    /// Says that what comes next may begin anywhere: the line was cut off, or the device is on
    /// already. If that is the end of a line, it is left out and not counted as damaged.
    void begins_anywhere();

    const DeviceRow& row() const { return row_; }
    const std::string& text() const { return text_; }
    /// How many lines were damaged.
    uint64_t damaged() const { return damaged_; }
    /// What is wrong with the last of them.
    const std::string& problem() const { return problem_; }
    /// How long the header of this rig takes at most on its way, in milliseconds: with one row
    /// before it, a device that sends it again has been on for longer than twice that.
    int64_t header_milliseconds() const { return static_cast<int64_t>(header_.size()); }

  private:
    struct Column {
        enum class Role : uint8_t { time, raw, other } role = Role::other;
        size_t index = 0;
        FieldKind holds{};
        double scale = 1; ///< of the time: milliseconds in its unit
    };
    Kind take_line(std::string_view line);
    bool take_header(std::string_view line);
    bool take_row(std::string_view row);
    Kind bad(std::string problem);

    const rig::Rig& rig_;
    std::string header_;
    uint16_t start_;
    std::vector<Column> usual_; ///< those of a device
    std::vector<Column> columns_;
    bool checked_ = true; ///< whether rows have a check
    bool sure_ = false;   ///< whether one was right: from then on all have one
    bool skips_ = false;  ///< the rest of a line that is too long
    bool torn_ = false;   ///< the line may have begun before anybody listened
    std::string rest_;
    DeviceRow row_;
    std::string text_;
    std::string problem_;
    uint64_t damaged_ = 0;
    uint16_t other_start_ = 0; ///< of a device of another rig
    int other_rows_ = 0;       ///< that agreed on it
};

} // namespace zorilla::bench
