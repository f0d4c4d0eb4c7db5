// SPDX-License-Identifier: MIT
// history --promises: whether a device has kept them.
#include "cli/history.hpp"
#include "cli/verdicts.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::cli {

bool judge_history(bench::History& history, const bench::KnownDevice& device, const rig::Rig& rig,
                   const bench::HistorySpan& span, Page& page) {
    if (rig.promises.empty() && rig.nevers.empty())
        throw rig::InputError(fmt::format("the rig of {} promises nothing and says nothing that "
                                          "never is; add a [promise.NAME] or a line of never to it "
                                          "before it is watched",
                                          device.name));
    bench::Judge judge(rig);
    int64_t judged = 0, open = 0;
    int64_t last = 0; // of the judge's time, which never goes back
    for (const bench::Stretch& stretch : history.stretches(device.id, span.from, span.to)) {
        // What a device remembered that was joined later is not known, and so not what it promised.
        if (!stretch.whole) {
            open += stretch.rows;
            continue;
        }
        rig::RunningRig running(rig);
        judge.starts_anew();
        // By the device's own clock, whatever ours was set to meanwhile.
        const int64_t ahead = std::max(stretch.begin - span.from, last) - stretch.first;
        each_row(history, rig, stretch, [&](int64_t clock, bench::Utc at, const rig::Raw* raws) {
            running.pass(Instant(static_cast<uint32_t>(clock)), raws);
            if (at < span.from || at >= span.to)
                return;
            last = clock + ahead;
            judge.pass(last, running);
            ++judged;
        });
    }
    page.line(page.bold(fmt::format("{}, {} to {} UTC: promises, by what was read", rig.name,
                                    bench::utc_text(span.from), bench::utc_text(span.to))));
    if (judged == 0) {
        page.line("  Nothing is kept that could be judged.");
        return true;
    }
    const bool kept = print_verdicts(page, judge.verdicts());
    page.line(fmt::format("Times count from the first of these moments; {} rows were judged{}.",
                          rig::count_to_text(static_cast<uint64_t>(judged)),
                          open > 0 ? fmt::format(", and {} are open, since the device had been on "
                                                 "before it was watched",
                                                 rig::count_to_text(static_cast<uint64_t>(open)))
                                   : ""));
    return kept;
}

} // namespace zorilla::cli
