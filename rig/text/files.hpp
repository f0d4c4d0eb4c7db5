// SPDX-License-Identifier: MIT
/// \file
/// Files: reading whole ones, and writing so that no half-written one is ever left behind.
#pragma once

#include <cstdio>
#include <memory>
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

/// The whole file as text. \throws InputError  also if it is larger than `largest_file`
std::string read_file(const std::string& path);
inline constexpr size_t largest_file = size_t{64} << 20;

/// Refuses an output that is one of the files that this program has opened for reading, whatever it
/// is called there, or that it writes already. To be asked before any work is done. \throws
/// InputError
void check_output(const std::string& path);

/// A file that goes away with the object, and when the program is ended by a signal.
class TemporaryFile {
  public:
    /// \param pattern  a path that ends in XXXXXX \throws InputError
    explicit TemporaryFile(std::string pattern);
    ~TemporaryFile();
    TemporaryFile(const TemporaryFile&) = delete;
    TemporaryFile& operator=(const TemporaryFile&) = delete;
    const std::string& path() const { return path_; }
    /// Hands it over under another name. \return  whether that went well
    bool rename_to(const std::string& path);
    int descriptor() const { return descriptor_; }

  private:
    std::string path_;
    int descriptor_ = -1;
    size_t slot_ = 0;
};

/// A text on one line, for a comment or a message: what would end it, or upset a terminal, is shown
/// as a blank.
std::string one_line(std::string_view text);

/// A file that appears under its name only once it is complete: it is written beside it and
/// renamed by `commit()`. Without that call, and after any error or signal, nothing is left. A link
/// goes on leading to its file, and that keeps its mode. What is not a regular file, such as a
/// device or a pipe, is written directly.
class OutputFile {
  public:
    /// \param replaces  whether it may take the place of a file that was read, since it is made of
    ///     all of that  \throws InputError
    explicit OutputFile(std::string path, bool replaces = false);
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
    std::string target_; ///< where links lead
    std::unique_ptr<TemporaryFile> temporary_;
    std::FILE* file_ = nullptr;
};

} // namespace zorilla::rig
