// SPDX-License-Identifier: MIT
/// \file
/// Files: reading whole ones, and writing so that no half-written one is ever left behind.
#pragma once

#include <cstdio>
#include <stdexcept>
#include <string>
#include <string_view>

namespace zorilla::rig {

/// Input that cannot be used, or output that cannot be written: one sentence for the user.
struct InputError : std::runtime_error {
    using std::runtime_error::runtime_error;
};

/// Opens a file for reading. \throws InputError  naming the file and why; a directory is refused.
std::FILE* open_to_read(const std::string& path);

/// The whole file as text. \throws InputError
std::string read_file(const std::string& path);

/// A file that appears under its name only once it is complete: it is written beside it and
/// renamed by `commit()`. Without that call nothing is left. What is not a regular file, such as a
/// device or a pipe, is written directly.
class OutputFile {
  public:
    /// \throws InputError
    explicit OutputFile(std::string path);
    ~OutputFile();
    OutputFile(const OutputFile&) = delete;
    OutputFile& operator=(const OutputFile&) = delete;

    /// \throws InputError  for example if the disk is full
    void write(std::string_view text);
    /// Makes the file visible under its name. \throws InputError
    void commit();

  private:
    [[noreturn]] void fail();

    std::string path_;
    std::string temporary_;
    std::FILE* file_ = nullptr;
    bool direct_ = false;
};

} // namespace zorilla::rig
