// SPDX-License-Identifier: MIT
// Which sensor looks at what, and which output acts where.
#include "bench/world/around.hpp"
#include "rig/sense/part.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::bench {

using rig::Kind;

namespace {

/// How much the numbers of a sensor stray by themselves, where the world does not say: in counts of
/// the converter, or in mm.
double usual_noise(const rig::Sense& sense) {
    return sense.raw == rig::RawKind::code           ? 0.7
           : sense.raw == rig::RawKind::microseconds ? 1.0
                                                     : 0.0;
}

} // namespace

WorldWiring::WorldWiring(const World& world, const rig::Rig& rig)
    : world_(&world), rig_(&rig), seen_(rig.senses.size()) {
    std::vector<std::string> drives;
    for (const rig::Drive& drive : rig.drives)
        drives.push_back(drive.name);
    for (const World::Output& output : world.outputs) {
        const auto is = std::find(drives.begin(), drives.end(), output.name);
        outputs_.push_back(static_cast<size_t>(is - drives.begin()));
        if (is == drives.end())
            complain(output.place, fmt::format("the rig has no output \"{0}\", and the world no "
                                               "[people.{0}]{1}",
                                               output.name, rig::suggestion(output.name, drives)));
    }
    for (const Sees& as : world.sees)
        if (std::none_of(rig.senses.begin(), rig.senses.end(),
                         [&](const rig::Sense& sense) { return sense.name == as.sensor; }))
            complain(as.place, fmt::format("the rig has no [sense.{}]", as.sensor));
    told_.resize(rig.sources.size());
    for (size_t i = 0; i < rig.senses.size(); ++i) {
        connect(i);
        tell(i);
    }
    for (const WorldFault& fault : world.faults) {
        std::string problem;
        broken_.push_back(find_broken(fault, problem).value_or(0));
        if (!problem.empty())
            complain(fault.place, problem);
    }
    std::stable_sort(mistakes_.begin(), mistakes_.end(),
                     [](const auto& a, const auto& b) { return a.line < b.line; });
}

std::optional<size_t> WorldWiring::find_broken(const WorldFault& fault,
                                               std::string& problem) const {
    const bool output = fault.what == WorldFault::Of::output;
    const auto find = [&](const auto& parts) -> std::optional<size_t> {
        std::vector<std::string> names;
        for (size_t i = 0; i < parts.size(); ++i) {
            if (parts[i].name == fault.of)
                return i;
            names.push_back(parts[i].name);
        }
        problem =
            fmt::format("the rig has no {} \"{}\" that could be {}{}", output ? "output" : "sensor",
                        fault.of, says_of(fault), rig::suggestion(fault.of, names));
        return std::nullopt;
    };
    return fault.what == WorldFault::Of::supply ? std::optional<size_t>(0)
           : output                             ? find(rig_->drives)
                                                : find(rig_->senses);
}

void WorldWiring::connect(size_t index) {
    const rig::Sense& sense = rig_->senses[index];
    const rig::Source& source = rig_->sources[sense.source];
    Seen& seen = seen_[index];
    const Sees* as = nullptr;
    for (const Sees& one : world_->sees)
        if (one.sensor == sense.name)
            as = &one;
    if (sense.pin.empty()) { // what is said over the line: nobody says it here
        if (as != nullptr)
            complain(as->place,
                     fmt::format("[sense.{}] is said over the line, and sees nothing", sense.name));
        return;
    }
    seen.looks = true;
    seen.first = source.lowest / 1000.0;
    seen.last = source.highest / 1000.0;
    seen.noise = as != nullptr && as->noise ? *as->noise : usual_noise(sense);
    seen.lag = as == nullptr ? 0 : as->lag;
    for (const WorldValue& value : world_->values)
        if (value.kind == Kind::temperature) {
            seen.has_at = true; // whatever comes first: mostly the weather
            seen.at = *world_->value(value.name);
            break;
        }
    if (as != nullptr && as->at) {
        seen.has_at = true;
        seen.at = *world_->value(*as->at);
    }
    if (as != nullptr && as->fixed) {
        if (as->fixed->kind != source.kind)
            complain(as->place,
                     fmt::format("[sense.{}] reads {}, not {}", sense.name,
                                 rig::name_of(source.kind), rig::name_of(as->fixed->kind)));
        seen.fixed = true;
        seen.value = as->fixed->thousandths / 1000.0;
        return;
    }
    const std::string of = as != nullptr && !as->of.empty() ? as->of : sense.name;
    if (const auto value = world_->value(of))
        return connect_to(index, as == nullptr ? Sees() : *as, *value);
    if (source.kind == Kind::truth) { // a button that nobody presses
        seen.fixed = true;
        return;
    }
    complain(as != nullptr ? as->place : rig::Place{1, 1},
             fmt::format("nothing is said of what [sense.{0}] sees: name what it looks at as "
                         "[sees.{0}] with of = \"...\", or give it a value that stays, such as "
                         "value = \"{1}\"",
                         sense.name, rig::example_of(source.kind)));
}

void WorldWiring::connect_to(size_t index, const Sees& as, uint32_t of) {
    const rig::Sense& sense = rig_->senses[index];
    const rig::Source& source = rig_->sources[sense.source];
    Seen& seen = seen_[index];
    const WorldValue& value = world_->values[of];
    const rig::Place place = as.place.line != 0 ? as.place : rig::Place{1, 1};
    seen.of = of;
    // Who looks at air is as warm and as damp as that.
    for (const auto& element : world_->elements)
        if (const auto climate = element->climate(); climate && element->value == of) {
            if (!as.at) {
                seen.has_at = true;
                seen.at = climate->warm;
            }
            seen.damp = climate->damp.has_value();
            seen.humidity = climate->damp.value_or(0);
        }
    if (source.kind == Kind::truth && value.kind != Kind::truth) {
        if (!as.above || as.above->kind != value.kind) {
            complain(place, fmt::format("[sense.{0}] is yes or no, and \"{1}\" is {2}: say from "
                                        "when on it is yes, such as above = \"{3}\"",
                                        sense.name, value.name, rig::name_of(value.kind),
                                        rig::example_of(value.kind)));
            return;
        }
        seen.judged = true;
        seen.above = as.above->thousandths / 1000.0;
        return;
    }
    if (as.from) {
        if (value.kind != Kind::length || source.kind != Kind::length)
            complain(place, "\"from\" is for a ranger above a tank: how far it is from it to the "
                            "bottom");
        seen.turned = true;
        seen.from = *as.from;
    }
    if (value.kind != source.kind)
        complain(place,
                 fmt::format("[sense.{}] reads {}, but \"{}\" is {}", sense.name,
                             rig::name_of(source.kind), value.name, rig::name_of(value.kind)));
    else if (value.kind == Kind::length && !as.from)
        complain(place,
                 fmt::format("[sense.{0}] looks at the level of \"{1}\" from somewhere: say "
                             "[sees.{0}] with of = \"{1}\" and from = \"900 mm\", how far it is "
                             "from it to the bottom",
                             sense.name, value.name));
}

void WorldWiring::tell(size_t index) {
    const rig::Sense& sense = rig_->senses[index];
    const Seen& seen = seen_[index];
    if (!seen.looks || rig_->sources[sense.source].kind == Kind::truth)
        return;
    told_[sense.source] = {true, seen.fixed, seen.turned, seen.turned ? seen.from : seen.value,
                           seen.of};
    for (size_t i = 1; i < sense.sources && seen.has_at; ++i)
        told_[sense.source + i] = {true, false, false, 0, seen.at};
}

} // namespace zorilla::bench
