// SPDX-License-Identifier: MIT
#include "bench/rehearse/pins.hpp"

#include "bench/rehearse/emulated.hpp"
#include "rig/emit/device.hpp"
#include "rig/sense/part.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

namespace {

/// What the emulated chip's converter measures against, in millivolts.
int64_t full_scale(const ChipFacts& chip, const rig::Sense& sense) {
    switch (chip.reference_of(sense.reference)) {
    case Reference::supply: return chip.supply;
    case Reference::internal: return chip.internal_reference;
    case Reference::external: break;
    }
    return sense.reference;
}

} // namespace

bool can_have(const rig::Sense& sense, PinFault::Kind kind) {
    if (sense.pin.empty())
        return false;
    switch (kind) {
    case PinFault::Kind::open:
    case PinFault::Kind::shorted: return sense.raw == rig::RawKind::code;
    case PinFault::Kind::stuck:
    case PinFault::Kind::silent:
        return sense.raw == rig::RawKind::microseconds || sense.raw == rig::RawKind::frame;
    case PinFault::Kind::flipped: return sense.raw == rig::RawKind::frame;
    case PinFault::Kind::bouncing: return sense.raw == rig::RawKind::level;
    case PinFault::Kind::spiky: break;
    }
    return sense.raw == rig::RawKind::edges;
}

PinFeeder::PinFeeder(const rig::Rig& rig, const std::vector<RehearsedRow>& rows, EmulatedChip& chip,
                     const std::vector<PinFault>& faults)
    : echoes(rig.senses.size()), rig_(rig), rows_(rows), chip_(chip), us(chip.cycles_per_us()),
      ms(chip.cycles_per_ms()),
      round_(static_cast<uint64_t>(rig::converter_round(rig)) * chip.cycles_per_ms()),
      faults_(faults), now_(rig.senses.size()), since_(rig.senses.size()),
      pulled_(rig.senses.size()), laid_(rig.senses.size()) {
    for (size_t i = 0; i < rig.senses.size(); ++i) {
        const rig::Sense& sense = rig.senses[i];
        if (sense.reference != 0 &&
            chip.facts().reference_of(sense.reference) == Reference::external)
            chip.set_reference(static_cast<uint32_t>(sense.reference));
        if (sense.raw == rig::RawKind::frame || sense.raw == rig::RawKind::edges)
            chip.put(sense.pin, true); // held up
        if (sense.raw == rig::RawKind::frame)
            chip.watch_drive(sense.pin, [this, i](bool pulls) { ask_frame(i, pulls); });
        if (sense.raw == rig::RawKind::microseconds && !sense.other_pins.empty())
            chip.watch(sense.other_pins.front().pin, [this, i](bool high) { ping(i, high); });
        if (sense.raw == rig::RawKind::code && !sense.other_pins.empty())
            chip.watch(sense.other_pins.front().pin, [this, i](bool) { put_code(i); });
    }
}

void PinFeeder::step() {
    while (next_ < rows_.size() && chip_.cycles() >= static_cast<uint64_t>(rows_[next_].ms) * ms) {
        put(rows_[next_], next_ + 1 < rows_.size() ? &rows_[next_ + 1] : nullptr);
        ++next_;
    }
}

