// SPDX-License-Identifier: MIT
// Whether a program has seen what lay on its pins.
#include "bench/rehearse/emulated.hpp"
#include "bench/rehearse/pins.hpp"
#include "rig/sense/part.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

namespace {

/// How far a code may be off, which the emulated converter rounds; and an echo, in microseconds,
/// whose edges are noted after those of others.
constexpr double code_slack = 2, echo_slack = 40;
/// In how many passes an answer must have been read.
constexpr uint32_t passes_to_read = 3;
/// How many frames in a row may be garbled.
constexpr uint32_t most_garbled = 2;

} // namespace

void PinFeeder::begins_pass() {
    pass_began_ = chip_.cycles();
    for (Laid& laid : laid_)
        laid.edges_before = laid.edges;
}

bool PinFeeder::is_faulty(size_t sense) const {
    return std::any_of(faults_.begin(), faults_.end(),
                       [sense](const PinFault& fault) { return fault.sense == sense; });
}

/// A code that has just changed is converted in the next round. What is added up of a voltage that
/// stands still has no more bits than the converter.
std::string PinFeeder::code_problem(size_t sense, rig::Raw read) {
    const rig::Sense& is = rig_.senses[sense];
    if (chip_.cycles() - since_[sense] <= 2 * round_ + 20 * ms)
        return {};
    if (!read.taken()) // one that is powered is read now and then
        return is.other_pins.empty() ? fmt::format("code {}", code_on(sense)) : std::string();
    const double off = std::fabs(static_cast<double>(read.bits() >> is.extra_bits) -
                                 static_cast<double>(code_on(sense)));
    code_off = std::max(code_off, off);
    return off > code_slack ? fmt::format("code {}", code_on(sense)) : std::string();
}

/// A frame, or an echo: what has come must be read, and nothing else.
std::string PinFeeder::answer_problem(size_t sense, rig::Raw read) {
    Laid& laid = laid_[sense];
    const bool is_echo = rig_.senses[sense].raw == rig::RawKind::microseconds;
    const auto shown = [&] {
        return is_echo ? fmt::format("an echo of {} us", *laid.answer)
                       : fmt::format("the frame {:010x}", *laid.answer);
    };
    if (read.taken() && !read.is_silent()) {
        // A frame that was garbled on its way is asked for again; not time after time.
        constexpr int64_t garbled = 1;
        if (!is_echo && read.bits() == garbled && laid.answer) {
            laid.awaited = false;
            return ++laid.garbled > most_garbled ? shown() + ", garbled time after time"
                                                 : std::string();
        }
        laid.garbled = 0;
        if (!laid.answer)
            return "nothing has come yet";
        const auto from = [&read](int64_t answer) {
            return std::fabs(static_cast<double>(read.bits()) - static_cast<double>(answer));
        };
        // What has just come may be looked at behind the pass.
        double off = from(*laid.answer);
        if (laid.awaited && laid.passes == 0 && laid.before && from(*laid.before) < off) {
            ++laid.passes;
            return from(*laid.before) > (is_echo ? echo_slack : 0) ? shown() : std::string();
        }
        laid.awaited = false;
        if (is_echo)
            echo_off = std::max(echo_off, off);
        return off > (is_echo ? echo_slack : 0) ? shown() : std::string();
    }
    return laid.awaited && ++laid.passes > passes_to_read ? shown() : std::string();
}

std::string PinFeeder::edge_problem(size_t sense, rig::Raw read) {
    Laid& laid = laid_[sense];
    if (!read.taken())
        return "edges to be counted";
    const auto count = static_cast<uint32_t>(read.bits());
    if (!laid.offset)
        laid.offset = count - laid.edges_before;
    // Those that come during the pass are counted or not.
    const uint32_t least = laid.edges_before + *laid.offset;
    const auto beyond = static_cast<uint16_t>(count - least + 1);
    return beyond > laid.edges - laid.edges_before + 2 ? fmt::format("{} edges so far", laid.edges)
                                                       : std::string();
}

std::string PinFeeder::problem_of(size_t sense, rig::Raw read) {
    const rig::Sense& is = rig_.senses[sense];
    if (is.pin.empty()) { // what is said over the line
        const uint64_t said = laid_[sense].said_at;
        if (said == 0 || chip_.cycles() < said + 200 * ms || pass_began_ < said + 100 * ms ||
            !now_[sense].taken() || read.bits() == now_[sense].bits())
            return {};
        return "said as " + is.part->typed(now_[sense]);
    }
    if (is.raw == rig::RawKind::microseconds || is.raw == rig::RawKind::frame)
        return answer_problem(sense, read);
    if (now_[sense].bits() < 0)
        return {};
    switch (is.raw) {
    case rig::RawKind::code: return code_problem(sense, read);
    case rig::RawKind::microseconds:
    case rig::RawKind::frame: break;
    case rig::RawKind::edges: return edge_problem(sense, read);
    case rig::RawKind::level: break;
    }
    if (since_[sense] + us >= pass_began_ || read.bits() == now_[sense].bits())
        return {};
    return now_[sense].bits() != 0 ? "high" : "low";
}

std::vector<std::string> PinFeeder::judge(const std::vector<rig::Raw>& raws) {
    for (size_t i = 0; i < raws.size(); ++i) {
        if (!laid_[i].known || is_faulty(i))
            continue;
        const std::string lay = problem_of(i, raws[i]);
        if (lay.empty())
            continue;
        const std::string read = raws[i].is_silent() ? "no answer"
                                 : !raws[i].taken()  ? "nothing"
                                 : rig_.senses[i].raw == rig::RawKind::level
                                     ? std::string(raws[i].bits() != 0 ? "high" : "low")
                                 : rig_.senses[i].raw == rig::RawKind::frame
                                     ? fmt::format("{:010x}", raws[i].bits())
                                     : fmt::format("{}", raws[i].bits());
        return {rig_.senses[i].name, fmt::format("  on its pin        {}", lay),
                fmt::format("  the program read  {}", read)};
    }
    return {};
}

} // namespace zorilla::bench
