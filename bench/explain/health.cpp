// SPDX-License-Identifier: MIT
// What stands behind the health of a sensor.
#include "bench/explain/explain.hpp"

#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

namespace zorilla::bench {

using rig::to_text;
using rig::with_article;

std::string Explainer::readings_of(const rig::Sense& sense) const {
    std::string out;
    for (size_t i = sense.source; i < sense.source + sense.sources; ++i)
        out += fmt::format("{}{}", out.empty() ? "reads " : ", ",
                           rig::reading_text(running_.readings()[i].value_or({}).thousandths(),
                                             running_.rig().sources[i].kind));
    return out;
}

std::string Explainer::why_out_of_range(const rig::Sense& sense, const std::string& came,
                                        rig::Raw raw) const {
    const rig::Source& source = running_.rig().sources[sense.source];
    const std::string range = fmt::format("{} to {}", to_text(source.lowest, source.kind),
                                          to_text(source.highest, source.kind));
    if (!rig::codes_of(sense).known() || raw.bits() < 0)
        return fmt::format("{}: outside {}", came, range);
    const bool at_low_end =
        (raw.bits() < rig::codes_of(sense).first) == rig::codes_of(sense).rising;
    const bool degrees = source.kind == rig::Kind::temperature;
    return fmt::format("{}: {} than {}", came,
                       degrees      ? at_low_end ? "colder" : "warmer"
                       : at_low_end ? "less"
                                    : "more",
                       to_text(at_low_end ? source.lowest : source.highest, source.kind));
}

namespace {

/// Whether the last byte of a frame is the sum of the others.
bool has_right_sum(int64_t frame) {
    const int64_t sum =
        (frame >> 32) + (frame >> 24 & 0xff) + (frame >> 16 & 0xff) + (frame >> 8 & 0xff);
    return (sum & 0xff) == (frame & 0xff);
}

} // namespace

std::string came_text(const rig::Sense& sense, rig::Raw raw) {
    return raw.is_silent()                    ? std::string("no answer")
           : !raw.taken()                     ? std::string("no sample in this pass")
           : sense.raw == rig::RawKind::frame ? fmt::format("frame {:010x}", raw.bits())
           : sense.raw == rig::RawKind::code
               ? fmt::format("code {} of {}", raw.bits(), sense.largest_raw)
               : fmt::format("{} {}", raw.bits(), rig::unit_of(sense.raw));
}

std::string Explainer::why_health(size_t index, rig::Raw raw) const {
    const rig::Sense& sense = running_.rig().senses[index];
    const rig::AnyReading reading = running_.readings()[sense.source];
    if (reading.ok())
        return readings_of(sense);
    for (const size_t input : sense.inputs) {
        const Health other = running_.readings()[input].health();
        if (other == reading.health())
            return fmt::format("cannot be corrected: {} has {}", running_.rig().sources[input].name,
                               with_article(other));
    }
    const rig::Source& source = running_.rig().sources[sense.source];
    const std::string came =
        sense.raw == rig::RawKind::code
            ? fmt::format("code {} of {}", raw.bits(), sense.largest_raw)
        : sense.raw == rig::RawKind::frame
            ? raw.bits() < 0 ? "no frame" : fmt::format("frame {:010x}", raw.bits())
            : fmt::format("{} {}", raw.bits(), rig::unit_of(sense.raw));
    switch (reading.health()) {
    case Health::ok: break;
    case Health::missing:
        return raw.is_silent() ? "it does not answer"
               : sense.raw == rig::RawKind::level && raw.taken()
                   ? "its level has not held still for long enough yet"
               : sense.raw == rig::RawKind::edges && raw.taken()
                   ? "it has not counted for long enough yet"
               : sense.raw == rig::RawKind::frame ? "no good frame for too long"
                                                  : "no sample";
    case Health::open_circuit: return came + ": a wire is off or broken";
    case Health::short_circuit:
        return came + (sense.shorted_reads_supply ? ": no supply, or the output touches ground"
                                                  : ": the wires touch");
    case Health::out_of_range: return why_out_of_range(sense, came, raw);
    case Health::warming: return "its heater is not warm yet";
    case Health::stale: return "no sample for too long";
    case Health::bad_frame:
        if (raw.bits() >> 8 == 0)
            return came + ": it is empty, as from a sensor that has not measured yet";
        return came +
               (has_right_sum(raw.bits()) ? ": its tenths are none" : ": its checksum is wrong");
    case Health::no_echo: return "nothing came back";
    case Health::too_near:
        return fmt::format("{}: nearer than {}", came, to_text(source.lowest, source.kind));
    case Health::too_far:
        return fmt::format("{}: further than {}", came, to_text(source.highest, source.kind));
    case Health::implausible: return came + ": a jump further than it can change";
    case Health::stuck: return came + ": has not moved for longer than a live sensor holds still";
    }
    return {};
}

} // namespace zorilla::bench