void PinFeeder::put(const RehearsedRow& row, const RehearsedRow* next) {
    for (size_t i = 0; i < row.raws.size(); ++i) {
        const rig::Sense& sense = rig_.senses[i];
        rig::Raw raw = row.raws[i];
        // What a wire makes of it, the part's own model knows.
        for (const auto& [kind, fault] : {std::pair{PinFault::Kind::open, rig::Fault::open},
                                          std::pair{PinFault::Kind::shorted, rig::Fault::shorted}})
            if (has(i, kind))
                raw = sense.part->forward({}, random_, fault, raw);
        const bool changed = now_[i].bits() != raw.bits();
        Laid& laid = laid_[i];
        laid.moved = laid.moved || (laid.known && changed && (raw.taken() || sense.pin.empty()));
        laid.known = laid.known || raw.taken();
        if (sense.pin.empty()) {
            if (changed)
                say(i, raw);
            now_[i] = raw;
            continue;
        }
        // Between its reads a sensor's frame stays what it was.
        if (!raw.taken())
            continue;
        if (sense.raw == rig::RawKind::level && changed)
            since_[i] = chip_.cycles();
        if (sense.raw == rig::RawKind::level)
            level(sense.pin, raw.bits() != 0, changed && has(i, PinFault::Kind::bouncing));
        if (sense.raw == rig::RawKind::edges && next != nullptr && next->raws[i].taken()) {
            const int64_t edges = (next->raws[i].bits() - raw.bits()) & 0xffff;
            const uint64_t span = static_cast<uint64_t>(next->ms - row.ms) * ms;
            const std::string pin = sense.pin;
            for (int64_t k = 0; k < edges; ++k) {
                const uint64_t at =
                    span * static_cast<uint64_t>(2 * k + 1) / static_cast<uint64_t>(2 * edges);
                chip_.in_cycles(at, [this, pin, i] {
                    ++laid_[i].edges;
                    chip_.put(pin, false);
                });
                chip_.in_cycles(at + span / static_cast<uint64_t>(4 * edges),
                                [this, pin] { chip_.put(pin, true); });
                if (!has(i, PinFault::Kind::spiky))
                    continue;
                chip_.in_cycles(at + span / static_cast<uint64_t>(3 * edges),
                                [this, pin] { chip_.put(pin, false); });
                chip_.in_cycles(at + span / static_cast<uint64_t>(3 * edges) + 20 * us,
                                [this, pin] { chip_.put(pin, true); });
            }
        }
        now_[i] = raw;
        if (sense.raw == rig::RawKind::code && changed)
            put_code(i);
    }
}

/// What lies on a pin of the converter; of a part that has no power at the moment: nothing.
int64_t PinFeeder::code_on(size_t sense) const {
    const rig::Sense& is = rig_.senses[sense];
    const bool powered = is.other_pins.empty() || chip_.is_high(is.other_pins.front().pin);
    return powered ? std::max<int64_t>(now_[sense].bits(), 0) >> is.extra_bits : 0;
}

void PinFeeder::put_code(size_t sense) {
    const rig::Sense& is = rig_.senses[sense];
    chip_.set_code(code_on(sense), static_cast<uint8_t>(std::stoi(is.pin.substr(3))),
                   full_scale(chip_.facts(), is));
    since_[sense] = chip_.cycles();
}

/// Types a command on the serial line, once the one before was answered.
void PinFeeder::say(size_t index, rig::Raw raw) {
    const rig::Sense& sense = rig_.senses[index];
    const std::string command =
        !raw.taken() ? fmt::format("clear {}\n", sense.name)
                     : fmt::format("set {} {}\n", sense.name, sense.part->typed(raw));
    const uint64_t character = 300 * us;
    line_free_ = std::max(line_free_, chip_.cycles());
    for (const char c : command) {
        chip_.in_cycles(line_free_ - chip_.cycles() + 1, [this, c] { chip_.receive(c); });
        line_free_ += character;
    }
    laid_[index].said_at = line_free_;
    line_free_ += 60 * ms;
}

bool PinFeeder::has(size_t sense, PinFault::Kind kind) const {
    return std::any_of(faults_.begin(), faults_.end(), [&](const PinFault& fault) {
        return fault.sense == sense && fault.kind == kind;
    });
}

/// Sets a contact; one that bounces comes to rest after 5 ms.
void PinFeeder::level(const std::string& pin, bool high, bool bounces) {
    chip_.put(pin, high);
    for (uint64_t i = 1; bounces && i <= 10; ++i)
        chip_.in_cycles(i * 500 * us,
                        [this, pin, to = (i % 2 == 0) == high] { chip_.put(pin, to); });
}

