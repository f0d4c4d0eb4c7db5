// SPDX-License-Identifier: MIT
// Gathering a replay in slices of time.
#include "bench/figure/figure.hpp"

#include "bench/plot.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::bench {

Figure::Figure(std::string path, const rig::Rig& rig)
    : path_(std::move(path)), terminal_(plot::terminal_of(path_)), pen_(terminal_), rig_(rig),
      shown_(rig.drives.size()) {
    rig::check_output(path_);
}

Figure::Slice Figure::empty_slice() const {
    return {std::vector<Span>(rig_.sources.size()), std::vector<uint8_t>(rig_.drives.size()),
            std::vector<uint32_t>(rig_.drives.size()), std::vector<uint8_t>(rig_.machines.size())};
}

void Figure::widen() {
    width_ *= 2;
    for (size_t i = 0; i + 1 < slices_.size(); i += 2) {
        Slice& into = slices_[i];
        const Slice& from = slices_[i + 1];
        for (size_t s = 0; s < into.sources.size(); ++s) {
            into.sources[s].lowest = std::min(into.sources[s].lowest, from.sources[s].lowest);
            into.sources[s].highest = std::max(into.sources[s].highest, from.sources[s].highest);
            if (from.sources[s].fault != Health::ok)
                into.sources[s].fault = from.sources[s].fault;
        }
        for (size_t d = 0; d < into.share.size(); ++d)
            into.share[d] = std::max(into.share[d], from.share[d]);
        for (size_t d = 0; d < into.colour.size(); ++d)
            if (from.colour[d] != 0)
                into.colour[d] = from.colour[d];
        into.state = from.state;
    }
    for (size_t i = 1; 2 * i < slices_.size(); ++i)
        slices_[i] = std::move(slices_[2 * i]);
    slices_.resize((slices_.size() + 1) / 2);
}

/// How much of all that it could be an output is, in 255ths.
uint8_t Figure::share_of(const rig::Drive& drive, const rig::Driven& driven) {
    if (drive.kind() == rig::ValueKind::stage)
        return static_cast<uint8_t>(255 * driven.value.stage().number() / drive.pins.size());
    return driven.value.share(drive.kind());
}

/// Sees to it that the last slice is the one that `now` lies in. \return  whether it is empty
bool Figure::begin_slice(int64_t now) {
    while ((now - begin_) / width_ >= static_cast<int64_t>(most_slices))
        widen();
    const auto index = static_cast<size_t>((now - begin_) / width_);
    const bool is_new = slices_.size() <= index;
    while (slices_.size() <= index)
        slices_.push_back(empty_slice());
    slice_end_ = begin_ + static_cast<int64_t>(index + 1) * width_;
    return is_new;
}

void Figure::add(int64_t now, const rig::RunningRig& running) {
    if (!begun_) {
        begun_ = true;
        begin_ = now;
    }
    end_ = now;
    const bool is_new = now >= slice_end_ && begin_slice(now);
    Slice& slice = slices_.back();
    Span* span = slice.sources.data();
    for (const rig::AnyReading& reading : running.readings()) {
        const int32_t value = reading.value_or({}).thousandths();
        if (!reading.ok())
            span->fault = reading.health();
        else if (value < span->lowest || value > span->highest)
            span->include(value);
        ++span;
    }
    // Else an output that is what it was, and a machine, stands there already.
    if (is_new || running.moved())
        for (size_t i = 0; i < shown_.size(); ++i)
            if (is_new || running.drivens()[i].value.bits() != shown_[i])
                show(i, running.drivens()[i]);
    if (is_new || running.changed())
        for (size_t i = 0; i < slice.state.size(); ++i)
            slice.state[i] = running.state(i);
}

void Figure::show(size_t drive, const rig::Driven& driven) {
    Slice& slice = slices_.back();
    const uint32_t bits = shown_[drive] = driven.value.bits();
    slice.share[drive] = std::max(slice.share[drive], share_of(rig_.drives[drive], driven));
    if (rig_.drives[drive].kind() == rig::ValueKind::colour && bits != 0)
        slice.colour[drive] = bits;
}

void Figure::add_piece(int64_t length, const std::vector<Piece>& parts) {
    begun_ = pieces_ = true;
    width_ = length;
    end_ += length;
    Slice& slice = slices_.emplace_back(empty_slice());
    for (size_t i = 0; i < slice.sources.size(); ++i)
        if (parts[i].known)
            slice.sources[i] = {parts[i].lowest, parts[i].highest, Health::ok};
    for (size_t i = 0; i < slice.share.size(); ++i)
        slice.share[i] = static_cast<uint8_t>(255 * parts[slice.sources.size() + i].on + 0.5);
}

