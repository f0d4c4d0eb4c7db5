// SPDX-License-Identifier: MIT
// The sensors of a rig file, by the names of their parts.
#include "rig/sense/analogue.hpp"

namespace zorilla::rig {

std::vector<PartKey> with_analogue_keys(std::vector<PartKey> own) {
    static const PartKey keys[] = {
        {"extra_bits", "2"},
        {"spread", "8"},
        {"range", "[\"-30 degC\", \"60 degC\"]"},
        {"accuracy", "\"0.1 K\""},
        {"wire_check", "\"off\""},
    };
    own.insert(own.end(), std::begin(keys), std::end(keys));
    return with_filter_keys(std::move(own));
}

std::vector<PartKey> with_divider_keys(std::vector<PartKey> own) {
    static const PartKey keys[] = {
        {"pull_up", "\"10 kohm\""},
        {"pull_down", "\"10 kohm\""},
        {"supply", "\"5 V\""},
        {"reference", "\"3.3 V\""},
    };
    own.insert(own.end(), std::begin(keys), std::end(keys));
    return with_analogue_keys(std::move(own));
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
