// SPDX-License-Identifier: MIT
#include "cli/live_view.hpp"

#include "cli/page.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::cli {

LiveView::LiveView(bool data_is_input) : terminal_(data_is_input) {
    if (!shows())
        return;
    Terminal::put("\033[?1049h"); // a screen of its own
    on_screen_ = true;
}

void LiveView::end() {
    if (on_screen_)
        Terminal::put("\033[?1049l");
    on_screen_ = false;
}

std::string LiveView::fit(std::string_view text, size_t width) const {
    if (screen_width(text) <= width)
        return std::string(text);
    const std::string_view more = terminal_.blocks() ? "…" : "~";
    std::string out;
    size_t taken = 0;
    for (const char c : text) {
        if ((c & 0xc0) != 0x80 && ++taken >= width)
            break;
        out += c;
    }
    return width == 0 ? "" : out + std::string(more);
}

std::string LiveView::bottom(size_t width) const {
    if (types_)
        return terminal_.bold("> ") + fit(typed_.text(), width - 3) + "_";
    if (!hint_.empty())
        return terminal_.warning(fit(hint_, width));
    if (keyboard() < 0)
        return terminal_.faint("Ctrl-C ends");
    const std::string next = several_ ? "Tab: next device   " : "";
    return terminal_.faint(fit(
        next +
            (width >= 115 ? "up, down: another output   Enter: why   t: take over   h: hand back   "
                            "p: setting   s: self-test   >: command   z: time   q: end"
             : width >= 70 ? "Enter: why  t: take over  h: hand back  p: setting  z: time  q: end"
                           : "Enter why  t take over  h hand back  p set  z time  q end"),
        width));
}

LiveView::Lines LiveView::whole_why(const bench::Watched& watched, size_t width) const {
    Lines out;
    if (!asks_why_ || !watched.companion().any() || selected_ >= watched.rig().drives.size())
        return out;
    for (std::string line : watched.why({bench::Question::About::drive, selected_, 0})) {
        // Sentences are not cut, but go on below.
        const size_t indent = line.find_first_not_of(' ');
        line = shown_text(line);
        while (screen_width(line) + 2 > width) {
            const size_t blank = line.rfind(' ', width - 3);
            if (blank == std::string::npos || blank <= indent)
                break;
            out.push_back("  " + line.substr(0, blank));
            line = std::string(indent + 2, ' ') + line.substr(blank + 1);
        }
        out.push_back("  " + line);
    }
    return out;
}

void LiveView::draw(const bench::Watched& watched, const std::string& state,
                    const std::string& place) {
    if (!shows())
        return;
    several_ = !place.empty();
    const auto [columns, rows] = Terminal::size();
    const auto width = static_cast<size_t>(std::max(columns - 1, 20));
    const auto height = static_cast<size_t>(std::max(rows, 8));
    const rig::Rig& rig = watched.rig();
    const bench::Companion& beside = watched.companion();

    Lines lines = {title(watched, width, place)};
    std::string news = fmt::format("{} rows", rig::count_to_text(beside.rows()));
    if (watched.receiver().damaged() > 0)
        news += fmt::format(", {} damaged", rig::count_to_text(watched.receiver().damaged()));
    if (beside.missed() > 0)
        news += fmt::format(", {} not seen", rig::count_to_text(beside.missed()));
    news += trends_over(watched, width);
    if (!state.empty())
        news += "   " + shown_text(state);
    lines.push_back(terminal_.faint(fit(news, width)));

    const Lines decided = decisions(watched, width);
    const Lines why = whole_why(watched, width);
    // What must be seen first gets its lines first: outputs, decisions, then readings, then events.
    size_t left = height - 3;
    const auto take = [&left](size_t wanted) {
        const size_t out = std::min(wanted, left);
        left -= out;
        return out;
    };
    const size_t outputs = take(rig.drives.size());
    const size_t told = take(why.size());
    const size_t decisions_shown = take(decided.size());
    const size_t readings = take(rig.sources.size());
    const bool spaced = left >= 5;
    if (spaced)
        left -= 3;
    const auto list = [&](size_t shown, size_t all, const auto& line) {
        for (size_t i = 0; i < shown; ++i)
            lines.push_back(
                i + 1 == shown && shown < all
                    ? terminal_.faint(fmt::format("  and {} more; a taller window shows "
                                                  "them",
                                                  all - shown + 1))
                    : line(i));
    };
    const auto gap = [&] {
        if (spaced)
            lines.emplace_back();
    };
    gap();
    list(readings, rig.sources.size(), [&](size_t i) { return reading(watched, i, width); });
    gap();
    list(decisions_shown, decided.size(), [&](size_t i) { return decided[i]; });
    gap();
    list(outputs, rig.drives.size(), [&](size_t i) { return output(watched, i, width); });
    list(told, why.size(), [&](size_t i) { return why[i]; });
    if (left > 1) {
        lines.emplace_back();
        const auto& events = watched.events();
        const size_t shown = std::min(left - 1, events.size());
        for (size_t i = events.size() - shown; i < events.size(); ++i)
            lines.push_back(event(events[i], width));
    }
    while (lines.size() + 1 < height)
        lines.emplace_back();
    lines.push_back(bottom(width));
    std::string out = "\033[H";
    for (size_t i = 0; i < lines.size(); ++i)
        out += lines[i] + "\033[K" + (i + 1 < lines.size() ? "\r\n" : "");
    Terminal::put(out + "\033[J");
}

