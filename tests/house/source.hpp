// SPDX-License-Identifier: MIT
// Where this project's own files stand, and pieces of their texts.
#pragma once

#include <algorithm>
#include <filesystem>
#include <string>
#include <vector>

namespace house {

inline const std::filesystem::path source = ZORILLA_SOURCE;

/// Every text that stands in `text` between `before` and `after`, blanks at its ends taken off.
inline std::vector<std::string> between(const std::string& text, const std::string& before,
                                        const std::string& after) {
    std::vector<std::string> out;
    for (size_t at = 0; (at = text.find(before, at)) != std::string::npos;) {
        at += before.size();
        const size_t end = text.find(after, at);
        const size_t begin = std::min(text.find_first_not_of(" \n", at), end);
        out.push_back(text.substr(begin, end - begin));
    }
    return out;
}

} // namespace house
