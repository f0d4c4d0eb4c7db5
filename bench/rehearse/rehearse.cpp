// SPDX-License-Identifier: MIT
#include "bench/rehearse/rehearse.hpp"

#include "bench/process.hpp"
#include "bench/random_raws.hpp"
#include "bench/rehearse/emulated.hpp"
#include "bench/rehearse/pins.hpp"
#include "rig/drive/part.hpp"
#include "rig/run/running_rig.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <cmath>
#include <memory>
#include <sstream>

namespace zorilla::bench {

namespace {

/// Where the program keeps its inputs and its time.
struct Places {
    uint32_t in = 0, now = 0, clock = 0;
};
Places places_of(const ChipFacts& chip, const std::string& folder) {
    const bool is_avr = chip.port_at != nullptr;
    const auto [status, all] = run_process((is_avr ? "avr-nm " : "arm-none-eabi-nm ") +
                                           shell_word(folder + "/firmware.elf"));
    if (status != 0) {
        const std::string package = is_avr ? "binutils-avr" : "binutils-arm-none-eabi";
        throw rig::InputError(
            fmt::format("for a rehearsal, install {0} (apt-get install {0})", package));
    }
    Places out;
    std::istringstream lines(all);
    std::string at, type, name;
    for (std::string line; std::getline(lines, line);) {
        std::istringstream fields(line);
        if (!(fields >> at >> type >> name))
            continue;
        // Addresses of data are marked by high bits that the chip does not have.
        const auto address =
            static_cast<uint32_t>(std::stoul(at, nullptr, 16) & (is_avr ? 0xffffU : 0xffff'ffffU));
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

/// Reads what the chip has stored, in its layout: the low byte first, and gaps where it aligns.
class Memory {
  public:
    Memory(const EmulatedChip& chip, uint32_t at) : chip_(chip), at_(at) {}
    void align(uint32_t size) {
        if (chip_.aligns())
            at_ = (at_ + size - 1) / size * size;
    }
    uint32_t number(int bytes) {
        align(static_cast<uint32_t>(bytes));
        uint32_t out = 0;
        for (int i = 0; i < bytes; ++i)
            out |= uint32_t{chip_.memory(at_++)} << 8 * i;
        return out;
    }
    /// What one sensor was given in the pass.
    rig::Raw raw(const rig::Sense& sense) {
        const uint32_t size =
            sense.raw == rig::RawKind::edges                                             ? 4
            : sense.raw == rig::RawKind::code || sense.raw == rig::RawKind::microseconds ? 2
                                                                                         : 1;
        align(size);
        const rig::Raw out = read(sense);
        align(size);
        return out;
    }

  private:
    rig::Raw read(const rig::Sense& sense) {
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

    const EmulatedChip& chip_;
    uint32_t at_;
};

/// Chip and rig side by side.
class Stage {
  public:
    Stage(const rig::Rig& rig, const std::string& folder, const std::vector<RehearsedRow>& rows,
          const RehearsalPlan& plan)
        : rig_(rig), plan_(plan), running_(rig),
          emulated_(emulate(*rig.chip_facts(), folder, rig.line)), chip_(*emulated_),
          places_(places_of(chip_.facts(), folder)), feeder_(rig, rows, chip_, plan.faults),
          watcher_(chip_), last_value_(rig.drives.size()), heard_(rig.senses.size()) {
        out_.changes.resize(rig.drives.size());
        out_.was_on.resize(rig.drives.size());
        chip_.on_mark = [this](uint8_t mark, uint64_t cycle) {
            if (mark == 1)
                begins(cycle);
            else if (began_ != 0) // not only while its header goes out
                ends(cycle);
        };
    }
    Rehearsal play(int64_t milliseconds) {
        const uint64_t until = static_cast<uint64_t>(milliseconds) * chip_.cycles_per_ms();
        while (chip_.cycles() < until && out_.difference.empty() && chip_.step())
            feeder_.step();
        out_.mean_cycles =
            out_.passes == 0 ? 0
                             : static_cast<double>(all_cycles_) / static_cast<double>(out_.passes);
        out_.idle_share = static_cast<double>(chip_.asleep()) / static_cast<double>(chip_.cycles());
        out_.stack = chip_.stack();
        for (size_t i = 0; i < rig_.senses.size(); ++i)
            out_.moved.push_back(feeder_.has_moved(i));
        out_.code_off = feeder_.code_off;
        out_.echo_off = feeder_.echo_off;
        return std::move(out_);
    }

  private:
    void begins(uint64_t cycle) {
        began_ = cycle;
        feeder_.begins_pass();
        // The lower half stays, so that passes keep in step.
        if (plan_.wraps && last_ == 0)
            for (const uint32_t byte : {2U, 3U})
                chip_.set_memory(places_.clock + byte, 0xff);
        // How often it is to pass, its second and third pass say: the first waits for a header.
        const uint64_t since = last_ == 0 ? 0 : cycle - last_;
        if (++begun_ <= 3)
            every_ = since;
        else if (since > every_ + 5 * chip_.cycles_per_ms())
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
            const size_t i = raws.size();
            raws.push_back(memory.raw(sense));
            out_.frames += sense.raw == rig::RawKind::frame && raws.back().bits() > 1;
            // In short passes one is read more than once.
            out_.echoes += sense.raw == rig::RawKind::microseconds && raws.back().bits() > 0 &&
                           std::exchange(heard_[i], feeder_.echoes[i]) != feeder_.echoes[i];
        }
        if (!plan_.compares)
            return;
        const std::vector<std::string> unseen = feeder_.judge(raws);
        if (!feeder_.asked_wrongly.empty())
            out_.difference = feeder_.asked_wrongly;
        const uint32_t now = Memory(chip_, places_.now).number(4);
        if (!unseen.empty() && out_.difference.empty())
            out_.difference = {fmt::format("{} was not read as it was at {}, in pass {}:",
                                           unseen.front(), rig::time_to_text(now), out_.passes),
                               unseen[1], unseen[2]};
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
            out_.was_on[i] = out_.was_on[i] || value.any();
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
        const std::string why = driven.tested ? "in the self-test"
                                : driven.cause == Cause::claim
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
    std::unique_ptr<EmulatedChip> emulated_;
    EmulatedChip& chip_;
    Places places_;
    PinFeeder feeder_;
    PinWatcher watcher_;
    std::vector<uint32_t> last_value_;
    std::vector<uint32_t> heard_; ///< how many echoes had been sent when one was last read
    uint32_t now_ = 0;
    uint64_t began_ = 0, last_ = 0, every_ = 0, all_cycles_ = 0, begun_ = 0;
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
