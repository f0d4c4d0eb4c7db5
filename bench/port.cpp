// SPDX-License-Identifier: MIT
#include "bench/port.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <libserialport.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <termios.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>

namespace zorilla::bench {

namespace {

constexpr size_t chunk = size_t{1} << 16;

/// No line editing, no echo, no signals: bytes as they are.
void make_raw(int descriptor) {
    termios settings{};
    if (tcgetattr(descriptor, &settings) == 0) {
        cfmakeraw(&settings);
        tcsetattr(descriptor, TCSANOW, &settings);
        tcflush(descriptor, TCIFLUSH); // what came before somebody was there
    }
}

/// Who has a device open, where that can be told: " (process 123, NAME)".
std::string reader_of(const std::string& path) {
    namespace fs = std::filesystem;
    std::error_code error;
    const fs::path device = fs::canonical(path, error);
    for (const auto& process : fs::directory_iterator("/proc", error)) {
        const std::string id = process.path().filename().string();
        if (id.find_first_not_of("0123456789") != std::string::npos ||
            id == std::to_string(getpid()))
            continue;
        std::error_code hidden;
        for (const auto& file : fs::directory_iterator(process.path() / "fd", hidden)) {
            // The master's side of a pseudo-terminal has another name.
            if (fs::read_symlink(file.path(), hidden) != device)
                continue;
            std::ifstream name(process.path() / "comm");
            std::string word;
            std::getline(name, word);
            if (!word.empty())
                return fmt::format(" (process {}, {})", id, word);
        }
    }
    return {};
}

} // namespace

bool Port::open(std::string& reason) {
    close();
    if (is_standard_input()) {
        descriptor_ = STDIN_FILENO;
        return true;
    }
    if (sp_get_port_by_name(path_.c_str(), &serial_) == SP_OK) {
        const bool fine = sp_open(serial_, says_ ? SP_MODE_READ_WRITE : SP_MODE_READ) == SP_OK;
        if (!fine) {
            char* text = sp_last_error_message();
            reason = text;
            sp_free_error_message(text);
        } else if (sp_set_baudrate(serial_, baud_) != SP_OK) {
            reason = fmt::format("it cannot do {} baud", baud_);
        } else if (sp_set_bits(serial_, 8) == SP_OK &&
                   sp_set_parity(serial_, SP_PARITY_NONE) == SP_OK &&
                   sp_set_stopbits(serial_, 1) == SP_OK &&
                   sp_set_flowcontrol(serial_, SP_FLOWCONTROL_NONE) == SP_OK &&
                   sp_get_port_handle(serial_, &descriptor_) == SP_OK) {
            sp_flush(serial_, SP_BUF_INPUT); // what came before somebody was there
            if (take_alone(reason))
                return true;
            close();
            return false;
        } else {
            reason = "it cannot do 8 bits without parity";
        }
        if (fine)
            sp_close(serial_);
        sp_free_port(serial_);
        serial_ = nullptr;
        descriptor_ = -1;
        return false;
    }
    // Who could write to a pipe would never see its end.
    struct stat kind {};
    const bool writes = says_ && stat(path_.c_str(), &kind) == 0 && S_ISCHR(kind.st_mode);
    // NOLINTNEXTLINE: open has a third argument only with O_CREAT
    descriptor_ =
        ::open(path_.c_str(), (writes ? O_RDWR : O_RDONLY) | O_NOCTTY | O_NONBLOCK | O_CLOEXEC);
    if (descriptor_ < 0) {
        reason = std::strerror(errno);
        return false;
    }
    struct stat about {};
    fstat(descriptor_, &about);
    if (S_ISDIR(about.st_mode)) {
        reason = "it is a directory";
        close();
        return false;
    }
    if (S_ISCHR(about.st_mode) && !take_alone(reason)) {
        close();
        return false;
    }
    make_raw(descriptor_);
    return true;
}

/// Two readers of one line would get half of it each.
bool Port::take_alone(std::string& reason) {
    if (flock(descriptor_, LOCK_EX | LOCK_NB) == 0 || errno != EWOULDBLOCK)
        return true;
    reason = "another program reads it already" + reader_of(path_);
    return false;
}

void Port::close() {
    if (serial_ != nullptr) {
        sp_close(serial_);
        sp_free_port(serial_);
        serial_ = nullptr;
    } else if (descriptor_ > STDIN_FILENO) {
        ::close(descriptor_);
    }
    descriptor_ = -1;
}

bool Port::begins_anywhere() const {
    struct stat about {};
    return !is_standard_input() && fstat(descriptor_, &about) == 0 && !S_ISREG(about.st_mode);
}

bool Port::say(const std::string& line) {
    const std::string text = line + "\n";
    return says_ &&
           ::write(descriptor_, text.data(), text.size()) == static_cast<ssize_t>(text.size());
}

Port::Got Port::read(std::vector<char>& buffer) {
    buffer.resize(chunk);
    const ssize_t got = ::read(descriptor_, buffer.data(), buffer.size());
    const int error = errno;
    buffer.resize(got > 0 ? static_cast<size_t>(got) : 0);
    if (got > 0)
        return Got::bytes;
    if (got < 0 && (error == EAGAIN || error == EINTR))
        return Got::nothing;
    struct stat about {};
    const bool terminal = fstat(descriptor_, &about) == 0 && S_ISCHR(about.st_mode);
    return is_standard_input() || (got == 0 && !terminal) ? Got::ended : Got::gone;
}

std::string cannot_be_opened(const std::string& port, const std::string& reason) {
    std::string listed;
    sp_port** all = nullptr;
    if (sp_list_ports(&all) == SP_OK) {
        for (sp_port** one = all; *one != nullptr; ++one) {
            const char* about = sp_get_port_description(*one);
            listed += fmt::format("\n  {}{}", sp_get_port_name(*one),
                                  about == nullptr ? "" : fmt::format(" ({})", about));
        }
        sp_free_port_list(all);
    }
    return fmt::format("{}: cannot be opened: {}; {}", port, reason,
                       listed.empty() ? "this machine has no serial port at the moment: is the "
                                        "board plugged in? Without one, try zorilla device"
                                      : "this machine has" + listed);
}

} // namespace zorilla::bench
