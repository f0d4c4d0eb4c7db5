// SPDX-License-Identifier: MIT
#include "bench/figure/figure.hpp"

#include "bench/plot.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>
#include <tuple>

namespace zorilla::bench {

namespace {

using rig::InputError;

std::string shown(const rig::Rig& rig, const rig::Decide& decide, rig::AnyQuantity point) {
    return rig::to_text(point.thousandths(), rig.sources[decide.of].kind);
}
std::string release_label_of(const rig::Rig& rig, const rig::Decide& decide,
                             const rig::DecidePoint& point) {
    return "lets go at " + shown(rig, decide, point.release);
}
std::string label_of(const rig::Rig& rig, const rig::Decide& decide,
                     const rig::DecidePoint& point) {
    return fmt::format("{} {}", point.words, shown(rig, decide, point.at));
}

} // namespace

bool Figure::Panel::logarithmic() const { return kind == rig::Kind::light; }

double Figure::Panel::height_of(double value) const {
    return logarithmic() ? std::log(value / bottom) / std::log(top / bottom)
                         : (value - bottom) / (top - bottom);
}

/// What the axis of a panel has to show: all readings and all points of decisions.
void Figure::set_reach(Panel& panel) const {
    const auto has = [&panel](size_t source) {
        return std::find(panel.sources.begin(), panel.sources.end(), source) != panel.sources.end();
    };
    double lowest = HUGE_VAL, highest = -HUGE_VAL;
    const auto include = [&](int32_t thousandths) {
        const double value = rig::shown_value(thousandths, panel.kind);
        lowest = std::min(lowest, value);
        highest = std::max(highest, value);
    };
    for (const Slice& slice : slices_)
        for (const size_t source : panel.sources)
            if (slice.sources[source].lowest <= slice.sources[source].highest) {
                include(slice.sources[source].lowest);
                include(slice.sources[source].highest);
            }
    for (const rig::Decide& decide : rig_.decides)
        if (decide.judges && has(decide.of))
            for (const rig::DecidePoint& point : rig::points_of(decide)) {
                include(point.at.thousandths());
                include(point.release.thousandths());
            }
    if (lowest > highest)
        return;
    if (panel.logarithmic()) {
        panel.bottom = std::max(lowest, 0.01) / 1.5;
        panel.top = std::max(highest, panel.bottom * 2) * 1.5;
        return;
    }
    const double margin = std::max(0.08 * (highest - lowest), 0.5);
    panel.bottom = lowest - margin;
    panel.top = highest + margin;
}

/// A panel for each kind of quantity, from top to bottom.
std::vector<Figure::Panel> Figure::panels() const {
    std::vector<Panel> out;
    for (size_t i = 0; i < rig_.sources.size(); ++i) {
        const rig::Kind kind = rig_.sources[i].kind;
        if (kind == rig::Kind::truth)
            continue;
        auto found =
            std::find_if(out.begin(), out.end(), [kind](const Panel& p) { return p.kind == kind; });
        if (found == out.end())
            found = out.insert(out.end(), Panel{kind, {}});
        found->sources.push_back(i);
    }
    for (Panel& panel : out)
        set_reach(panel);
    return out;
}

/// The lines, bands and names of the decisions about a panel's sources.
std::string Figure::decision_lines(const Panel& panel) const {
    std::string out;
    struct Name {
        double height;
        std::string text;
    };
    std::vector<Name> names;
    int object = 1;
    for (const rig::Decide& decide : rig_.decides) {
        if (std::find(panel.sources.begin(), panel.sources.end(), decide.of) == panel.sources.end())
            continue;
        if (!decide.judges)
            continue;
        for (const rig::DecidePoint& point : rig::points_of(decide)) {
            const double threshold = rig::shown_value(point.at.thousandths(), panel.kind);
            const double release = rig::shown_value(point.release.thousandths(), panel.kind);
            out += fmt::format("set object {} rectangle from graph 0, first {} to graph 1, first "
                               "{} fc rgb '{}' fs solid noborder behind\n",
                               object++, threshold, release, plot::band_fill);
            out += fmt::format("set arrow from graph 0, first {0} to graph 1, first {0} nohead lw "
                               "1.5 lc rgb '{1}'\n",
                               threshold, plot::ink);
            out += fmt::format("set arrow from graph 0, first {0} to graph 1, first {0} nohead dt "
                               "2 lc rgb '{1}'\n",
                               release, plot::ink);
            names.push_back({panel.height_of(threshold), label_of(rig_, decide, point)});
            const Name release_name{panel.height_of(release),
                                    release_label_of(rig_, decide, point)};
            // Stages that let go at one point say so once.
            const bool said = std::any_of(names.begin(), names.end(), [&](const Name& name) {
                return name.text == release_name.text;
            });
            if (!said)
                names.push_back(release_name);
        }
    }
    const double line = 15.0 / 800 / (panel.screen_top - panel.screen_bottom);
    // Where they would not fit beside the panel, a point and its release share a line.
    if (static_cast<double>(names.size()) * line > 1.2) {
        names.clear();
        for (const rig::Decide& decide : rig_.decides)
            if (decide.judges && std::find(panel.sources.begin(), panel.sources.end(), decide.of) !=
                                     panel.sources.end())
                for (const rig::DecidePoint& point : rig::points_of(decide))
                    names.push_back(
                        {panel.height_of(rig::shown_value(point.at.thousandths(), panel.kind)),
                         fmt::format("{}, off {}", label_of(rig_, decide, point),
                                     shown(rig_, decide, point.release))});
    }
    // From the bottom up, each at least a line above the one before.
    std::sort(names.begin(), names.end(), [](const Name& a, const Name& b) {
        return std::tie(a.height, a.text) < std::tie(b.height, b.text);
    });
    std::vector<double> heights;
    for (const Name& name : names)
        heights.push_back(std::max(name.height, heights.empty() ? -0.1 : heights.back() + line));
    // From the top down again, so that none stands beside the panel above.
    double most = 1.02;
    for (size_t i = heights.size(); i-- > 0; most = heights[i] - line)
        heights[i] = std::min(heights[i], most);
    for (size_t i = 0; i < names.size(); ++i)
        out += plot::label(static_cast<int>(i) + 1, names[i].text,
                           fmt::format("graph 1.01, graph {:.4f} left", heights[i]));
    return out;
}

std::string Figure::readings_panel(const Panel& panel, const Axis& axis,
                                   const std::vector<Fault>& faults) const {
    const double height = panel.screen_top - panel.screen_bottom;
    const bool tall = height > 0.25;
    const int tics = tall ? 7 : 4;
    // The names of faults stand above the panel, as its key does: on the other side, if possible.
    const bool key_left = std::all_of(faults.begin(), faults.end(), [&](const Fault& fault) {
        return std::find(panel.sources.begin(), panel.sources.end(), fault.source) ==
                   panel.sources.end() ||
               static_cast<double>(fault.begin) * axis.per_slice > axis.span * 0.45;
    });
    std::string out = fmt::format(
        "set tmargin at screen {:.4f}\nset bmargin at screen {:.4f}\nset yrange [{:.9g}:{:.9g}]\n"
        "{} logscale y\nset ytics {}\nset ylabel {} textcolor rgb '{}' noenhanced\n"
        "set key at graph {}, graph 1 {} bottom horizontal samplen 2 height 0\n",
        panel.screen_top, panel.screen_bottom, panel.bottom, panel.top,
        panel.logarithmic() ? "set" : "unset",
        panel.logarithmic() ? "10"
                            : fmt::format("{:.9g}", plot::step_of(panel.top - panel.bottom, tics)),
        plot::quoted(
            tall ? fmt::format("{} ({})", rig::quantity_of(panel.kind), rig::unit_of(panel.kind))
                 : rig::unit_of(panel.kind)),
        plot::ink, key_left ? 0 : 1, key_left ? "left Left reverse" : "right Right noreverse");
    out += decision_lines(panel);
    int object = 500;
    int label = 500;
    double free_from = -1; // where the next fault's name has room
    std::set<std::string> named;
    for (const Fault& fault : faults) {
        if (std::find(panel.sources.begin(), panel.sources.end(), fault.source) ==
                panel.sources.end() ||
            rig_.sense_of(fault.source) == nullptr)
            continue;
        const double begin = static_cast<double>(fault.begin) * axis.per_slice;
        const double end = static_cast<double>(fault.end) * axis.per_slice;
        out += fmt::format("set object {} rectangle from first {:.9g}, graph 0 to first {:.9g}, "
                           "graph 1 fc rgb '{}' fs pattern 4 noborder behind\n",
                           object++, begin, end, plot::fault_fill);
        const std::string text =
            fmt::format("{}: {}", rig_.sources[fault.source].name, rig::to_text(fault.health));
        // Each fault is named once, where there is room; near the right end to the left of it.
        const double wide = axis.span * 0.0085 * static_cast<double>(text.size());
        const bool at_end = begin + wide > axis.span;
        const double from = at_end ? std::max(end - wide, 0.0) : begin;
        if (from < free_from || !named.insert(text).second)
            continue;
        free_from = from + wide;
        out += plot::label(label++, text,
                           fmt::format("first {:.9g}, graph 1 {} offset 0,0.5",
                                       at_end ? end : begin, at_end ? "right" : "left"));
    }
    // A line out of sight keeps gnuplot content where there was no healthy reading at all.
    out += fmt::format("plot {:.9g} with lines lc rgb 'white' notitle",
                       panel.bottom - std::fabs(panel.bottom) / 2 - 1);
    for (size_t i = 0; i < panel.sources.size(); ++i) {
        out += fmt::format(", $s{0} using 1:3:4 with filledcurves fc rgb '{1}' fs solid 0.3 "
                           "noborder notitle, $s{0} using 1:2 with lines lw 1.6 dt {2} lc rgb "
                           "'{1}' title {3} noenhanced",
                           panel.sources[i], plot::colours[i % plot::colour_count], i % 4 + 1,
                           plot::quoted(rig_.sources[panel.sources[i]].name));
    }
    return out + "\nunset label\nunset arrow\nunset object\n";
}

/// What goes up and down in a lane of its own: machines, outputs, and each sensor that is yes or
/// no.
std::vector<Figure::Lane> Figure::lanes() const {
    std::vector<Lane> out;
    for (size_t i = 0; i < rig_.sources.size(); ++i)
        if (rig_.sources[i].kind == rig::Kind::truth)
            out.push_back({rig_.sources[i].name, Lane::Of::source, i});
    for (size_t i = 0; i < rig_.machines.size() && !pieces_; ++i)
        out.push_back({rig_.machines[i].name, Lane::Of::machine, i});
    for (size_t i = 0; i < rig_.drives.size(); ++i)
        out.push_back({rig_.drives[i].name,
                       rig_.drives[i].kind() == rig::ValueKind::colour && !pieces_
                           ? Lane::Of::colour
                           : Lane::Of::drive,
                       i});
    return out;
}

/// A lane of stretches: the colours that a light had, or the states of a machine, with their names
/// where there is room.
std::string Figure::stretches(const Lane& lane, size_t base, const std::vector<Slice>& slices,
                              const Axis& axis, int& object) const {
    std::string out;
    const auto is = [&](size_t i) {
        return lane.of == Lane::Of::machine ? slices[i].state[lane.index]
                                            : slices[i].colour[lane.index];
    };
    for (size_t begin = 0, end = 0; begin < slices.size(); begin = end) {
        while (end < slices.size() && is(end) == is(begin))
            ++end;
        const double from = static_cast<double>(begin) * axis.per_slice;
        const double to = std::min(static_cast<double>(end) * axis.per_slice, axis.span);
        if (lane.of == Lane::Of::colour) {
            if (is(begin) == 0)
                continue;
            // As bright as it can be in that colour, or a dim light would be black on paper.
            const rig::AnyValue value = [&] {
                const auto part = [&](int shift) {
                    return static_cast<uint8_t>(is(begin) >> shift);
                };
                return rig::AnyValue(Colour{Duty::from_255ths(part(16)), Duty::from_255ths(part(8)),
                                            Duty::from_255ths(part(0))});
            }();
            const int most = std::max<int>(value.share(rig::ValueKind::colour), 1);
            const Colour c = value.colour();
            out += fmt::format("set object {} rectangle from {:.9g}, {} to {:.9g}, {}.{} fc rgb "
                               "'#{:02x}{:02x}{:02x}' fs solid noborder\n",
                               object++, from, base, to, base, most > 127 ? 7 : 4,
                               c.red.of_255() * 255 / most, c.green.of_255() * 255 / most,
                               c.blue.of_255() * 255 / most);
            continue;
        }
        const rig::RigMachine& machine = rig_.machines[lane.index];
        const bool starts = is(begin) == machine.start;
        out += fmt::format("set object {} rectangle from {:.9g}, {} to {:.9g}, {}.7 fc rgb '{}' fs "
                           "solid {} border lc rgb '{}'\n",
                           object++, from, base, to, base, plot::faint, starts ? 0.15 : 0.5,
                           plot::faint);
        const std::string& name = machine.states[is(begin)];
        if (to - from > axis.span * 0.01 * static_cast<double>(name.size()))
            out += plot::label(object++, name,
                               fmt::format("{:.9g}, {}.35 center", (from + to) / 2, base));
    }
    return out;
}

std::string Figure::lanes_panel(const std::vector<Slice>& slices, const Axis& axis) const {
    std::string tics, plots, drawn;
    const std::vector<Lane> all = lanes();
    const size_t count = all.size();
    int object = 2000;
    for (size_t i = 0; i < count; ++i) {
        const size_t base = count - 1 - i; // the first on top
        tics += fmt::format("{}{} {}.35", i == 0 ? "" : ", ", plot::quoted(all[i].name), base);
        plots += i == 0 ? "" : ", ";
        if (all[i].of == Lane::Of::source || all[i].of == Lane::Of::drive) {
            drawn += lane_data(all[i], base, slices, axis);
            plots += fmt::format(
                "$l{} using 1:2:3 with filledcurves fc rgb '{}' fs solid noborder notitle, ", base,
                all[i].of == Lane::Of::source ? plot::faint : plot::lane_fill);
        } else {
            drawn += stretches(all[i], base, slices, axis, object);
        }
        plots += fmt::format("{} with lines lc rgb '{}' lw 1 notitle", base, plot::faint);
    }
    return fmt::format("set ytics ({}) noenhanced scale 0\nset yrange [-0.15:{}]\n{}plot {}\n",
                       tics.empty() ? "'' 0" : tics, std::max<size_t>(count, 1), drawn,
                       plots.empty() ? std::string("NaN notitle") : plots);
}

/// Where a trace does not begin at zero, its tics are at the times that the timeline tells.
std::string Figure::tics_of(const Axis& time, bool named) {
    if (!(time.begin > 0))
        return time.tics > 0 ? std::to_string(time.tics) : "auto";
    double step = time.tics;
    if (time.tics == 0) {
        step = std::pow(10, std::floor(std::log10(time.span / 4)));
        step *= time.span / step > 40 ? 5 : time.span / step > 16 ? 2 : 1;
    }
    std::string out;
    for (double at = std::ceil(time.begin / step) * step; at <= time.begin + time.span * 1.0005;
         at += step)
        out += fmt::format("{}'{}' {:.9g}", out.empty() ? "(" : ", ",
                           named ? fmt::format("{:g}", at) : "", at - time.begin);
    return out.empty() ? "auto" : out + ")";
}

std::string Figure::script(const std::string& title) const {
    const Axis time = axis();
    const std::vector<Slice> slices = filled();
    std::string out = plot::beginning(terminal_, title) + "set samples 2\n";
    for (size_t i = 0; i < rig_.sources.size(); ++i)
        if (rig_.sources[i].kind != rig::Kind::truth)
            out += source_data(i, slices, time);
    const double lanes_top =
        panels().empty() ? 0.93
                         : std::min(0.13 + 0.034 * static_cast<double>(lanes().size()), 0.46);
    const size_t all_panels = panels().size();
    size_t longest_label = 16;
    for (const rig::Decide& decide : rig_.decides)
        for (const rig::DecidePoint& point : rig::points_of(decide))
            longest_label = std::max({longest_label, label_of(rig_, decide, point).size(),
                                      release_label_of(rig_, decide, point).size()});
    longest_label = std::min<size_t>(longest_label + (all_panels > 4 ? 5 : 0), 48);
    const double right = std::max(0.97 - 0.0062 * static_cast<double>(longest_label), 0.6);
    out += fmt::format(
        // A little wider than the trace, so that a last tic that is a sample short of it shows.
        "set multiplot\nset xrange [0:{:.9g}]\nset lmargin at screen 0.12\n"
        "set rmargin at screen {:.3f}\nset xtics {}\nset mxtics 4\nset format x ''\n",
        time.span * 1.0005, right, tics_of(time, false));
    std::vector<Panel> all = panels();
    const double bottom = lanes_top + 0.03, gap = 0.032;
    const double height = (0.93 - bottom) / static_cast<double>(std::max<size_t>(all.size(), 1));
    const std::vector<Fault> found = faults(slices);
    for (size_t i = 0; i < all.size(); ++i) {
        all[i].screen_top = 0.93 - static_cast<double>(i) * height;
        all[i].screen_bottom = all[i].screen_top - height + (i + 1 < all.size() ? gap : 0);
        out += readings_panel(all[i], time, found);
    }
    out += fmt::format("unset logscale y\nset tmargin at screen {:.3f}\n"
                       "set bmargin at screen 0.10\nset xtics {}\nset format x '%g'\nset xlabel "
                       "'time {}({})' textcolor rgb '{}'\nset ylabel ' '\nset grid xtics "
                       "noytics\n",
                       lanes_top, tics_of(time, true), time.begin > 0 ? "" : "since the beginning ",
                       time.unit, plot::ink);
    return out + lanes_panel(slices, time) + "unset multiplot\n";
}

void Figure::write(const std::string& title) {
    if (!begun_)
        throw InputError(fmt::format("{}: there is nothing to draw", path_));
    pen_.draw(path_, script(title));
}

} // namespace zorilla::bench
