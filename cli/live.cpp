// SPDX-License-Identifier: MIT
#include "cli/live.hpp"

#include "cli/page.hpp"
#include "rig/text/text.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <cstring>

namespace zorilla::cli {

namespace {

bool speaks_utf8() {
    for (const char* name : {"LC_ALL", "LC_CTYPE", "LANG"}) {
        const char* value = std::getenv(name);
        if (value != nullptr && *value != '\0')
            return std::strstr(value, "UTF-8") != nullptr || std::strstr(value, "utf8") != nullptr;
    }
    return false;
}

void put(const std::string& text) {
    size_t done = 0;
    while (done < text.size()) {
        const ssize_t written = write(STDOUT_FILENO, text.data() + done, text.size() - done);
        if (written <= 0)
            return;
        done += static_cast<size_t>(written);
    }
}

/// The end of the axis: that of a converter, or the next round number.
double axis_end(const bench::SampleColumn& column, double highest) {
    if (column.is_code()) {
        double full = 1023;
        while (full < highest)
            full = full * 4 + 3;
        return full;
    }
    double end = 1;
    for (int i = 0; end < highest; ++i)
        end *= i % 3 == 1 ? 2.5 : 2;
    return end;
}

} // namespace

Live::Live(bool data_is_input) {
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

Live::~Live() {
    if (shows_)
        put("\033[?25h");
    if (keyboard_ >= 0)
        tcsetattr(keyboard_, TCSANOW, &before_);
    if (own_keyboard_)
        close(keyboard_);
}

std::string Live::bar(const bench::LiveColumn& column, double full, int width) const {
    // What the value has swept is faint, where it is now is full.
    const auto place = [&](double value) {
        return std::clamp(static_cast<int>(std::lround(value / full * (width - 1))), 0, width - 1);
    };
    std::string out;
    const int low = place(column.lowest), high = place(column.highest), now = place(column.now);
    for (int i = 0; i < width; ++i)
        out += i == now                ? (blocks_ ? "█" : "#")
               : i >= low && i <= high ? (blocks_ ? "▒" : "=")
                                       : (blocks_ ? "·" : ".");
    return out;
}

std::string Live::history(const bench::LiveColumn& column, double full, int width, int row) const {
    static constexpr const char* blocks[] = {" ", "▁", "▂", "▃", "▄", "▅", "▆", "▇", "█"};
    static constexpr const char* signs[] = {" ", ".", ".", ":", ":", "|", "|", "#", "#"};
    std::string out;
    const size_t count = column.history.size();
    const auto shown = std::min(count, static_cast<size_t>(width));
    for (size_t i = count - shown; i < count; ++i) {
        // The lowest row shows at least a little, so that a value of 0 is seen too.
        const double height = column.history[i] / full * 8 * history_rows - 8 * row;
        const auto level =
            static_cast<size_t>(std::clamp(std::round(height), row == 0 ? 1.0 : 0.0, 8.0));
        out += (blocks_ ? blocks : signs)[level];
    }
    out.append(static_cast<size_t>(width) - shown, ' ');
    return out;
}

void Live::draw(const bench::Capture& capture, const std::string& state, int64_t milliseconds) {
    if (!shows_)
        return;
    winsize size{};
    const int columns =
        ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0 && size.ws_col > 0 ? size.ws_col : 80;
    const auto faint = [this](const std::string& text) {
        return colour_ ? "\033[2m" + text + "\033[0m" : text;
    };
    const auto bold = [this](const std::string& text) {
        return colour_ ? "\033[1m" + text + "\033[0m" : text;
    };
    const int rows = size.ws_row > 0 ? size.ws_row : 24;
    std::vector<std::string> lines;
    lines.push_back(fmt::format("{}  {} rows, {} a second  {}",
                                rig::time_to_text(milliseconds / 1000 * 1000),
                                rig::count_to_text(capture.rows()), capture.rate(), state));
    lines.push_back(fmt::format("condition: {}", capture.condition().empty()
                                                     ? faint("none yet")
                                                     : bold(shown_text(capture.condition()))));
    const int width = std::clamp(columns - 48, 16, 72);
    // Whatever the number of columns, all of it stays on the screen: first without their history,
    // then only the first of them.
    const int free_rows = std::max(rows - 6, 1);
    const auto count = static_cast<int>(capture.columns().size());
    const bool tall = count * (history_rows + 2) <= free_rows;
    const int most = tall || count <= free_rows ? count : free_rows - 1;
    if (!tall)
        lines.emplace_back();
    for (int n = 0; n < most; ++n) {
        const auto i = static_cast<size_t>(n);
        const bench::SampleColumn& column = capture.columns()[i];
        const bench::LiveColumn& live = capture.live()[i];
        const double full = axis_end(column, live.highest);
        if (tall)
            lines.emplace_back();
        lines.push_back(fmt::format("{:<12.12} {:>9.6g}  {}  {}", shown_text(column.name), live.now,
                                    bar(live, full, width),
                                    faint(fmt::format("0 to {:.6g}", full))));
        for (int row = tall ? history_rows - 1 : -1; row >= 0; --row)
            lines.push_back(fmt::format(
                "{:<12} {:>9}  {}{}", "", "", history(live, full, width, row),
                row == 0 && live.any
                    ? fmt::format("  lowest {:.6g}, highest {:.6g}", live.lowest, live.highest)
                    : ""));
    }
    if (most < count)
        lines.push_back(
            faint(fmt::format("and {} more; a taller window shows them", count - most)));
    lines.emplace_back();
    if (capture.nonsense() > 0)
        lines.push_back(fmt::format(
            "{} {} not understood, the last: {}", rig::count_to_text(capture.nonsense()),
            capture.nonsense() == 1 ? "line was" : "lines were",
            shown_text(capture.last_problem())
                .substr(0, static_cast<size_t>(std::max(columns - 40, 10)))));
    if (keyboard_ >= 0)
        lines.push_back(faint("type the name of a condition, or > and a command, and Enter; Ctrl-C "
                              "ends and saves") +
                        (typed_.empty() ? "" : "  > " + typed_));
    else
        lines.push_back(faint("Ctrl-C ends and saves"));
    std::string out = drawn_ > 0 ? fmt::format("\033[{}A", drawn_) : "";
    for (const std::string& line : lines)
        out += "\r" + line + "\033[K\n";
    if (static_cast<int>(lines.size()) < drawn_)
        out += "\033[J";
    drawn_ = static_cast<int>(lines.size());
    put(out);
}

Live::Keys Live::read_keys() {
    Keys out;
    char keys[64];
    const ssize_t got = keyboard_ < 0 ? 0 : read(keyboard_, keys, sizeof keys);
    for (ssize_t i = 0; i < got; ++i) {
        const char key = keys[i];
        if (key == '\n' || key == '\r') {
            if (!typed_.empty()) {
                out.named = true;
                out.name = typed_;
            }
            typed_.clear();
        } else if (key == 4) { // Ctrl-D
            out.end = true;
        } else if (key == 127 || key == 8) {
            // Of a character of several bytes, all of them.
            while (!typed_.empty() && (typed_.back() & 0xc0) == 0x80)
                typed_.pop_back();
            if (!typed_.empty())
                typed_.pop_back();
        } else if (key == 27) { // the arrows and the like
            break;
        } else if (static_cast<unsigned char>(key) >= ' ' && typed_.size() < 60) {
            typed_ += key;
        }
    }
    return out;
}

} // namespace zorilla::cli
