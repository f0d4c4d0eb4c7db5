// SPDX-License-Identifier: MIT
#include "bench/live/write_back.hpp"

#include "bench/rig_text.hpp"
#include "rig/rig_file.hpp"
#include "rig/sense/said.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

namespace zorilla::bench {

std::string with_text_at(const std::string& text, const rig::Node& node, const std::string& value) {
    RigText changed(text);
    changed.replace(node, fmt::format("\"{}\"", value));
    const std::string out = changed.text();
    const rig::RigFile is = rig::parse_rig(out);
    if (!is.mistakes.empty())
        throw rig::InputError(fmt::format("line {}: with that it would not be understood: {}",
                                          is.mistakes.front().line, is.mistakes.front().text));
    return out;
}

std::string with_setting(const std::string& text, const rig::Rig& rig, const rig::Sense& setting,
                         const std::string& value) {
    return with_text_at(text, *rig::table_of(rig, setting).get("value"), value);
}

} // namespace zorilla::bench
