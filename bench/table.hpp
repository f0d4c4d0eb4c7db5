// SPDX-License-Identifier: MIT
/// \file
/// A replay row by row, as CSV.
#pragma once

#include "rig/run/running_rig.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::bench {

/// Writes one line for each pass: the time, each reading with its health, each decision, each
/// output with its cause. The file appears under its name only if all could be written.
class TableWriter {
  public:
    /// \throws rig::InputError
    TableWriter(const std::string& path, const rig::Rig& rig);

    /// \throws rig::InputError
    void add(int64_t now, const rig::RunningRig& running);
    /// \throws rig::InputError
    void commit();

  private:
    /// The columns of one output, kept from row to row: most rows change nothing of it.
    struct DriveText {
        rig::Driven of;
        std::string text; ///< empty: not yet made
    };
    struct DutyText {
        Duty of;
        std::string text;
    };
    void add_text(std::string_view text) { text_.append(text.data(), text.data() + text.size()); }
    void add_thousandths(int64_t number);
    void add_readings(const rig::RunningRig& running);
    void add_decisions(const rig::RunningRig& running);
    const std::string& text_of(size_t drive, const rig::RunningRig& running);

    rig::OutputFile file_;
    fmt::memory_buffer text_;
    std::vector<size_t> sources_; ///< those that have columns
    std::vector<size_t> facts_;
    std::vector<size_t> decides_;
    std::vector<DutyText> duties_; ///< for each decision
    std::vector<DriveText> drives_;
};

} // namespace zorilla::bench
