// SPDX-License-Identifier: MIT
/// \file
/// The rig at the desk beside a device that runs: fed with what the device reads, it knows what the
/// device knows, with reasons; and it finds out where the device does otherwise.
#pragma once

#include "bench/live/receiver.hpp"
#include "bench/replaying.hpp"

#include <deque>
#include <functional>
#include <memory>
#include <optional>
#include <random>
#include <string>
#include <vector>

namespace zorilla::bench {

/// What the desk knows of what a device remembers.
enum class Standing : uint8_t {
    waiting, ///< nothing has come yet
    whole,   ///< every pass since its power-up has been seen
    open,    ///< not all has been seen, and what was not still bears on what it does
    caught,  ///< not all has been seen, but what was not bears on nothing that it does now
};

/// Follows one device, row by row.
///
/// Of a device that was on before, or of which rows were lost, it is not known what it remembers.
/// Then the desk runs many rigs side by side that remember different things. What all of them say
/// is known; what they say differently is open. One that the device has contradicted for fifty
/// passes is left out; if none is left, the desk has caught up once its own rig has agreed for as
/// long as the longest time that means something to it.
class Companion {
  public:
    struct Tells {
        std::function<void(const Event&)> event; ///< as in a replay
        /// Of the line or of the device. \param is_good  whether it is as it should be
        std::function<void(int64_t milliseconds, const std::string& text, bool is_good)> notice;
    };
    /// \param rig  must outlive it
    Companion(const rig::Rig& rig, Tells tells);

    /// The device has sent its header. \param took  how long that takes at most, in milliseconds
    void header(int64_t took) { header_ = took; }
    /// \return  whether it was followed: a row of the same moment as the last one is not
    bool take(const DeviceRow& row);
    Standing standing() const;
    /// Whether the device does otherwise than any rig that it could be, since when, and how.
    bool differs() const { return whole_ ? differing_ > 0 : renewed_ >= 20; }
    /// Only once a row has come.
    const rig::RunningRig& running() const { return replaying_->running(); }
    const Explainer& explainer() const { return replaying_->explainer(); }
    const Summary& so_far() const { return replaying_->so_far(); }
    Summary finish() { return replaying_->finish(); }
    bool any() const { return replaying_ != nullptr; }
    /// The device's clock since its power-up, as far as its rows tell; it goes on when it wraps.
    int64_t milliseconds() const { return now_; }
    /// Of an output, what the device says that it is; -1 where it says nothing.
    int64_t said(size_t drive) const { return said_[drive]; }
    /// Whether what an output, a source, a truth, or a machine's state is, is open.
    bool is_open_drive(size_t drive) const;
    bool is_open_source(size_t source) const;
    bool is_open_fact(size_t fact) const;
    bool is_open_machine(size_t machine) const;

    uint64_t rows() const { return rows_; }
    uint64_t missed() const { return missed_; }     ///< passes of which no row came
    uint64_t compared() const { return compared_; } ///< passes of which it has told its outputs
    uint64_t different() const { return different_; }
    uint64_t begun() const { return begun_; } ///< how often it was seen to begin
    /// Counts stretches of rows that follow one another without a gap.
    uint64_t stretch() const { return stretch_; }

  private:
    /// Another rig that the device may be.
    struct Other {
        rig::RunningRig running;
        uint64_t alike = 0;     ///< for so many passes it has shown the same
        uint64_t otherwise = 0; ///< for so many the device has contradicted it
    };
    static constexpr size_t most_others = 72, strangers = 64;
    /// More missed passes than these, and nothing is known of what was in them.
    static constexpr int64_t most_filled = 20;

    void begin(const DeviceRow& row, bool known);
    void add_strangers(const DeviceRow& row);
    void add(rig::RunningRig running);
    rig::Raw jittered(size_t sense, rig::Raw raw);
    void fill(const DeviceRow& row, int64_t step);
    std::vector<rig::RunningRig> suppose(const std::vector<rig::Raw>& before,
                                         const std::vector<rig::Raw>& after, int64_t lost,
                                         int64_t usual);
    void pass(int64_t now, const rig::Raw* raws);
    Instant clock_at(int64_t milliseconds) const;
    void compare(const DeviceRow& row);
    void tell_standing();
    bool agrees(const rig::RunningRig& running) const;
    bool shows_same(const rig::RunningRig& other) const;
    template <class Look> bool is_open(Look look) const;
    std::string difference() const;

    const rig::Rig& rig_;
    Tells tells_;
    std::mt19937 random_{1};
    std::unique_ptr<Replaying> replaying_;
    std::vector<Other> others_;
    std::vector<rig::Raw> raws_; ///< of the last row
    std::vector<int64_t> said_;
    std::vector<bool> unheard_; ///< sensors that may have said something in a row that was lost
    int64_t longest_ = 0;       ///< the longest time that means something to the rig
    int64_t agreed_since_ = 0;  ///< what the device says of its outputs, and the rig
    std::optional<int64_t> first_step_; ///< from the first row of this run to the second
    std::deque<int64_t> steps_;         ///< between the last rows, without that one
    int64_t now_ = 0;
    uint32_t clock_ = 0;
    std::optional<int64_t> header_;
    bool whole_ = false, told_open_ = false;
    std::optional<int64_t> told_at_; ///< when it was last told how much is open
    uint64_t rows_ = 0, missed_ = 0, compared_ = 0, different_ = 0, begun_ = 0;
    uint64_t stretch_ = 0;
    uint64_t differing_ = 0; ///< rows one after the other
    uint64_t renewed_ = 0;   ///< how often others were tried meanwhile
    bool told_differing_ = false;
};

} // namespace zorilla::bench
