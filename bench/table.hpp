// SPDX-License-Identifier: MIT
/// \file
/// A replay row by row, as CSV.
#pragma once

#include "rig/run/running_rig.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <cstdint>
#include <string>

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
    rig::OutputFile file_;
    fmt::memory_buffer text_;
};

} // namespace zorilla::bench
