// SPDX-License-Identifier: MIT
// The outputs of a rig file, by the names of their parts.
#include "rig/drive/reader.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

namespace {

/// Whether what is to be dimmed hangs where it can be.
void look_at_pins(Scope& scope, const Node& table, const DriveKind& kind, const Drive& drive) {
    const auto between = [&drive](AnyValue value) {
        const uint8_t share = value.share(drive.kind());
        return share > 0 && share < 255;
    };
    const bool fades = drive.part != nullptr && kind.fades && !drive.part->swings().empty();
    bool dims = kind.dims || fades || between(drive.safe) || between(drive.rest);
    for (const RigClaim& claim : drive.claims) {
        dims = dims || between(claim.then) || (claim.follows && drive.kind() == ValueKind::duty);
        for (const auto& step : claim.pattern)
            dims = dims || between(step.value);
    }
    if (!dims)
        return;
    for (const char* key : {"pin", "red_pin", "green_pin", "blue_pin"})
        if (const Node* node = table.get(key); node != nullptr && node->is_text())
            if (const std::string& pin = *node->as_text(); !scope.has_pwm(pin))
                scope.findings.add(*node,
                                   fmt::format("{} can only be on or off; a duty needs a pin "
                                               "with PWM: PB1, PB2, PB3, PD3, PD5 or PD6",
                                               pin));
}

} // namespace

void read_drive(Scope& scope, const Key& key, TableReader& keys, Patterns& patterns) {
    Drive out;
    out.name = key.text;
    out.place = key.place;
    keys.allow({{"part", "\"relay\""}});
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
    DriveReader reader(scope, keys, patterns);
    kind.read(reader, out);
    if (part_name)
        reader.claims(out);
    else
        keys.ignore_the_rest();
    look_at_pins(scope, keys.table(), kind, out);
    scope.rig.drives.push_back(std::move(out));
}

} // namespace zorilla::rig