void LiveView::key(const bench::Watched& watched, char key, Asked& out) {
    const rig::Rig& rig = watched.rig();
    const auto ask = [&](const std::string& text) {
        types_ = true;
        typed_.set(text);
    };
    const auto names = selected_ < rig.drives.size() ? bench::said_about(rig, selected_) : Lines();
    const std::string none =
        rig.drives.empty()
            ? "there is no output"
            : fmt::format(
                  "nothing that is said over the line bears on {}: give it a by_hand with a "
                  "line_switch, as \"Said over the line\" in docs/rig-file.md has it",
                  rig.drives[selected_].name);
    hint_.clear();
    switch (key) {
    case 'q':
    case 4: out.end = true; break;
    case '\n':
    case '\r': asks_why_ = !asks_why_; break;
    case '\t':
        out.next += 1;
        selected_ = 0;
        break;
    case '>': ask(""); break;
    case 'z': zoom_ = (zoom_ + 1) % (std::size(bench::Trend::lengths) + 1); break;
    case 't':
        if (names.empty())
            hint_ = none;
        else
            ask("set " + names.front() + " on");
        break;
    case 'h':
        if (names.empty())
            hint_ = none;
        else
            out.commands.push_back("clear " + names.front());
        break;
    case 's': {
        const Lines tests = bench::said_about_test(rig);
        if (tests.empty())
            hint_ = "no line_switch starts a self-test of this rig: see [rig.self_test] in "
                    "docs/rig-file.md";
        else
            ask("set " + tests.front() + " on for 2 s");
        break;
    }
    case 'p': {
        const auto found =
            std::find_if(rig.senses.begin(), rig.senses.end(),
                         [](const auto& sense) { return sense.word == "line_setting"; });
        if (found == rig.senses.end())
            hint_ = "this rig has no setting that can be changed: see line_setting in "
                    "docs/rig-file.md";
        else
            ask("set " + found->name + " ");
        break;
    }
    default: break;
    }
}

LiveView::Asked LiveView::read_keys(const bench::Watched& watched) {
    Asked out;
    const std::string keys = terminal_.read_keys();
    for (size_t i = 0; i < keys.size(); ++i) {
        if (keys[i] == 27) {
            if (i + 2 < keys.size() && keys[i + 1] == '[') {
                const size_t count = std::max<size_t>(watched.rig().drives.size(), 1);
                if (keys[i + 2] == 'A')
                    selected_ = (selected_ + count - 1) % count;
                else if (keys[i + 2] == 'B')
                    selected_ = (selected_ + 1) % count;
                i += 2;
            } else {
                types_ = false; // Escape
            }
        } else if (types_) {
            if (!typed_.take(keys[i]))
                continue;
            types_ = false;
            if (!typed_.text().empty())
                out.commands.push_back(typed_.text());
        } else {
            key(watched, keys[i], out);
        }
    }
    return out;
}

} // namespace zorilla::cli
