// SPDX-License-Identifier: MIT
#include "bench/rig_text.hpp"

#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::bench {

/// Where a line and a column of it begin, from 1; the end of the text if there are none. Columns
/// count characters, of which some have several bytes.
size_t RigText::offset_of(rig::Place place) const {
    size_t at = 0;
    for (uint32_t line = 1; line < place.line && at < text_.size(); ++line)
        at = std::min(text_.find('\n', at), text_.size() - 1) + 1;
    for (uint32_t column = 1; column < place.column && at < text_.size(); ++column)
        for (++at; at < text_.size() && (static_cast<uint8_t>(text_[at]) & 0xc0) == 0x80;)
            ++at;
    return at;
}

void RigText::replace(const rig::Node& node, const std::string& with) {
    const size_t begin = offset_of(node.place());
    size_t length = 0;
    if (const std::string* text = node.as_text()) {
        // A plain text between two quotes of one kind.
        const char quote = begin < text_.size() ? text_[begin] : '\0';
        const size_t end = begin + 1 + text->size();
        if ((quote == '"' || quote == '\'') && text_.compare(begin + 1, text->size(), *text) == 0 &&
            end < text_.size() && text_[end] == quote)
            length = text->size() + 2;
    } else if (const auto whole = node.as_whole()) {
        const std::string digits = fmt::format("{}", *whole);
        if (text_.compare(begin, digits.size(), digits) == 0)
            length = digits.size();
    }
    if (length == 0)
        throw rig::InputError(fmt::format("line {}: cannot be changed by itself; write {} there",
                                          node.place().line, with));
    changes_[{begin, length}] = with;
}

void RigText::insert(const rig::Key& before, const std::string& key, bool all_in_one_line) {
    changes_[{offset_of(before.place), 0}] = key + (all_in_one_line ? ", " : "\n");
}

void RigText::fill(const rig::Node& table, const std::string& key) {
    const size_t begin = offset_of(table.place());
    if (begin < text_.size() && text_[begin] == '{') {
        changes_[{begin + 1, 0}] = " " + key + " ";
        return;
    }
    // Under its header.
    const size_t end = std::min(text_.find('\n', begin), text_.size());
    changes_[{end, 0}] = "\n" + key;
}

std::string RigText::text() const {
    std::string out = text_;
    // From behind, so that places stay.
    for (auto change = changes_.rbegin(); change != changes_.rend(); ++change)
        out.replace(change->first.first, change->first.second, change->second);
    return out;
}

} // namespace zorilla::bench
