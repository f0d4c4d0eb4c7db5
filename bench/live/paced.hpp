// SPDX-License-Identifier: MIT
/// \file
/// A recorded file that is read as if its device sent it now.
#pragma once

#include <atomic>
#include <string>
#include <thread>

namespace zorilla::bench {

/// Writes the lines of a file into a pipe, each when it is due by its first column, the time.
class Paced {
  public:
    /// \param pace  times as fast as recorded, above 0  \throws rig::InputError  if it cannot be
    /// read, or begins with no time
    Paced(const std::string& file, double pace);
    ~Paced();
    Paced(const Paced&) = delete;
    Paced& operator=(const Paced&) = delete;

    /// What to open to read it.
    std::string path() const;

  private:
    int read_ = -1, write_ = -1;
    std::atomic<bool> stop_ = false;
    std::thread thread_;
};

} // namespace zorilla::bench
