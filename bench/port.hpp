// SPDX-License-Identifier: MIT
/// \file
/// A serial port to read from, which may vanish and come back.
#pragma once

#include <string>
#include <vector>

struct sp_port;

namespace zorilla::bench {

/// A serial port by libserialport; or, since that knows hardware only, a pseudo-terminal or a pipe
/// by its path, or standard input by the name "-".
class Port {
  public:
    /// \param says  whether something is to be written too
    Port(std::string path, int baud, bool says = false)
        : path_(std::move(path)), baud_(baud), says_(says && path_ != "-") {}
    ~Port() { close(); }
    Port(const Port&) = delete;
    Port& operator=(const Port&) = delete;

    /// False, with a reason, if it cannot be opened now.
    bool open(std::string& reason);
    void close();
    bool is_open() const { return descriptor_ >= 0; }
    bool is_standard_input() const { return path_ == "-"; }
    /// Whether what comes first may be the end of a line: true of a device that is on already, but
    /// not of a file, nor of standard input.
    bool begins_anywhere() const;
    /// What to wait on for something to read.
    int descriptor() const { return descriptor_; }

    enum class Got {
        bytes,
        nothing, ///< at the moment
        gone,    ///< unplugged; it may come back
        ended,   ///< a file or pipe that has come to its end
    };
    /// Reads what is there, without waiting. \param buffer  made as long as what was read
    Got read(std::vector<char>& buffer);

    /// Writes a line; false if it could not be written whole.
    bool say(const std::string& line);

  private:
    bool take_alone(std::string& reason);

    std::string path_;
    int baud_;
    bool says_;
    sp_port* serial_ = nullptr;
    int descriptor_ = -1;
};

/// Why a port cannot be opened, and which ports this machine has.
std::string cannot_be_opened(const std::string& port, const std::string& reason);

} // namespace zorilla::bench
