// SPDX-License-Identifier: MIT
#include "cli/verdicts.hpp"

#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::cli {

bool print_verdicts(Page& page, const std::vector<bench::Verdict>& verdicts) {
    size_t width = 0;
    for (const bench::Verdict& verdict : verdicts)
        width = std::max(width, std::min<size_t>(verdict.says.size(), 60));
    bool kept = true;
    for (const bench::Verdict& verdict : verdicts) {
        std::string became = "kept";
        if (!verdict.judged)
            became = "open: nothing came that it speaks of";
        else if (verdict.broken) {
            kept = false;
            became = page.warning(fmt::format(
                "{}{}, first at {}", verdict.maybe ? "may have been broken" : "broken",
                verdict.times == 1 ? ""
                                   : fmt::format(" {} times", rig::count_to_text(verdict.times)),
                rig::time_to_text(verdict.first)));
            if (verdict.maybe)
                became += ": what it looks at was unknown";
        }
        if (verdict.judged && !verdict.how.empty())
            became += "; " + verdict.how;
        if (verdict.outside > 0)
            became += fmt::format(", outside for {}", rig::span_to_text(verdict.outside));
        if (verdict.judged && verdict.unknown > 0)
            became += fmt::format("; not known for {}", rig::span_to_text(verdict.unknown));
        page.line(fmt::format("  {:<{}}  {}", verdict.says, width, became));
    }
    return kept;
}

void print_promises(Page& page, const rig::Rig& rig) {
    if (rig.promises.empty())
        return;
    page.line();
    page.line(page.bold("Promises, which try, run and history judge"));
    for (const rig::Promise& promise : rig.promises)
        page.line(fmt::format("  {:<16}{}", promise.name, promise.says));
}

} // namespace zorilla::cli
