// SPDX-License-Identifier: MIT
// The derived quantities of a rig file, by the names of their parts.
#include "rig/derive/part.hpp"

namespace zorilla::rig {

std::vector<PartKey> air_keys() {
    return {{"temperature", "\"air.temperature\""}, {"humidity", "\"air.humidity\""}};
}
std::vector<PartKey> several_keys() { return {{"of", "[\"roost\", \"yard\"]"}, {"needed", "2"}}; }

std::vector<size_t> read_of(PartReader& in, size_t least, size_t most, Kind& kind) {
    std::vector<size_t> out;
    const std::string_view example = "[\"roost\", \"yard\"]";
    in.keys.require("of", "the names of what it is made of", example);
    const auto* list = in.keys.list("of", least, most, example);
    if (list == nullptr)
        return out;
    for (const Node& node : list->inside()) {
        const auto source = in.keys.source_of(node, "of", in.rig, out.empty() ? nullptr : &kind);
        if (!source)
            return {};
        kind = in.rig.sources[*source].kind;
        out.push_back(*source);
        if (kind == Kind::truth) {
            in.keys.findings().add(node, fmt::format("{} is yes or no; this needs a quantity",
                                                     in.rig.sources[*source].name));
            return {};
        }
    }
    return out;
}

ReadPart read_derive(PartReader& in, Derive& out) {
    Names names;
    for (const DeriveKind& kind : derive_kinds())
        names.emplace_back(kind.word);
    const auto part = in.keys.choice("part", names);
    if (!part) {
        if (in.keys.find("part") == nullptr)
            in.keys.complain(fmt::format("{} needs \"part\", what is to be made; possible are {}",
                                         in.keys.label(), TableReader::listed(names)));
        in.keys.ignore_the_rest();
        return {};
    }
    const DeriveKind& kind =
        *std::find_if(derive_kinds().begin(), derive_kinds().end(),
                      [&part](const DeriveKind& one) { return one.word == *part; });
    out.word = kind.word;
    in.keys.allow(kind.keys);
    return kind.read(in, out);
}

} // namespace zorilla::rig
