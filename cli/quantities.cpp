// SPDX-License-Identifier: MIT
#include "cli/quantities.hpp"

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

} // namespace zorilla::cli
