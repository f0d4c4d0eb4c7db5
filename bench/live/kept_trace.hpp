// SPDX-License-Identifier: MIT
/// \file
/// What a device sends, kept as a trace that can be replayed.
#pragma once

#include "rig/model/rig.hpp"

#include <cstdio>
#include <string>
#include <string_view>

namespace zorilla::bench {

/// A file that begins with a header, also that of a device which has sent its own before, and ends
/// with a whole line, also if nobody listened to the end of the last one.
class KeptTrace {
  public:
    /// \param rig  must outlive it  \throws rig::InputError  if the file is there already, or
    /// cannot
    ///     be written; so do the others
    KeptTrace(const rig::Rig& rig, std::string path);
    ~KeptTrace();
    KeptTrace(const KeptTrace&) = delete;
    KeptTrace& operator=(const KeptTrace&) = delete;

    void take(std::string_view bytes);
    void flush();
    /// Nothing comes any more. \param whole  whether a last line without an end is to be kept
    void finish(bool whole);

  private:
    [[noreturn]] void cannot() const;

    const rig::Rig& rig_;
    std::string path_;
    std::FILE* file_;
    bool begun_ = false;
    std::string rest_; ///< what came of it and is not in the file
};

} // namespace zorilla::bench