void PinFeeder::tell_wrong(const std::string& what, const char* to_do) {
    if (asked_wrongly.empty())
        asked_wrongly = {what, fmt::format("  {}", to_do)};
}

/// Whether a part has been asked less than so many milliseconds ago.
bool PinFeeder::comes_too_soon(size_t sense, int64_t every) const {
    return since_[sense] != 0 && chip_.cycles() - since_[sense] < static_cast<uint64_t>(every) * ms;
}

/// Data sheets of rangers want 10 us, and 60 ms from one ping to the next: what comes back late
/// would be taken for the next one's. Milliseconds are counted whole.
void PinFeeder::ping(size_t sense, bool high) {
    const std::string &name = rig_.senses[sense].name, echo = rig_.senses[sense].pin;
    constexpr int64_t least_gap = 59, least_us = 10;
    const char* to_do =
        "Wires::read pings by itself, long enough and not too often; nothing else in "
        "main.cpp is to drive that pin";
    const uint64_t spent = chip_.cycles() - since_[sense];
    if (high) {
        if (comes_too_soon(sense, least_gap))
            tell_wrong(
                fmt::format("{} is pinged again after {}; a ranger needs 60 ms from one ping "
                            "to the next",
                            name, rig::span_to_text(static_cast<int64_t>(spent / ms))),
                to_do);
        for (size_t i = 0; i < since_.size(); ++i)
            if (i != sense && rig_.senses[i].raw == rig::RawKind::microseconds &&
                comes_too_soon(i, least_gap))
                tell_wrong(
                    fmt::format(
                        "{} is pinged {} after {}; two rangers within 60 ms hear each "
                        "other",
                        name,
                        rig::span_to_text(static_cast<int64_t>((chip_.cycles() - since_[i]) / ms)),
                        rig_.senses[i].name),
                    to_do);
        since_[sense] = chip_.cycles();
        return;
    }
    if (since_[sense] == 0) // it has not been high
        return;
    if (spent < least_us * us) {
        tell_wrong(
            fmt::format("{} is pinged for {} us; a ranger takes no notice of less than {} us", name,
                        spent / us, least_us),
            to_do);
        return;
    }
    const int64_t lasts = now_[sense].bits();
    if (lasts <= 0 || has(sense, PinFault::Kind::silent))
        return;
    chip_.in_cycles(450 * us, [this, echo] { chip_.put(echo, true); });
    if (!has(sense, PinFault::Kind::stuck))
        chip_.in_cycles(450 * us + static_cast<uint64_t>(lasts) * us, [this, echo, sense, lasts] {
            // One that is shorter than any real one may slip between two looks at the pin.
            if (lasts >= 20)
                answers(sense, lasts);
            ++echoes[sense];
            chip_.put(echo, false);
        });
}

void PinFeeder::ask_frame(size_t sense, bool pulls) {
    const rig::Sense& is = rig_.senses[sense];
    if (pulls) {
        pulled_[sense] = chip_.cycles();
        return;
    }
    const uint64_t pulled = chip_.cycles() - pulled_[sense];
    if (pulled < static_cast<uint64_t>(is.notices.thousandths()) * ms) {
        tell_wrong(
            fmt::format("{}'s line is pulled low for {:.1f} ms; it takes no notice of less than {}",
                        is.name, static_cast<double>(pulled) / static_cast<double>(ms),
                        rig::span_to_text(is.notices.thousandths())),
            "Wires::start pulls it long enough for every such sensor");
        return;
    }
    const int64_t every = is.every.thousandths();
    if (comes_too_soon(sense, every))
        tell_wrong(
            fmt::format(
                "{} is asked again after {}, where its rig file says every {}", is.name,
                rig::span_to_text(static_cast<int64_t>((chip_.cycles() - since_[sense]) / ms)),
                rig::span_to_text(every)),
            "main.cpp is to ask it behind device.pass(), which notes its answer; zorilla "
            "firmware writes it so");
    since_[sense] = chip_.cycles();
    answer_frame(sense);
}

