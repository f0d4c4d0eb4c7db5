// SPDX-License-Identifier: MIT
// The outputs of a rig file, by the names of their parts.
#include "rig/drive/reader.hpp"

#include "rig/read/keys.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

bool is_dimmed(const Drive& drive) {
    const auto between = [&drive](AnyValue value) { return value.is_between(drive.kind()); };
    bool dims = (drive.part != nullptr && drive.part->is_dimmed_on_its_way()) ||
                between(drive.safe) || between(drive.rest);
    for (const RigClaim& claim : drive.claims) {
        dims = dims || between(claim.then) || (claim.follows && drive.kind() == ValueKind::duty) ||
               std::any_of(claim.in_turn.begin(), claim.in_turn.end(), between);
        for (const auto& step : claim.pattern)
            dims = dims || between(step.value);
    }
    return dims;
}

void read_drive(Scope& scope, const Key& key, TableReader& keys, Patterns& patterns) {
    Drive out;
    out.name = key.text;
    out.place = key.place;
    keys.allow(rig::keys::of_drive);
    Names names;
    for (const DriveKind& kind : drive_kinds())
        names.emplace_back(kind.word);
    const auto part_name = keys.choice("part", names);
    if (!part_name && keys.find("part") == nullptr)
        keys.complain(fmt::format("{} needs \"part\", what kind of output it is; write part = "
                                  "\"relay\", or one of {}",
                                  keys.label(), TableReader::listed(names)));
    const auto found = std::find_if(drive_kinds().begin(), drive_kinds().end(),
                                    [&](const DriveKind& kind) { return part_name == kind.word; });
    const DriveKind& kind = found == drive_kinds().end() ? drive_kinds().front() : *found;
    out.word = kind.word;
    out.values = kind.values;
    keys.allow(kind.keys);
    if (!part_name) { // something stands for it that can be named
        keys.ignore_the_rest();
        scope.rig.drives.push_back(std::move(out));
        return;
    }
    DriveReader reader(scope, keys, patterns);
    kind.read(reader, out);
    reader.claims(out);
    if (kind.way != PinWay::level || is_dimmed(out))
        scope.plan.use(keys.label(), std::max(kind.way, PinWay::duty));
    scope.rig.drives.push_back(std::move(out));
}

} // namespace zorilla::rig
