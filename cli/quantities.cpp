// SPDX-License-Identifier: MIT
#include "cli/quantities.hpp"

#include "rig/read/findings.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

namespace zorilla::cli {

using rig::InputError;
using rig::Kind;

double quantity(const std::string& option, const std::string& text, Kind kind,
                std::string_view example) {
    const rig::QuantityText read = rig::parse_quantity(text, kind, example);
    if (!read.problem.empty())
        throw InputError(fmt::format("{}: {}", option, read.problem));
    return rig::in_formulas(read.thousandths, kind);
}

double above_zero(const std::string& option, const std::string& text, Kind kind,
                  std::string_view example) {
    const double out = quantity(option, text, kind, example);
    if (out <= 0)
        throw InputError(fmt::format("{}: \"{}\" must be above 0; write for example \"{}\"", option,
                                     text, example));
    return out;
}

Wish wish_of(const std::string& given, const rig::Rig& rig, bool one) {
    const size_t is = given.find('='), to = given.find("..");
    rig::Names names;
    for (const rig::Source& source : rig.sources)
        if (source.kind != rig::Kind::truth)
            names.push_back(source.name);
    const std::string name = given.substr(0, is);
    Wish out;
    while (out.source < rig.sources.size() && (rig.sources[out.source].name != name ||
                                               rig.sources[out.source].kind == rig::Kind::truth))
        ++out.source;
    if (is == std::string::npos || out.source == rig.sources.size() ||
        (to == std::string::npos ? !one : to < is))
        throw rig::InputError(
            fmt::format("--wish: \"{}\": write a reading and between what it is to be, such as "
                        "{}=\"{}\"..\"{}\"{}",
                        given, names.empty() ? "roost" : names.front(),
                        rig::to_text(rig.sources.front().lowest, rig.sources.front().kind),
                        rig::to_text(rig.sources.front().highest, rig.sources.front().kind),
                        rig::suggestion(name, names)));
    const rig::Kind kind = rig.sources[out.source].kind;
    const auto end = [&](const std::string& text) {
        const rig::QuantityText value = rig::parse_quantity(text, kind, rig::example_of(kind));
        if (!value.problem.empty())
            throw rig::InputError("--wish: " + value.problem);
        return value.thousandths;
    };
    out.text = given.substr(is + 1);
    out.lowest = out.highest =
        end(given.substr(is + 1, to == std::string::npos ? to : to - is - 1));
    if (to != std::string::npos) {
        out.highest = end(given.substr(to + 2));
        if (out.lowest >= out.highest)
            throw rig::InputError(
                fmt::format("--wish: \"{}\": the first end is not below the second", given));
    }
    return out;
}

} // namespace zorilla::cli
