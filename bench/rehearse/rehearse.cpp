// SPDX-License-Identifier: MIT
#include "bench/rehearse/rehearse.hpp"

#include "bench/process.hpp"
#include "bench/random_raws.hpp"
#include "bench/rehearse/atmega328p.hpp"
#include "bench/rehearse/pins.hpp"
#include "rig/drive/part.hpp"
#include "rig/run/running_rig.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <cmath>
#include <sstream>

namespace zorilla::bench {

namespace {

constexpr uint64_t cycles_per_ms = 16'000;
constexpr uint16_t end_of_memory = 0x8ff;

/// Where the program keeps its inputs and its time.
struct Places {
    uint16_t in = 0, now = 0, clock = 0;
};
Places places_of(const std::string& folder) {
    const auto [status, all] = run_process("avr-nm " + shell_word(folder + "/firmware.elf"));
    if (status != 0)
        throw rig::InputError("for a rehearsal, install binutils-avr (apt-get install "
                              "binutils-avr)");
    Places out;
    std::istringstream lines(all);
    std::string at, type, name;
    for (std::string line; std::getline(lines, line);) {
        std::istringstream fields(line);
        if (!(fields >> at >> type >> name))
            continue;
        const auto address = static_cast<uint16_t>(std::stoul(at, nullptr, 16) & 0xffff);
        if (name == "in")
            out.in = address;
        if (name == "now")
            out.now = address;
        if (name.find("Clock") != std::string::npos &&
            name.find("milliseconds_") != std::string::npos)
            out.clock = address;
    }
    if (out.in == 0 || out.now == 0 || out.clock == 0)
        throw rig::InputError(folder + "/main.cpp: has no global \"in\" and \"now\", which a "
                                       "rehearsal looks at; write it anew with zorilla firmware");
    return out;
}

/// Reads what the chip has stored, in its layout: no gaps, the low byte first.
class Memory {
  public:
    Memory(const Atmega328p& chip, uint16_t at) : chip_(chip), at_(at) {}
    uint32_t number(int bytes) {
        uint32_t out = 0;
        for (int i = 0; i < bytes; ++i)
            out |= uint32_t{chip_.memory(at_++)} << 8 * i;
        return out;
    }
    /// What one sensor was given in the pass.
    rig::Raw raw(const rig::Sense& sense) {
        switch (sense.raw) {
        case rig::RawKind::code: {
            const uint32_t code = number(2);
            return number(1) != 0 ? rig::Raw(int64_t{code}) : rig::Raw();
        }
        case rig::RawKind::microseconds: {
            const uint32_t width = number(2), state = number(1);
            return state == 2   ? rig::Raw(int64_t{width})
                   : state == 1 ? rig::Raw::silent()
                                : rig::Raw();
        }
        case rig::RawKind::frame: {
            int64_t bits = 0;
            for (int i = 0; i < 5; ++i)
                bits = bits << 8 | number(1);
            const uint32_t state = number(1);
            // One that was garbled is as bad as one whose sum is wrong.
            return state == 3   ? rig::Raw(bits)
                   : state == 2 ? rig::Raw(1)
                   : state == 1 ? rig::Raw::silent()
                                : rig::Raw();
        }
        case rig::RawKind::level: {
            const uint32_t level = number(1);
            return number(1) != 0 ? rig::Raw(int64_t{level}) : rig::Raw();
        }
        case rig::RawKind::edges: {
            const uint32_t edges = number(2);
            number(4);
            return number(1) != 0 ? rig::Raw(int64_t{edges}) : rig::Raw();
        }
        }
        return {};
    }

  private:
    const Atmega328p& chip_;
    uint16_t at_;
};

/// Chip and rig side by side.
class Stage {
  public:
    Stage(const rig::Rig& rig, const std::string& folder, const std::vector<RehearsedRow>& rows,
          const RehearsalPlan& plan)
        : rig_(rig), plan_(plan), running_(rig), chip_(folder + "/firmware.elf"),
          places_(places_of(folder)), feeder_(rig, rows, chip_, plan.faults), watcher_(chip_),
          last_value_(rig.drives.size()) {
        out_.changes.resize(rig.drives.size());
        chip_.on_mark = [this](uint8_t mark, uint64_t cycle) {
            if (mark == 1)
                begins(cycle);
            else if (began_ != 0) // not only while its header goes out
                ends(cycle);
        };
    }
    Rehearsal play(int64_t milliseconds) {
        const uint64_t until = static_cast<uint64_t>(milliseconds) * cycles_per_ms;
        while (chip_.cycles() < until && out_.difference.empty() && chip_.step())
            feeder_.step();
        out_.mean_cycles =
            out_.passes == 0 ? 0
                             : static_cast<double>(all_cycles_) / static_cast<double>(out_.passes);
        out_.idle_share = static_cast<double>(chip_.asleep()) / static_cast<double>(chip_.cycles());
        out_.stack = end_of_memory - std::min(chip_.lowest_stack(), end_of_memory);
        out_.code_off = feeder_.code_off;
        out_.echo_off = feeder_.echo_off;
        return std::move(out_);
    }

