// SPDX-License-Identifier: MIT
/// \file
/// The pins of an emulated chip in a rehearsal: what goes to them, and what they do.
#pragma once

#include "bench/rehearse/rehearse.hpp"
#include "rig/sense/forward.hpp"

#include <optional>

namespace zorilla::bench {

class EmulatedChip;

/// Puts the rows of a trace on the pins: codes as voltages, levels, echoes after each ping, frames
/// once the line is let go, edges evenly over the time between two rows.
class PinFeeder {
  public:
    PinFeeder(const rig::Rig& rig, const std::vector<RehearsedRow>& rows, EmulatedChip& chip,
              const std::vector<PinFault>& faults);
    /// After each instruction.
    void step();
    /// A pass begins: what lies on the pins now, it must have seen.
    void begins_pass();
    /// Compares what the program has read in a pass, of every sensor, with what lay on its pin.
    /// \return  the first one that it has not seen, or not as it was: its name, and a line for each
    /// side; empty: none
    std::vector<std::string> judge(const std::vector<rig::Raw>& raws);
    /// Whether what lies on a sensor's pin has changed since the first row that told of it.
    bool has_moved(size_t sense) const { return laid_[sense].moved; }

    double code_off = 0, echo_off = 0;
    std::vector<uint32_t> echoes; ///< that each sensor has sent
    /// How a part was first asked in a way that a real one does not answer to, and what to do.
    std::vector<std::string> asked_wrongly;

  private:
    void put(const RehearsedRow& row, const RehearsedRow* next);
    void put_code(size_t sense);
    int64_t code_on(size_t sense) const;
    void ask_frame(size_t sense, bool pulls);
    void answer_frame(size_t sense);
    void ping(size_t sense, bool high);
    bool comes_too_soon(size_t sense, int64_t every) const;
    void tell_wrong(const std::string& what, const char* to_do);
    void level(const std::string& pin, bool high, bool bounces);
    bool has(size_t sense, PinFault::Kind kind) const;
    void say(size_t sense, rig::Raw raw);

    /// What a sensor has been given so far, and what of it the program is to have read.
    struct Laid {
        bool known = false, moved = false;    ///< whether anything was, and whether it has changed
        std::optional<int64_t> answer;        ///< the last frame or echo that is over
        std::optional<int64_t> before;        ///< and the one before it
        bool awaited = false;                 ///< whether the program has not read it yet
        uint32_t garbled = 0;                 ///< frames in a row
        uint32_t passes = 0;                  ///< which were over since then
        uint32_t edges = 0, edges_before = 0; ///< so far, and as the pass began
        std::optional<uint32_t> offset;       ///< of the program's count from that
        uint64_t said_at = 0;                 ///< when a command was typed whole
    };
    std::string problem_of(size_t sense, rig::Raw read);
    std::string code_problem(size_t sense, rig::Raw read);
    std::string answer_problem(size_t sense, rig::Raw read);
    std::string edge_problem(size_t sense, rig::Raw read);
    void answers(size_t sense, int64_t bits) {
        laid_[sense].before = laid_[sense].answer;
        laid_[sense].answer = bits;
        laid_[sense].awaited = true;
        laid_[sense].passes = 0;
    }
    bool is_faulty(size_t sense) const;

    const rig::Rig& rig_;
    const std::vector<RehearsedRow>& rows_;
    EmulatedChip& chip_;
    uint64_t us, ms; ///< in cycles
    uint64_t round_; ///< of the converter, the same
    std::vector<PinFault> faults_;
    rig::Noise random_{1};
    size_t next_ = 0;
    uint64_t line_free_ = 0;       ///< from which cycle on the next command may be typed
    std::vector<rig::Raw> now_;    ///< what lies on each pin
    std::vector<uint64_t> since_;  ///< and since which cycle; of what is asked, when it was
    std::vector<uint64_t> pulled_; ///< since which cycle its line is pulled
    std::vector<Laid> laid_;
    uint64_t pass_began_ = 0;
};

/// Whether outputs are what they should be, by their pins and the timers behind them.
class PinWatcher {
  public:
    explicit PinWatcher(const EmulatedChip& chip) : chip_(chip) {}
    /// What the pins of an output show instead of a value; empty if they show it.
    std::string problem_of(const rig::Drive& drive, rig::AnyValue value) const;

  private:
    std::string duty_problem(const rig::Drive& drive, const std::string& pin, Duty duty) const;
    std::string tone_problem(const std::string& pin, Tone tone) const;

    const EmulatedChip& chip_;
};

} // namespace zorilla::bench
