// SPDX-License-Identifier: MIT
#include "cli/capture_view.hpp"

#include "cli/page.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::cli {

namespace {

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

std::string CaptureView::bar(const bench::LiveColumn& column, double full, int width) const {
    // What the value has swept is faint, where it is now is full.
    const auto place = [&](double value) {
        return std::clamp(static_cast<int>(std::lround(value / full * (width - 1))), 0, width - 1);
    };
    std::string out;
    const int low = place(column.lowest), high = place(column.highest), now = place(column.now);
    for (int i = 0; i < width; ++i)
        out += i == now                ? (terminal_.blocks() ? "█" : "#")
               : i >= low && i <= high ? (terminal_.blocks() ? "▒" : "=")
                                       : (terminal_.blocks() ? "·" : ".");
    return out;
}

std::string CaptureView::history(const bench::LiveColumn& column, double full, int width,
                                 int row) const {
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
        out += (terminal_.blocks() ? blocks : signs)[level];
    }
    out.append(static_cast<size_t>(width) - shown, ' ');
    return out;
}

void CaptureView::draw(const bench::Capture& capture, const std::string& state,
                       int64_t milliseconds) {
    if (!shows())
        return;
    const auto [columns, rows] = Terminal::size();
    const auto faint = [this](const std::string& text) { return terminal_.faint(text); };
    const auto bold = [this](const std::string& text) { return terminal_.bold(text); };
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
    if (keyboard() >= 0)
        lines.push_back(faint("type the name of a condition, or > and a command, and Enter; Ctrl-C "
                              "ends and saves") +
                        (typed_.text().empty() ? "" : "  > " + typed_.text()));
    else
        lines.push_back(faint("Ctrl-C ends and saves"));
    std::string out = drawn_ > 0 ? fmt::format("\033[{}A", drawn_) : "";
    for (const std::string& line : lines)
        out += "\r" + line + "\033[K\n";
    if (static_cast<int>(lines.size()) < drawn_)
        out += "\033[J";
    drawn_ = static_cast<int>(lines.size());
    Terminal::put(out);
}

CaptureView::Keys CaptureView::read_keys() {
    Keys out;
    for (const char key : terminal_.read_keys()) {
        if (key == 27) // the arrows and the like
            break;
        out.end = out.end || key == 4; // Ctrl-D
        if (!typed_.take(key))
            continue;
        if (!typed_.text().empty()) {
            out.named = true;
            out.name = typed_.text();
        }
        typed_.set("");
    }
    return out;
}

} // namespace zorilla::cli
