// SPDX-License-Identifier: MIT
#include "bench/question.hpp"

#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstdio>
#include <optional>
#include <vector>

namespace zorilla::bench {

namespace {

/// "1d 11:05:30", "11:05", and a plain duration.
std::optional<int64_t> time_of(const std::string& text) {
    int days = 0, hours = 0, minutes = 0, seconds = 0, length = 0;
    const int all = static_cast<int>(text.size());
    const auto rest = [&](const char* from) {
        seconds = 0;
        const int left = all - static_cast<int>(from - text.c_str());
        return (std::sscanf(from, "%2d:%2d:%2d%n", &hours, &minutes, &seconds, &length) == 3 &&
                length == left) ||
               (std::sscanf(from, "%2d:%2d%n", &hours, &minutes, &length) == 2 && length == left);
    };
    const bool with_days = std::sscanf(text.c_str(), "%4dd %n", &days, &length) == 1 &&
                           length > 0 && rest(text.c_str() + length);
    if (!with_days)
        days = 0;
    if ((with_days || rest(text.c_str())) && hours < 24 && minutes < 60 && seconds < 60 &&
        days >= 0 && hours >= 0)
        return ((days * int64_t{24} + hours) * 3600 + minutes * 60 + seconds) * 1000;
    const rig::QuantityText read = rig::parse_quantity(text, rig::Kind::duration, "30 h");
    return read.problem.empty() && read.thousandths >= 0 ? std::optional<int64_t>(read.thousandths)
                                                         : std::nullopt;
}

} // namespace

Question parse_question(const std::string& text, const rig::Rig& rig) {
    const size_t at = text.find('@');
    std::vector<std::string> names;
    std::vector<Question> asked;
    const auto add = [&](Question::About about, const auto& parts) {
        for (size_t i = 0; i < parts.size(); ++i) {
            names.push_back(parts[i].name);
            asked.push_back({about, i, 0});
        }
    };
    add(Question::About::drive, rig.drives);
    add(Question::About::decide, rig.decides);
    add(Question::About::machine, rig.machines);
    add(Question::About::source, rig.sources);
    const std::string such_as =
        fmt::format("--why \"{}@1d 06:30\"", names.empty() ? "heat_lamp" : names.front());
    if (at == std::string::npos)
        throw rig::InputError(
            fmt::format("--why \"{}\": write an output, a decision, a machine or a "
                        "sensor, @ and a time, such as {}",
                        text, such_as));
    const std::string name = text.substr(0, at);
    const auto found = std::find(names.begin(), names.end(), name);
    if (found == names.end())
        throw rig::InputError(
            fmt::format("--why \"{}\": there is no output, decision, machine or sensor \"{}\"{}",
                        text, name, rig::suggestion(name, names)));
    const auto time = time_of(text.substr(at + 1));
    if (!time)
        throw rig::InputError(fmt::format("--why \"{}\": \"{}\" is no time; write it as in the "
                                          "timeline, or as a duration: {}, or --why \"{}@30 h\"",
                                          text, text.substr(at + 1), such_as, name));
    Question out = asked[static_cast<size_t>(found - names.begin())];
    out.milliseconds = *time;
    return out;
}

} // namespace zorilla::bench