Figure::Axis Figure::axis() const {
    struct Unit {
        const char* name;
        double milliseconds;
    };
    constexpr Unit units[] = {{"h", 3.6e6}, {"min", 6e4}, {"s", 1e3}, {"ms", 1}};
    const auto span = static_cast<double>(std::max<int64_t>(end_ - begin_, 1));
    // A first row a moment later than zero is at zero as far as a picture shows.
    const double begin = static_cast<double>(begin_) * 100 < span ? 0 : static_cast<double>(begin_);
    const Unit* unit = units;
    while (unit->milliseconds > 1 && span < 2 * unit->milliseconds)
        ++unit;
    if (span > 240 * 3.6e6)
        return {"d", static_cast<double>(width_) / 8.64e7, span / 8.64e7, begin / 8.64e7, 0};
    const double length = span / unit->milliseconds;
    const int tics = unit != units ? 0 : length > 120 ? 24 : length > 48 ? 12 : length > 12 ? 3 : 0;
    return {unit->name, static_cast<double>(width_) / unit->milliseconds, length,
            begin / unit->milliseconds, tics};
}

/// The slices with gaps closed: one without a row goes on with what was before it, since nothing
/// changes between rows.
std::vector<Figure::Slice> Figure::filled() const {
    std::vector<Slice> out = slices_;
    for (size_t i = 1; !pieces_ && i < out.size(); ++i) {
        const bool empty =
            std::all_of(out[i].sources.begin(), out[i].sources.end(), [](const Span& span) {
                return span.fault == Health::ok && span.lowest > span.highest;
            });
        if (empty)
            out[i] = out[i - 1];
    }
    return out;
}

std::vector<Figure::Fault> Figure::faults(const std::vector<Slice>& slices) {
    std::vector<Fault> out;
    const size_t sources = slices.empty() ? 0 : slices.front().sources.size();
    for (size_t s = 0; s < sources; ++s) {
        Health before = Health::ok;
        for (size_t i = 0; i < slices.size(); ++i) {
            const Health health = slices[i].sources[s].fault;
            if (health != Health::ok && health != before)
                out.push_back({s, i, i, health});
            if (health != Health::ok)
                out.back().end = i + 1;
            before = health;
        }
    }
    return out;
}

/// Lines of data under a name of their own, which gnuplot reads quickly. What goes on as it is
/// needs no line but its first and its last. \param steps  whether it changes at once
template <class Line>
static std::string data(const std::string& name, size_t count, double per_line, bool steps,
                        Line line) {
    std::string out = fmt::format("${} << END\n", name), last, text;
    bool left_out = false;
    const auto add = [&](size_t i) {
        out += fmt::format("{:.7g}{}\n", static_cast<double>(i) * per_line, last);
    };
    for (size_t i = 0; i < count; ++i) {
        text = line(i);
        const bool same = text == last;
        if (!same && i > 0 && (left_out || steps))
            add(steps ? i : i - 1);
        last = std::move(text);
        if (!same)
            add(i);
        left_out = same;
    }
    if (left_out)
        add(count - 1);
    return out + "END\n";
}

/// Time, middle, lowest and highest: all of them, since gnuplot takes three calls of the system for
/// each number that it works out.
std::string Figure::source_data(size_t source, const std::vector<Slice>& slices,
                                const Axis& time) const {
    const rig::Kind kind = rig_.sources[source].kind;
    return data(fmt::format("s{}", source), slices.size(), time.per_slice, false, [&](size_t i) {
        const Span& span = slices[i].sources[source];
        const double low = rig::shown_value(span.lowest, kind);
        const double high = rig::shown_value(span.highest, kind);
        return span.lowest <= span.highest
                   ? fmt::format(" {:.3f} {:.3f} {:.3f}", (low + high) / 2, low, high)
                   : std::string(" NaN NaN NaN");
    });
}

/// Time, and from where to where a lane is filled, by how much of all that it could be it is.
std::string Figure::lane_data(const Lane& lane, size_t base, const std::vector<Slice>& slices,
                              const Axis& time) const {
    return data(fmt::format("l{}", base), slices.size(), time.per_slice, true, [&](size_t i) {
        const Slice& slice = slices[i];
        if (lane.of == Lane::Of::drive)
            return fmt::format(" {} {:.4g}", base,
                               static_cast<double>(base) + 0.7 * slice.share[lane.index] / 255);
        const Span& span = slice.sources[lane.index];
        return span.lowest > span.highest ? std::string(" NaN NaN")
                                          : fmt::format(" {} {}", base,
                                                        span.highest > 0 ? fmt::format("{}.7", base)
                                                                         : std::to_string(base));
    });
}

} // namespace zorilla::bench
