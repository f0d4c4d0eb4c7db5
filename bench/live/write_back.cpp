// SPDX-License-Identifier: MIT
#include "bench/live/write_back.hpp"

#include "rig/rig_file.hpp"
#include "rig/sense/said.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

namespace zorilla::bench {

namespace {

/// Where a line and a column of it begin, from 1; the end of the text if there are none.
size_t offset_of(const std::string& text, rig::Place place) {
    size_t at = 0;
    for (uint32_t line = 1; line < place.line && at < text.size(); ++line)
        at = std::min(text.find('\n', at), text.size() - 1) + 1;
    return std::min(at + place.column - 1, text.size());
}

} // namespace

std::string with_text_at(const std::string& text, const rig::Node& node, const std::string& key,
                         const std::string& value) {
    // A plain text between two quotes of one kind.
    const size_t begin = offset_of(text, node.place());
    const char quote = begin < text.size() ? text[begin] : '\0';
    const size_t end = quote == '"' || quote == '\'' ? text.find(quote, begin + 1) : text.npos;
    if (end == text.npos || text.substr(begin + 1, end - begin - 1) != *node.as_text())
        throw rig::InputError(
            fmt::format("line {}: cannot be changed by itself; write {} = \"{}\" there",
                        node.place().line, key, value));
    std::string out = text.substr(0, begin + 1) + value + text.substr(end);
    const rig::RigFile is = rig::parse_rig(out);
    if (!is.mistakes.empty())
        throw rig::InputError(fmt::format("line {}: with that it would not be understood: {}",
                                          is.mistakes.front().line, is.mistakes.front().text));
    return out;
}

std::string with_setting(const std::string& text, const rig::Rig& rig, const rig::Sense& setting,
                         const std::string& value) {
    return with_text_at(text, *rig::table_of(rig, setting).get("value"), "value", value);
}

} // namespace zorilla::bench
