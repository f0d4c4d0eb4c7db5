// SPDX-License-Identifier: MIT
#include "bench/question.hpp"

#include "rig/text/files.hpp"
#include "rig/text/moments.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <vector>

namespace zorilla::bench {

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
    auto found = std::find(names.begin(), names.end(), name);
    // A sensor of two quantities by its own name: the first of them, of the same frame.
    for (const rig::Sense& sense : rig.senses)
        if (found == names.end() && sense.name == name)
            found = std::find(names.begin(), names.end(), rig.sources[sense.source].name);
    if (found == names.end())
        throw rig::InputError(
            fmt::format("--why \"{}\": there is no output, decision, machine or sensor \"{}\"{}",
                        text, name, rig::suggestion(name, names)));
    const auto time = rig::moment_of(text.substr(at + 1));
    if (!time)
        throw rig::InputError(fmt::format("--why \"{}\": \"{}\" is no time; write it as in the "
                                          "timeline, or as a duration: {}, or --why \"{}@30 h\"",
                                          text, text.substr(at + 1), such_as, name));
    Question out = asked[static_cast<size_t>(found - names.begin())];
    out.milliseconds = *time;
    return out;
}

} // namespace zorilla::bench
