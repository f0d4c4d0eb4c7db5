// SPDX-License-Identifier: MIT
// How a rig's program is to pass and to send, where a command is asked for either.
#include "cli/command.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::cli {

rig::FirmwarePlan firmware_plan(const std::string& path, const rig::Rig& rig,
                                const std::string& pass_text, bool sends) {
    const ChipFacts& chip = known_chip(path, rig);
    if (sends && rig::line_named(chip, rig.line)->kind == LineKind::none)
        throw rig::InputError(fmt::format("--send: {} uses no line; the {} can send on {} by a "
                                          "timer: write line = \"{}\" in [board]",
                                          path, chip.name, chip.lines[1].sends,
                                          chip.lines[1].name));
    const int64_t pass = time_option("--pass", pass_text, "100 ms");
    if (pass > 10'000)
        throw rig::InputError("--pass: at most \"10 s\"; outputs must follow their sensors");
    if (const int64_t round = rig::converter_round(rig); round > pass)
        throw rig::InputError(fmt::format(
            "{}: the converter takes {} ms to come round all channels, and a pass has {}; let it "
            "last longer, such as --pass \"{} ms\", or ask for fewer \"extra_bits\"",
            path, round, rig::span_to_text(pass), (round + 49) / 50 * 50));
    tell_repeated_echoes(path, rig, pass);
    const int64_t report = rig.report.thousandths();
    if (sends && report > 0 && report < pass)
        throw rig::InputError(fmt::format("--send: {} reports each {}, and passes each {}; let a "
                                          "pass be shorter, with --pass, or \"report\" longer",
                                          path, rig::span_to_text(report),
                                          rig::span_to_text(pass)));
    // A character goes out in each millisecond.
    if (const auto row = static_cast<int64_t>(rig::row_size(rig));
        sends && row + 5 > std::max(pass, report))
        throw rig::InputError(fmt::format(
            "--send: a row of this rig takes up to {0} characters, and so {0} ms; let {1}", row,
            report > 0 ? fmt::format("\"report\" be longer: \"{} ms\"", (row + 54) / 50 * 50)
                       : fmt::format("a pass last longer, such as --pass \"{} ms\", or let it "
                                     "report less often: report = \"1 s\" in [board]",
                                     (row + 54) / 50 * 50)));
    if (sends && rig::row_size(rig) > 255)
        throw rig::InputError(
            fmt::format("--send: a row of this rig takes up to {} characters, and "
                        "a device keeps at most 255; leave parts out",
                        rig::row_size(rig)));
    return {Duration::from_thousandths(static_cast<int32_t>(pass)), sends};
}

} // namespace zorilla::cli
