// SPDX-License-Identifier: MIT
/// \file
/// Moments as a person writes them and events are told.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

namespace zorilla::rig {

/// "1d 11:05:30", "11:05", "06:30:05.250", or a plain duration such as "30 h"; in milliseconds from
/// the beginning of the first day. Nothing for any other text.
std::optional<int64_t> moment_of(const std::string& text);

} // namespace zorilla::rig
