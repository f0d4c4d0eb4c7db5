// SPDX-License-Identifier: MIT
#include "rig/text/moments.hpp"

#include "rig/text/text.hpp"

#include <string_view>

namespace zorilla::rig {

namespace {

/// Takes a whole number of at most so many digits from the beginning of a text.
std::optional<int64_t> take_number(std::string_view& text, size_t most) {
    int64_t out = 0;
    size_t digits = 0;
    while (digits < text.size() && digits < most && text[digits] >= '0' && text[digits] <= '9')
        out = out * 10 + (text[digits++] - '0');
    text.remove_prefix(digits);
    return digits > 0 ? std::optional(out) : std::nullopt;
}
bool take_sign(std::string_view& text, char sign) {
    if (text.empty() || text.front() != sign)
        return false;
    text.remove_prefix(1);
    return true;
}

/// "11:05", "06:30:05", "06:30:05.250" in milliseconds.
std::optional<int64_t> clock_of(std::string_view text) {
    const auto hours = take_number(text, 2);
    if (!hours || *hours > 23 || !take_sign(text, ':'))
        return std::nullopt;
    const auto minutes = take_number(text, 2);
    if (!minutes || *minutes > 59)
        return std::nullopt;
    int64_t milliseconds = 0;
    if (take_sign(text, ':')) {
        const auto seconds = take_number(text, 2);
        if (!seconds || *seconds > 59)
            return std::nullopt;
        milliseconds = *seconds * 1000;
        if (take_sign(text, '.')) {
            const size_t before = text.size();
            const auto part = take_number(text, 3);
            if (!part)
                return std::nullopt;
            const size_t digits = before - text.size();
            milliseconds += *part * (digits == 1 ? 100 : digits == 2 ? 10 : 1);
        }
    }
    return text.empty() ? std::optional((*hours * 60 + *minutes) * 60'000 + milliseconds)
                        : std::nullopt;
}

} // namespace

std::optional<int64_t> moment_of(const std::string& text) {
    std::string_view left = without_blanks(text);
    if (const auto clock = clock_of(left))
        return clock;
    if (const auto days = take_number(left, 5); days && take_sign(left, 'd'))
        if (const auto clock = clock_of(without_blanks(left)))
            return *days * 86'400'000 + *clock;
    const QuantityText read = parse_quantity(text, Kind::duration, "30 h");
    return read.problem.empty() && read.thousandths >= 0 ? std::optional<int64_t>(read.thousandths)
                                                         : std::nullopt;
}

} // namespace zorilla::rig
