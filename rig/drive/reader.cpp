// SPDX-License-Identifier: MIT
#include "rig/drive/reader.hpp"

#include <fmt/format.h>

namespace zorilla::rig {

std::optional<AnyValue> DriveReader::value_of(const Node& node, std::string_view key,
                                              const Drive& drive) {
    const auto* text = node.as_text();
    if (text == nullptr) {
        scope.findings.add(node, fmt::format("\"{}\" must be a text, such as \"{}\"", key,
                                             example_of(drive.kind())));
        return std::nullopt;
    }
    ValueText read = parse_value(*text, drive.kind());
    if (read.problem.empty())
        return read.value;
    scope.findings.add(node, std::move(read.problem));
    return std::nullopt;
}

std::optional<AnyValue> DriveReader::value(std::string_view key, const Drive& drive) {
    const Node* node = keys.find(key);
    return node == nullptr ? std::nullopt : value_of(*node, key, drive);
}

std::optional<Duration> DriveReader::time(std::string_view key, std::string_view example) {
    const auto time = keys.quantity(key, Kind::duration, example);
    return time ? std::optional(Duration::from_thousandths(*time)) : std::nullopt;
}

void DriveReader::active(Drive& out, bool needed) {
    const auto level = keys.choice("active", {"low", "high"});
    if (needed && !level && keys.find("active") == nullptr)
        keys.complain(fmt::format("{} needs \"active\", the level that switches it on, \"low\" or "
                                  "\"high\"; many relay modules are \"low\"",
                                  keys.label()));
    out.active = level == "low" ? active_low : active_high;
}

void DriveReader::values(Drive& out) {
    const auto safe = value("safe", out);
    if (!safe && keys.find("safe") == nullptr)
        keys.complain(fmt::format("{} needs \"safe\", what it does when a sensor fails, such as "
                                  "\"off\" or \"{}\"; for a heater write safe = \"off\"",
                                  keys.label(), example_of(out.kind())));
    out.safe = safe.value_or(AnyValue());
    // A pattern stands for its own claim behind all others.
    const Node* rest = keys.find("rest");
    const auto* name = rest == nullptr ? nullptr : rest->as_text();
    if (name == nullptr || (patterns_.find(*name) == nullptr && !names_nothing(*rest, *name, out)))
        out.rest = value("rest", out).value_or(AnyValue());
}

} // namespace zorilla::rig