void PinFeeder::answer_frame(size_t sense) {
    const rig::Raw raw = now_[sense];
    const std::string pin = rig_.senses[sense].pin;
    if (has(sense, PinFault::Kind::stuck))
        chip_.put(pin, false);
    if (raw.bits() < 0 || has(sense, PinFault::Kind::silent) || has(sense, PinFault::Kind::stuck))
        return;
    std::vector<uint64_t> pulses = {30, 80, 80}; // high, low, high; then low and high for each bit
    for (int bit = 39; bit >= 0; --bit) {
        pulses.push_back(50);
        const bool flips = has(sense, PinFault::Kind::flipped) && random_.even() < 0.01;
        pulses.push_back(((raw.bits() >> bit & 1) != 0) != flips ? 70 : 26);
    }
    pulses.push_back(50);
    uint64_t at = 0;
    bool high = true;
    for (const uint64_t pulse : pulses) {
        at += pulse * us;
        high = !high;
        chip_.in_cycles(at, [this, pin, high] { chip_.put(pin, high); });
    }
    chip_.in_cycles(at + us, [this, sense, raw] { answers(sense, raw.bits()); });
}

// --- What the pins do

std::string PinWatcher::duty_problem(const rig::Drive& drive, const std::string& pin,
                                     Duty duty) const {
    const double wanted =
        drive.active == active_high ? duty.of_255() / 255.0 : 1 - duty.of_255() / 255.0;
    const double is = chip_.share_of(pin);
    return std::fabs(is - wanted) <= 1 / 500.0
               ? std::string()
               : fmt::format("{} is high for {:.1f} % of its time, not for {:.1f} %", pin, 100 * is,
                             100 * wanted);
}

std::string PinWatcher::tone_problem(const std::string& pin, Tone tone) const {
    const double hertz = chip_.hertz_of(pin);
    if (tone.hertz == 0 ? hertz == 0 : std::fabs(hertz - tone.hertz) <= 0.017 * tone.hertz)
        return {};
    return fmt::format("{} sounds with {:.0f} Hz", pin, hertz);
}

std::string PinWatcher::problem_of(const rig::Drive& drive, rig::AnyValue value) const {
    const auto level = [&](const std::string& pin, bool lit) {
        const bool high = lit == (drive.active == active_high);
        return chip_.is_high(pin) == high ? std::string()
                                          : fmt::format("{} is {}", pin, high ? "low" : "high");
    };
    std::string out;
    const auto add = [&out](const std::string& one) {
        out += one.empty() || out.empty() ? one : ", " + one;
    };
    if (drive.word == "servo") {
        const double pulse = chip_.pulse_of(drive.pins.front());
        if (std::fabs(pulse - servo_pulse(value.duty())) > 1)
            add(fmt::format("{} carries pulses of {:.0f} us", drive.pins.front(), pulse));
        return out;
    }
    switch (drive.kind()) {
    case rig::ValueKind::on_off: add(level(drive.pins.front(), value.any())); break;
    case rig::ValueKind::duty:
        add(duty_problem(drive, drive.pins.front(),
                         drive.word == "led" ? even(value.duty()) : value.duty()));
        break;
    case rig::ValueKind::colour: {
        const Colour c = even(value.colour());
        const Duty parts[] = {c.red, c.green, c.blue};
        for (size_t i = 0; i < 3; ++i)
            add(duty_problem(drive, drive.pins[i], parts[i]));
        break;
    }
    case rig::ValueKind::tone: add(tone_problem(drive.pins.front(), value.tone())); break;
    case rig::ValueKind::stage: {
        for (size_t i = 0; i < drive.pins.size(); ++i) {
            const size_t stage = value.stage().number();
            add(level(drive.pins[i], drive.top_only ? stage == i + 1 : stage > i));
        }
        break;
    }
    }
    return out;
}

} // namespace zorilla::bench