  private:
    void begins(uint64_t cycle) {
        began_ = cycle;
        // The lower half stays, so that passes keep in step.
        if (plan_.wraps && last_ == 0)
            for (const int byte : {2, 3})
                chip_.set_memory(static_cast<uint16_t>(places_.clock + byte), 0xff);
        // How often it is to pass, its first two passes say.
        const uint64_t since = last_ == 0 ? 0 : cycle - last_;
        if (every_ == 0)
            every_ = since;
        else if (since > every_ + 5 * cycles_per_ms)
            ++out_.missed;
        last_ = cycle;
    }
    void ends(uint64_t cycle) {
        const uint64_t took = cycle - std::exchange(began_, 0);
        out_.worst_cycles = std::max(out_.worst_cycles, took);
        all_cycles_ += took;
        ++out_.passes;
        Memory memory(chip_, places_.in);
        std::vector<rig::Raw> raws;
        for (const rig::Sense& sense : rig_.senses) {
            raws.push_back(memory.raw(sense));
            out_.frames += sense.raw == rig::RawKind::frame && raws.back().bits() > 1;
            out_.echoes += sense.raw == rig::RawKind::microseconds && raws.back().bits() > 0;
        }
        if (!plan_.compares)
            return;
        feeder_.judge(raws);
        const uint32_t now = Memory(chip_, places_.now).number(4);
        out_.wrapped = out_.wrapped || now < now_;
        now_ = now;
        running_.pass(Instant(now), raws.data());
        for (size_t i = 0; i < rig_.senses.size(); ++i)
            if (const Health health = running_.readings()[rig_.senses[i].source].health();
                health != Health::ok)
                ++out_.unhealthy[{i, health}];
        for (size_t i = 0; i < rig_.drives.size(); ++i) {
            const rig::AnyValue value = running_.drivens()[i].value;
            out_.changes[i] += out_.passes > 1 && last_value_[i] != value.bits();
            last_value_[i] = value.bits();
            const std::string problem = watcher_.problem_of(rig_.drives[i], value);
            if (!problem.empty() && out_.difference.empty())
                out_.difference = tell(i, now, raws, problem);
        }
    }
    std::vector<std::string> tell(size_t drive, uint32_t now, const std::vector<rig::Raw>& raws,
                                  const std::string& problem) const {
        const rig::Drive& is = rig_.drives[drive];
        const rig::Driven& driven = running_.drivens()[drive];
        const std::string why = driven.cause == Cause::claim
                                    ? rig::label_of(is.claims[driven.claim])
                                : driven.cause == Cause::safe ? "safe: a claim is unknown"
                                : driven.cause == Cause::rest ? "at rest: no claim holds"
                                                              : "a guard of the part acts";
        std::string read;
        for (size_t i = 0; i < raws.size(); ++i)
            read += fmt::format("{}{} {}", i == 0 ? "" : ", ", rig_.senses[i].name,
                                raws[i].is_silent() ? std::string("none")
                                : !raws[i].taken()  ? std::string("nothing")
                                                    : fmt::format("{}", raws[i].bits()));
        return {fmt::format("{} differs at {}, in pass {}:", is.name, rig::time_to_text(now),
                            out_.passes),
                fmt::format("  by the rig file  {} ({})", is.says(driven.value), why),
                "  on the chip      " + problem, "  which had read   " + read};
    }

    const rig::Rig& rig_;
    const RehearsalPlan& plan_;
    rig::RunningRig running_;
    Atmega328p chip_;
    Places places_;
    PinFeeder feeder_;
    PinWatcher watcher_;
    std::vector<uint32_t> last_value_;
    uint32_t now_ = 0;
    uint64_t began_ = 0, last_ = 0, every_ = 0, all_cycles_ = 0;
    Rehearsal out_;
};

} // namespace

Rehearsal rehearse(const rig::Rig& rig, const std::string& folder,
                   const std::vector<RehearsedRow>& rows, int64_t milliseconds,
                   const RehearsalPlan& plan) {
    return Stage(rig, folder, rows, plan).play(milliseconds);
}

std::vector<RehearsedRow> random_rows(const rig::Rig& rig, int64_t milliseconds) {
    std::mt19937 random(1);
    std::vector<RehearsedRow> out;
    std::vector<rig::Raw> now(rig.senses.size());
    for (int64_t ms = 0; ms < milliseconds; ms += 100) {
        random_raws(rig, random, now);
        out.push_back({ms, now});
    }
    return out;
}

} // namespace zorilla::bench
