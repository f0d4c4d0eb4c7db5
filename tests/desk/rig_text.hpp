// SPDX-License-Identifier: MIT
// Rigs as texts, changed in a place, and what is said of them.
#pragma once

#include "rig/rig_file.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <string>

namespace desk {

/// A text with one part of it in place of another.
inline std::string with(std::string text, const std::string& before, const std::string& after) {
    const size_t at = text.find(before);
    EXPECT_NE(at, std::string::npos) << before;
    return at == std::string::npos ? text : text.replace(at, before.size(), after);
}

/// All that is wrong with a rig, a line each: where, and what.
inline std::string mistakes_of(const std::string& text) {
    std::string out;
    for (const zorilla::rig::Mistake& mistake : zorilla::rig::parse_rig(text).mistakes)
        out += fmt::format("{}:{}: {}\n", mistake.line, mistake.column, mistake.text);
    return out;
}

} // namespace desk
