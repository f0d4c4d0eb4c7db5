// SPDX-License-Identifier: MIT
#include "bench/live/sending.hpp"

#include "rig/emit/device.hpp"
#include "rig/sense/said.hpp"

#include <zorilla/board/trace_row.hpp>

#include <fmt/format.h>

namespace zorilla::bench {

namespace {

/// A wire that takes each character at once.
struct Wire {
    static inline thread_local std::string text;
    static bool send(char c) {
        text += c;
        return true;
    }
};

/// Whether the next word of a command is a name.
bool names(Command& command, const std::string& name) {
    return command.is(ProgramText{name.c_str()});
}

} // namespace

SendingDevice::SendingDevice(const rig::Rig& rig)
    : rig_(rig), running_(rig), header_(rig::header_of(rig)), number_(rig::number_of(rig)) {
    for (size_t i = 0; i < rig.senses.size(); ++i) {
        const rig::Sense& sense = rig.senses[i];
        if (!sense.pin.empty())
            continue;
        const rig::Node& table = rig::table_of(rig, sense);
        if (sense.word == "line_setting") {
            const SettingSpec spec = rig::setting_of(table);
            settings_.push_back({i, spec, spec.usual});
        } else {
            said_.push_back({i, LineInput(rig::longest_said(table),
                                          sense.raw == rig::RawKind::level ? 1 : said_full)});
        }
    }
}

void SendingDevice::hear(std::string_view bytes) { heard_ += bytes; }

Answer SendingDevice::change(Command& command, bool sets, Instant now) {
    for (Setting& setting : settings_)
        if (names(command, rig_.senses[setting.sense].name)) {
            if (sets)
                return detail::set_setting(command, setting.spec.from, setting.spec.to,
                                           setting.spec.step, setting.code);
            if (!command.ends())
                return Answer::no_name;
            setting.code = setting.spec.usual;
            return Answer::ok;
        }
    for (Said& said : said_)
        if (names(command, rig_.senses[said.sense].name)) {
            if (sets)
                return said.input.set(command, now);
            if (!command.ends())
                return Answer::no_name;
            said.input.clear();
            return Answer::ok;
        }
    return Answer::no_name;
}

std::string SendingDevice::obey(Command command, Instant now) {
    if (command.is_only(ProgramText{"header"}))
        return header();
    if (command.is_only(ProgramText{"who"}))
        return fmt::format("ok {:08x}\n", number_);
    const bool sets = command.is(ProgramText{"set"});
    const Answer answer = !sets && !command.is(ProgramText{"clear"}) ? Answer::no_command
                                                                     : change(command, sets, now);
    return text_of(answer).begin;
}

std::string SendingDevice::pass(Instant now, std::vector<rig::Raw> raws) {
    std::string answer;
    // A chip that listens to nobody has no such names; nor has it anybody who answers.
    for (size_t i = 0; i < heard_.size() && in_.line() == nullptr; heard_.erase(0, 1))
        in_.take(heard_[i], false);
    if (in_.line() != nullptr) {
        if (!said_.empty() || !settings_.empty())
            answer = obey(Command(in_.line()), now);
        in_.done();
    }
    for (Said& said : said_) {
        if (rig_.senses[said.sense].raw == rig::RawKind::level) {
            raws[said.sense] = rig::Raw(said.input.level(now).level() == Level::high ? 1 : 0);
        } else {
            const Sample sample = said.input.sample(now);
            raws[said.sense] = sample.taken() ? rig::Raw(sample) : rig::Raw();
        }
    }
    for (const Setting& setting : settings_)
        raws[setting.sense] = rig::Raw(int64_t{setting.code});
    running_.pass(now, raws.data());
    return row(now, raws) + answer;
}

std::string SendingDevice::row(Instant now, const std::vector<rig::Raw>& raws) const {
    CheckedRow<255> out;
    out.begin(now, check_start(number_));
    for (size_t i = 0; i < raws.size(); ++i)
        switch (rig_.senses[i].raw) {
        case rig::RawKind::code: put_raw(out, raws[i].sample()); break;
        case rig::RawKind::microseconds: put_raw(out, raws[i].echo()); break;
        case rig::RawKind::frame: put_raw(out, raws[i].frame()); break;
        case rig::RawKind::level: put_raw(out, raws[i].level()); break;
        case rig::RawKind::edges:
            put_raw(out,
                    PulseSample{static_cast<uint16_t>(raws[i].bits()), 0, raws[i].bits() >= 0});
            break;
        }
    for (const rig::Driven& driven : running_.drivens())
        put_output(out, static_cast<uint32_t>(driven.value.bits()));
    Wire::text.clear();
    while (!out.done())
        out.send<Wire>();
    return std::move(Wire::text);
}

} // namespace zorilla::bench
