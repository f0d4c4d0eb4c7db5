// SPDX-License-Identifier: MIT
// A value that is set over the serial line, and kept.
#include "rig/sense/said.hpp"

#include <algorithm>
#include <cmath>

namespace zorilla::rig {

namespace {

/// A kind whose numbers a setting can be of.
std::optional<Kind> kind_of_setting(TableReader& keys) {
    const auto text = keys.required_text("value", "6 degC", "what it is until somebody sets it");
    Kind kind{};
    if (!text || !kind_of(*text, kind))
        return std::nullopt;
    // Nobody sets how warm it is to be in kelvin; by how much, everybody.
    if (kind == Kind::temperature && text->back() == 'K')
        return Kind::temperature_difference;
    return kind;
}

ReadPart read_line_setting(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    const auto kind = kind_of_setting(keys);
    if (!kind) {
        if (const Node* value = keys.find("value"); value != nullptr)
            keys.expect(false, "value", "a value with its unit, such as \"6 degC\"");
        return unread(keys);
    }
    const std::string example(example_of(*kind));
    const auto usual = keys.quantity("value", *kind, example);
    const auto from = keys.required_quantity("from", *kind, example, "the least that it may be");
    const auto to = keys.required_quantity("to", *kind, example, "the most that it may be");
    if (!usual || !from || !to)
        return unread(keys);
    const bool fine = *from < *to && int64_t{*to} - *from <= 2'000'000'000;
    keys.expect(fine, "from", "less than \"to\"");
    keys.expect(!fine || (*from <= *usual && *usual <= *to), "value",
                "between \"from\" and \"to\"");
    if (!fine || *usual < *from || *usual > *to)
        return {};
    const SettingSpec spec = setting_between(*from, *to, *usual);
    out.largest_raw = spec.last();
    out.about = fmt::format("setting; {} until it is set over the serial line, kept",
                            to_text(spec.value(spec.usual), *kind));
    auto part = std::make_shared<SensePart>(
        starts([spec](Instant, Raw raw, const AnyReading*, AnyReading* to_reading) {
            *to_reading = any(said_setting<AnyQuantity>(spec, raw.sample()));
        }),
        [spec](const Surroundings& around, Noise&, Fault fault, Raw) {
            const double wanted = (around.value * 1000 - spec.from) / spec.step;
            return fault == Fault::dropped ? Raw()
                                           : Raw(static_cast<int64_t>(std::lround(std::clamp(
                                                 wanted, 0.0, static_cast<double>(spec.last())))));
        },
        CodeScale());
    part->typed = [spec](Raw raw) {
        const int32_t value = spec.value(static_cast<uint16_t>(raw.bits()));
        return fmt::format("{}{}.{:03}", value < 0 ? "-" : "", std::abs(value) / 1000,
                           std::abs(value) % 1000);
    };
    out.part = std::move(part);
    return {true, {{out.name, *kind, *from, spec.value(spec.last())}}};
}

} // namespace

SenseKind line_setting_room() {
    return {"line_setting",
            17,
            false,
            std::nullopt,
            {},
            {{"value", "\"6 degC\"", ""}, {"from", "\"4.5 degC\"", ""}, {"to", "\"12 degC\"", ""}},
            read_line_setting,
            {{{"", "setting({from}, {to}, {value})"}},
             "",
             "",
             "said_setting<{type}>({part}, {in})",
             "",
             "Sample"},
            {}};
}

} // namespace zorilla::rig
