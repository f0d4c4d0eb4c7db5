// SPDX-License-Identifier: MIT
#include "bench/live/setting.hpp"

#include "rig/sense/part.hpp"
#include "rig/sense/said.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

namespace zorilla::bench {

using rig::InputError;

const rig::Sense& setting_called(const rig::Rig& rig, const std::string& name) {
    std::vector<std::string> names;
    for (const rig::Sense& sense : rig.senses) {
        if (sense.word != "line_setting")
            continue;
        if (sense.name == name)
            return sense;
        names.push_back(sense.name);
    }
    if (names.empty())
        throw InputError(
            fmt::format("{} has no setting: what is to be changed on a running device is "
                        "a [sense.NAME] with part = \"line_setting\", as "
                        "docs/rig-file.md has it",
                        rig.name));
    throw InputError(fmt::format("there is no setting \"{}\"{}; there {} {}", name,
                                 rig::suggestion(name, names), names.size() == 1 ? "is" : "are",
                                 fmt::join(names, ", ")));
}

NewSetting new_setting(const rig::Rig& rig, const std::string& name, const std::string& text) {
    const rig::Sense& setting = setting_called(rig, name);
    const SettingSpec spec = rig::setting_of(rig::table_of(rig, setting));
    const rig::Kind kind = rig.sources[setting.source].kind;
    const rig::QuantityText value = rig::parse_quantity(text, kind, rig::example_of(kind));
    if (!value.problem.empty())
        throw InputError(fmt::format("{}: {}", setting.name, value.problem));
    if (value.thousandths < spec.from || value.thousandths > spec.value(spec.last()))
        throw InputError(fmt::format("{}: {} is outside of what the rig file lets it be, {} to {}",
                                     setting.name, text, rig::to_text(spec.from, kind),
                                     rig::to_text(spec.value(spec.last()), kind)));
    const uint16_t code = spec.code(value.thousandths);
    return {&setting, spec.value(code),
            fmt::format("set {} {}", setting.name, setting.part->typed(rig::Raw(int64_t{code})))};
}

} // namespace zorilla::bench
