// SPDX-License-Identifier: MIT
#include "bench/figure.hpp"

#include "rig/files.hpp"
#include "rig/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <sys/wait.h>
#include <unistd.h>

namespace zorilla::bench {

namespace {

using rig::InputError;

// Told apart in black and white by their line types too.
constexpr const char* ink = "#22303c";
constexpr const char* faint = "#8a97a3";
constexpr const char* fault_fill = "#d9480f";
constexpr const char* band_fill = "#dfe8d6";
constexpr const char* lane_fill = "#1f5f8b";
constexpr const char* sense_colours[] = {"#1f5f8b", "#b35900", "#3b7a57", "#7a3b69"};

bool ends_with(const std::string& text, const std::string& end) {
    return text.size() >= end.size() &&
           text.compare(text.size() - end.size(), end.size(), end) == 0;
}

/// A text for gnuplot in single quotes.
std::string quoted(std::string_view text) {
    std::string out = "'";
    for (const char c : text) {
        if (c == '\'')
            out += '\'';
        out += c == '\n' || c == '\r' ? ' ' : c;
    }
    return out + "'";
}

std::string release_label_of(const rig::Decide& decide) {
    return "lets go at " + rig::to_text(decide.spec.release, 0);
}

std::string label_of(const rig::Decide& decide) {
    return fmt::format("{} {} {}", decide.name, decide.spec.side == Side::below ? "below" : "above",
                       rig::to_text(decide.spec.threshold, 0));
}

/// A script that is removed again.
class TemporaryScript {
  public:
    explicit TemporaryScript(const std::string& text) {
        const char* directory = std::getenv("TMPDIR");
        path_ = fmt::format("{}/zorilla-figure-XXXXXX", directory != nullptr ? directory : "/tmp");
        const int file = mkstemp(path_.data());
        std::FILE* stream = file < 0 ? nullptr : fdopen(file, "wb");
        if (stream == nullptr)
            throw InputError(fmt::format("{}: cannot be written", path_));
        const bool written = std::fwrite(text.data(), 1, text.size(), stream) == text.size();
        if (std::fclose(stream) != 0 || !written) {
            std::remove(path_.c_str());
            throw InputError(fmt::format("{}: cannot be written; is the disk full?", path_));
        }
    }
    ~TemporaryScript() { std::remove(path_.c_str()); }
    TemporaryScript(const TemporaryScript&) = delete;
    TemporaryScript& operator=(const TemporaryScript&) = delete;

    const std::string& path() const { return path_; }

