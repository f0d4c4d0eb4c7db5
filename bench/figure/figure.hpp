// SPDX-License-Identifier: MIT
/// \file
/// The figure of a replay: readings with their thresholds, and what the outputs did.
#pragma once

#include "bench/plot.hpp"
#include "rig/run/running_rig.hpp"

#include <algorithm>
#include <cstdint>
#include <string>
#include <utility>
#include <vector>

namespace zorilla::bench {

/// Gathers a replay of any length in a fixed number of slices of time, then draws it with gnuplot.
class Figure {
  public:
    /// \param path  ends in .png or .svg  \throws rig::InputError  if it does not
    Figure(std::string path, const rig::Rig& rig);

    /// To be called after every pass; `now` in milliseconds, never going backwards.
    void add(int64_t now, const rig::RunningRig& running);

    /// What a part was in a piece of time.
    struct Piece {
        bool known = false;
        int32_t lowest = 0, highest = 0; ///< of a source
        double on = 0;                   ///< of an output, for how much of it
    };
    /// Instead of passes, where those are not kept: pieces of so many milliseconds, one after the
    /// other. \param parts  each source, then each output. What states machines were in, and in
    /// which colours lights were, is not known from that, and not drawn.
    void add_piece(int64_t length, const std::vector<Piece>& parts);

    /// Draws the figure, 1280 x 800 points. \throws rig::InputError  if gnuplot is not there, or
    ///     the file cannot be written
    void write(const std::string& title);

  private:
    /// What happened to one source in one slice.
    struct Span {
        int32_t lowest = INT32_MAX;
        int32_t highest = INT32_MIN;
        Health fault = Health::ok; ///< the last one, if any

        void include(int32_t value) {
            lowest = std::min(lowest, value);
            highest = std::max(highest, value);
        }
    };
    struct Slice {
        std::vector<Span> sources;
        std::vector<uint8_t> share; ///< for each output, the most that it was, in 255ths
        std::vector<uint32_t>
            colour;                 ///< for each output, the last colour that it was, if it was any
        std::vector<uint8_t> state; ///< for each machine, the last state
    };

    /// The time axis: its unit, and how much of it one slice takes.
    struct Axis {
        std::string unit;
        double per_slice;
        double span;
        double begin; ///< of the trace, where that is not zero
        int tics;
    };
    struct Fault {
        size_t source;
        size_t begin; ///< slices
        size_t end;
        Health health;
    };

    Slice empty_slice() const;
    bool begin_slice(int64_t now);
    /// What an output does now, in the last slice.
    void show(size_t drive, const rig::Driven& driven);
    void widen();
    Axis axis() const;
    static std::string tics_of(const Axis& time, bool named);
    /// The sources of one kind, which share a panel and its axis.
    struct Panel {
        rig::Kind kind;
        std::vector<size_t> sources;
        double bottom = 0; ///< of the axis, in the unit
        double top = 1;
        double screen_bottom = 0; ///< of the panel, as a share of the figure
        double screen_top = 1;

        bool logarithmic() const;
        /// How far up a value stands, as a share of the panel.
        double height_of(double value) const;
    };
    std::vector<Panel> panels() const;
    void set_reach(Panel& panel) const;
    std::vector<Slice> filled() const;
    static std::vector<Fault> faults(const std::vector<Slice>& slices);
    std::string script(const std::string& title) const;
    std::string source_data(size_t source, const std::vector<Slice>& slices,
                            const Axis& time) const;
    std::string readings_panel(const Panel& panel, const Axis& axis,
                               const std::vector<Fault>& faults) const;
    std::string decision_lines(const Panel& panel) const;
    struct Lane {
        std::string name;
        enum class Of : uint8_t { source, drive, colour, machine } of;
        size_t index; ///< among its kind
    };
    std::string lane_data(const Lane& lane, size_t base, const std::vector<Slice>& slices,
                          const Axis& time) const;
    std::string stretches(const Lane& lane, size_t base, const std::vector<Slice>& slices,
                          const Axis& axis, int& object) const;
    std::vector<Lane> lanes() const;
    std::string lanes_panel(const std::vector<Slice>& slices, const Axis& axis) const;
    static uint8_t share_of(const rig::Drive& drive, const rig::Driven& driven);

    static constexpr size_t most_slices = 1200; ///< one takes at most two points of the figure

    std::string path_;
    std::string terminal_;
    plot::Pen pen_;
    const rig::Rig& rig_;
    std::vector<Slice> slices_;
    std::vector<uint32_t> shown_; ///< of each output, the value that it was last
    int64_t begin_ = 0;
    int64_t end_ = 0;
    int64_t slice_end_ = INT64_MIN; ///< of the last one
    int64_t width_ = 1;
    bool begun_ = false;
    bool pieces_ = false; ///< whether it is of pieces
};

} // namespace zorilla::bench
