// SPDX-License-Identifier: MIT
// The sensors of a rig file, by the names of their parts.
#include "rig/sense/analogue.hpp"

#include "rig/read/keys.hpp"

namespace zorilla::rig {

std::vector<PartKey> with_analogue_keys(std::vector<PartKey> own) {
    static const std::vector<PartKey> more = {
        {"extra_bits", "2", ""},
        {"spread", "8", ""},
        {"range", "[\"-30 degC\", \"60 degC\"]", ".range({.0}, {.1})"},
        {"accuracy", "\"0.1 K\"", ".accuracy({})"},
        {"wire_check", "\"off\"", "off=.without_wire_check()"},
    };
    return with_filter_keys(keys::with(std::move(own), more));
}

std::vector<PartKey> with_divider_keys(std::vector<PartKey> own) {
    static const std::vector<PartKey> more = {
        {"pull_up", "\"10 kohm\"", ".pull_up({})"},
        {"pull_down", "\"10 kohm\"", ".pull_down({})"},
        {"supply", "\"5 V\"", ".supplied({}, {reference})"},
        {"reference", "\"3.3 V\"", ""},
    };
    return with_analogue_keys(keys::with(std::move(own), more));
}

const SenseKind* sense_kind(std::string_view word) {
    for (const SenseKind& kind : sense_kinds())
        if (kind.word == word)
            return &kind;
    return nullptr;
}

ReadPart read_sensor(PartReader& in, Sense& out) {
    Names names;
    for (const SenseKind& kind : sense_kinds())
        names.emplace_back(kind.word);
    const auto name = in.keys.choice("part", names);
    if (!name) {
        if (in.keys.find("part") == nullptr)
            in.keys.complain(
                fmt::format("{} needs \"part\", what kind of sensor it is; possible are {}",
                            in.keys.label(), TableReader::listed(names)));
        return unread(in.keys);
    }
    const SenseKind& kind = *sense_kind(*name);
    out.word = kind.word;
    in.keys.allow(kind.keys);
    return kind.read(in, out);
}

} // namespace zorilla::rig
