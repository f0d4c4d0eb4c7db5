// SPDX-License-Identifier: MIT
#include "cli/terminal.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include <algorithm>
#include <cstdlib>
#include <cstring>

namespace zorilla::cli {

static bool speaks_utf8() {
    for (const char* name : {"LC_ALL", "LC_CTYPE", "LANG"}) {
        const char* value = std::getenv(name);
        if (value != nullptr && *value != '\0')
            return std::strstr(value, "UTF-8") != nullptr || std::strstr(value, "utf8") != nullptr;
    }
    return false;
}

size_t screen_width(std::string_view text) {
    return static_cast<size_t>(
        std::count_if(text.begin(), text.end(), [](char c) { return (c & 0xc0) != 0x80; }));
}

void Terminal::put(std::string_view text) {
    while (!text.empty()) {
        const ssize_t written = write(STDOUT_FILENO, text.data(), text.size());
        if (written <= 0)
            return;
        text.remove_prefix(static_cast<size_t>(written));
    }
}

Terminal::Size Terminal::size() {
    winsize size{};
    Size out;
    if (ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0 && size.ws_col > 0 && size.ws_row > 0)
        out = {size.ws_col, size.ws_row};
    return out;
}

Terminal::Terminal(bool data_is_input) {
    const char* terminal = std::getenv("TERM");
    shows_ =
        isatty(STDOUT_FILENO) != 0 && terminal != nullptr && std::strcmp(terminal, "dumb") != 0;
    const char* no_colour = std::getenv("NO_COLOR");
    colour_ = shows_ && (no_colour == nullptr || *no_colour == '\0');
    blocks_ = speaks_utf8();
    if (!shows_)
        return;
    if (data_is_input) {
        // NOLINTNEXTLINE: open has a third argument only with O_CREAT
        keyboard_ = open("/dev/tty", O_RDONLY | O_CLOEXEC);
        own_keyboard_ = keyboard_ >= 0;
    } else if (isatty(STDIN_FILENO) != 0) {
        keyboard_ = STDIN_FILENO;
    }
    if (keyboard_ >= 0 && tcgetattr(keyboard_, &before_) == 0) {
        termios settings = before_;
        settings.c_lflag &= ~static_cast<tcflag_t>(ICANON | ECHO);
        settings.c_cc[VMIN] = 0;
        settings.c_cc[VTIME] = 0;
        tcsetattr(keyboard_, TCSANOW, &settings);
    }
    put("\033[?25l"); // no cursor
}

Terminal::~Terminal() {
    if (shows_)
        put("\033[?25h");
    if (keyboard_ >= 0)
        tcsetattr(keyboard_, TCSANOW, &before_);
    if (own_keyboard_)
        close(keyboard_);
}

std::string Terminal::painted(const std::string& text, int code) const {
    return colour_ ? fmt::format("\033[{}m{}\033[0m", code, text) : text;
}

std::string Terminal::read_keys() const {
    char keys[64];
    const ssize_t got = keyboard_ < 0 ? 0 : read(keyboard_, keys, sizeof keys);
    return {keys, static_cast<size_t>(got > 0 ? got : 0)};
}

bool TypedLine::take(char key) {
    if (key == '\n' || key == '\r')
        return true;
    if (key == 127 || key == 8) {
        // Of a character of several bytes, all of them.
        while (!text_.empty() && (text_.back() & 0xc0) == 0x80)
            text_.pop_back();
        if (!text_.empty())
            text_.pop_back();
    } else if (static_cast<unsigned char>(key) >= ' ' && text_.size() < 64) {
        text_ += key;
    }
    return false;
}

} // namespace zorilla::cli