  private:
    std::string path_;
};

std::string output_of_gnuplot(const std::string& script) {
    const TemporaryScript file(script);
    std::string shell_path;
    for (const char c : file.path())
        shell_path += c == '\'' ? std::string("'\\''") : std::string(1, c);
    std::FILE* pipe = popen(fmt::format("gnuplot '{}'", shell_path).c_str(), "r");
    if (pipe == nullptr)
        throw InputError("gnuplot could not be started");
    std::string image;
    char chunk[1 << 16];
    size_t got = 0;
    while ((got = std::fread(chunk, 1, sizeof chunk, pipe)) > 0)
        image.append(chunk, got);
    const int status = pclose(pipe);
    if (WIFEXITED(status) && WEXITSTATUS(status) == 127)
        throw InputError("figures are drawn by gnuplot, which is not installed; install the "
                         "package gnuplot-nox");
    if (status != 0 || image.empty())
        throw InputError("gnuplot could not draw the figure; its own message is above");
    return image;
}

} // namespace

Figure::Figure(std::string path, const rig::Rig& rig) : path_(std::move(path)), rig_(rig) {
    if (ends_with(path_, ".png"))
        terminal_ = "pngcairo size 1280,800 font 'DejaVu Sans,11'";
    else if (ends_with(path_, ".svg"))
        terminal_ = "svg size 1280,800 font 'DejaVu Sans,13'";
    else
        throw InputError(fmt::format("{}: a figure's name must end in .png or .svg", path_));
}

Figure::Slice Figure::empty_slice() const {
    return {std::vector<Span>(rig_.senses.size()), std::vector<bool>(rig_.drives.size())};
}

void Figure::widen() {
    width_ *= 2;
    for (size_t i = 0; i + 1 < slices_.size(); i += 2) {
        Slice& into = slices_[i];
        const Slice& from = slices_[i + 1];
        for (size_t s = 0; s < into.senses.size(); ++s) {
            into.senses[s].lowest = std::min(into.senses[s].lowest, from.senses[s].lowest);
            into.senses[s].highest = std::max(into.senses[s].highest, from.senses[s].highest);
            if (from.senses[s].fault != Health::ok)
                into.senses[s].fault = from.senses[s].fault;
        }
        for (size_t d = 0; d < into.on.size(); ++d)
            into.on[d] = into.on[d] || from.on[d];
    }
    for (size_t i = 1; 2 * i < slices_.size(); ++i)
        slices_[i] = std::move(slices_[2 * i]);
    slices_.resize((slices_.size() + 1) / 2);
}

void Figure::add(int64_t now, const rig::RunningRig& running) {
    if (!begun_) {
        begun_ = true;
        begin_ = now;
    }
    end_ = now;
    while ((now - begin_) / width_ >= static_cast<int64_t>(most_slices))
        widen();
    const auto index = static_cast<size_t>((now - begin_) / width_);
    while (slices_.size() <= index)
        slices_.push_back(empty_slice());
    Slice& slice = slices_[index];
    for (size_t i = 0; i < slice.senses.size(); ++i) {
        const Reading<Temperature> reading = running.readings()[i];
        Span& span = slice.senses[i];
        if (reading.ok()) {
            const int32_t value = reading.value_or({}).thousandths();
            span.lowest = std::min(span.lowest, value);
            span.highest = std::max(span.highest, value);
        } else {
            span.fault = reading.health();
        }
    }
    for (size_t i = 0; i < slice.on.size(); ++i)
        if (running.switchings()[i].value == on)
            slice.on[i] = true;
}

Figure::Axis Figure::axis() const {
    struct Unit {
        const char* name;
        double milliseconds;
    };
    constexpr Unit units[] = {{"h", 3.6e6}, {"min", 6e4}, {"s", 1e3}, {"ms", 1}};
    const auto span = static_cast<double>(std::max<int64_t>(end_ - begin_, 1));
    const Unit* unit = units;
    while (unit->milliseconds > 1 && span < 2 * unit->milliseconds)
        ++unit;
    if (span > 240 * 3.6e6)
        return {"d", static_cast<double>(width_) / 8.64e7, span / 8.64e7, 0};
    const double length = span / unit->milliseconds;
    const int tics = unit != units ? 0 : length > 120 ? 24 : length > 48 ? 12 : length > 12 ? 3 : 0;
    return {unit->name, static_cast<double>(width_) / unit->milliseconds, length, tics};
}

/// The slices with gaps closed: one without a row goes on with what was before it, since nothing
/// changes between rows.
std::vector<Figure::Slice> Figure::filled() const {
    std::vector<Slice> out = slices_;
    for (size_t i = 1; i < out.size(); ++i) {
        const bool empty =
            std::all_of(out[i].senses.begin(), out[i].senses.end(), [](const Span& span) {
                return span.fault == Health::ok && span.lowest > span.highest;
            });
        if (empty)
            out[i] = out[i - 1];
    }
    return out;
}

std::vector<Figure::Fault> Figure::faults(const std::vector<Slice>& slices) {
    std::vector<Fault> out;
    const size_t senses = slices.empty() ? 0 : slices.front().senses.size();
    for (size_t s = 0; s < senses; ++s) {
        Health before = Health::ok;
        for (size_t i = 0; i < slices.size(); ++i) {
            const Health health = slices[i].senses[s].fault;
            if (health != Health::ok && health != before)
                out.push_back({s, i, i, health});
            if (health != Health::ok)
                out.back().end = i + 1;
            before = health;
        }
    }
    return out;
}

/// What the axis of temperature has to show, in degrees: all readings and all points of decisions.
std::pair<double, double> Figure::reach() const {
    int32_t lowest = INT32_MAX, highest = INT32_MIN;
    const auto include = [&](int32_t thousandths) {
        lowest = std::min(lowest, thousandths);
        highest = std::max(highest, thousandths);
    };
    for (const Slice& slice : slices_)
        for (const Span& span : slice.senses)
            if (span.lowest <= span.highest) {
                include(span.lowest);
                include(span.highest);
            }
    for (const rig::Decide& decide : rig_.decides) {
        include(decide.spec.threshold.thousandths());
        include(decide.spec.release.thousandths());
    }
    if (lowest > highest)
        return {0, 1};
    const double margin = std::max(0.06 * (highest / 1000.0 - lowest / 1000.0), 0.5);
    return {lowest / 1000.0 - margin, highest / 1000.0 + margin};
}

std::string Figure::readings_panel(const Axis& axis, const std::vector<Fault>& faults) const {
    std::string out;
    const auto [bottom, top] = reach();
    out += fmt::format("set yrange [{:.9g}:{:.9g}]\n", bottom, top);
    int object = 1;
    int label = 1;
    const auto write_label = [&](const std::string& text, const std::string& place) {
        out += fmt::format("set label {} {} at {} font ',10' textcolor rgb '{}' noenhanced front\n",
                           label++, quoted(text), place, ink);
    };
    for (const rig::Decide& decide : rig_.decides) {
        const double threshold = decide.spec.threshold.thousandths() / 1000.0;
        const double release = decide.spec.release.thousandths() / 1000.0;
        out += fmt::format("set object {} rectangle from graph 0, first {} to graph 1, first {} "
                           "fc rgb '{}' fs solid noborder behind\n",
                           object++, threshold, release, band_fill);
        out += fmt::format("set arrow from graph 0, first {0} to graph 1, first {0} nohead lw 1.5 "
                           "lc rgb '{1}'\n",
                           threshold, ink);
        out += fmt::format("set arrow from graph 0, first {0} to graph 1, first {0} nohead dt 2 "
                           "lc rgb '{1}'\n",
                           release, ink);
        write_label(label_of(decide), fmt::format("graph 1.01, first {} left", threshold));
        write_label(release_label_of(decide), fmt::format("graph 1.01, first {} left", release));
    }
    double free_from = -1; // where the next fault's name has room
    for (const Fault& fault : faults) {
        const double begin = static_cast<double>(fault.begin) * axis.per_slice;
        const double end = static_cast<double>(fault.end) * axis.per_slice;
        out += fmt::format("set object {} rectangle from first {:.9g}, graph 0 to first {:.9g}, "
                           "graph 1 fc rgb '{}' fs pattern 4 noborder behind\n",
                           object++, begin, end, fault_fill);
        if (begin < free_from)
            continue;
        free_from = begin + axis.span * 0.16;
        write_label(
            fmt::format("{}: {}", rig_.senses[fault.sense].name, rig::to_text(fault.health)),
            fmt::format("first {:.9g}, graph 1.025 left", begin));
    }
    // A line out of sight keeps gnuplot content where there was no healthy reading at all.
    out += fmt::format("plot {:.9g} with lines lc rgb 'white' notitle", bottom - 1);
    for (size_t i = 0; i < rig_.senses.size(); ++i) {
        const size_t column = 2 + 3 * i;
        out += fmt::format(", $replay using 1:{}:{} with filledcurves fc rgb '{}' fs solid 0.3 "
                           "noborder notitle, $replay using 1:{} with lines lw 1.6 dt {} lc rgb "
                           "'{}' title {} noenhanced",
                           column + 1, column + 2, sense_colours[i % 4], column, i % 4 + 1,
                           sense_colours[i % 4], quoted(rig_.senses[i].name));
    }
    return out + "\n";
}

std::string Figure::outputs_panel() const {
    std::string tics;
    std::string plots;
    const size_t count = rig_.drives.size();
    for (size_t i = 0; i < count; ++i) {
        const size_t base = count - 1 - i; // the first output on top
        const size_t column = 2 + 3 * rig_.senses.size() + i;
        tics += fmt::format("{}{} {}.35", i == 0 ? "" : ", ", quoted(rig_.drives[i].name), base);
        plots += fmt::format("{}$replay using 1:({}):({}+0.7*${}) with filledcurves fc rgb '{}' fs "
                             "solid noborder notitle, {} with lines lc rgb '{}' lw 1 notitle",
                             i == 0 ? "" : ", ", base, base, column, lane_fill, base, faint);
    }
    return fmt::format("set ytics ({}) noenhanced scale 0\nset yrange [-0.15:{}]\nplot {}\n",
                       tics.empty() ? "'' 0" : tics, std::max<size_t>(count, 1),
                       plots.empty() ? std::string("NaN notitle") : plots);
}

std::string Figure::script(const std::string& title) const {
    const Axis time = axis();
    const std::vector<Slice> slices = filled();
    std::string out =
        fmt::format("set terminal {}\nset encoding utf8\n$replay << END\n", terminal_);
    for (size_t i = 0; i < slices.size(); ++i) {
        out += fmt::format("{:.9g}", static_cast<double>(i) * time.per_slice);
        for (const Span& span : slices[i].senses) {
            if (span.lowest <= span.highest)
                out += fmt::format(" {:.3f} {:.3f} {:.3f}",
                                   (span.lowest / 2 + span.highest / 2) / 1000.0,
                                   span.lowest / 1000.0, span.highest / 1000.0);
            else
                out += " NaN NaN NaN";
        }
        for (const bool is_on : slices[i].on)
            out += is_on ? " 1" : " 0";
        out += '\n';
    }
    const double lanes_top = std::min(0.14 + 0.055 * static_cast<double>(rig_.drives.size()), 0.45);
    size_t longest_label = 16;
    for (const rig::Decide& decide : rig_.decides)
        longest_label =
            std::max({longest_label, label_of(decide).size(), release_label_of(decide).size()});
    const double right = std::max(0.97 - 0.0062 * static_cast<double>(longest_label), 0.6);
    out += fmt::format(
        // A little wider than the trace, so that a last tic that is a sample short of it shows.
        "END\nset multiplot\nset xrange [0:{:.9g}]\nset lmargin at screen 0.12\n"
        "set rmargin at screen {:.3f}\nset border 3 lc rgb '{}'\n"
        "set tics nomirror out textcolor rgb '{}'\nset grid xtics ytics lc rgb '#e3e8ec' lt 1\n"
        "set xtics {}\nset mxtics 4\nset key at screen {:.3f},0.985 right top horizontal samplen "
        "2\n",
        time.span * 1.0005, right, faint, ink, time.tics > 0 ? std::to_string(time.tics) : "auto",
        right);
    out += fmt::format("set label 1000 {} at screen 0.12,0.965 left font ',15' textcolor rgb '{}' "
                       "noenhanced\nset tmargin at screen 0.90\nset bmargin at screen {:.3f}\n"
                       "set format x ''\nset ylabel 'temperature (degC)' textcolor rgb '{}'\n",
                       quoted(title), ink, lanes_top + 0.03, ink);
    out += readings_panel(time, faults(slices));
    out += fmt::format("unset label\nunset arrow\nunset object\nset tmargin at screen {:.3f}\n"
                       "set bmargin at screen 0.10\nset format x '%g'\nset xlabel 'time since the "
                       "trace began ({})' textcolor rgb '{}'\nset ylabel ' '\nset grid xtics "
                       "noytics\n",
                       lanes_top, time.unit, ink);
    return out + outputs_panel() + "unset multiplot\n";
}

void Figure::write(const std::string& title) const {
    if (!begun_)
        throw InputError(fmt::format("{}: there is nothing to draw", path_));
    rig::OutputFile file(path_);
    file.write(output_of_gnuplot(script(title)));
    file.commit();
}

} // namespace zorilla::bench
