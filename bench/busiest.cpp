// SPDX-License-Identifier: MIT
#include "bench/busiest.hpp"

#include "bench/replay.hpp"

#include <algorithm>
#include <set>
#include <string>
#include <utility>
#include <vector>

namespace zorilla::bench {

namespace {

/// What came about in a tenth of a span.
using Seen = std::set<std::pair<std::string, uint64_t>>;

void look_at(const rig::Rig& rig, const rig::RunningRig& running, Seen& seen) {
    std::string together;
    for (size_t i = 0; i < rig.drives.size(); ++i) {
        const rig::Driven& driven = running.drivens()[i];
        together += driven.is_on ? '1' : '0';
        seen.insert({rig.drives[i].name + (driven.is_on ? " is on" : " is off"), 0});
        seen.insert({rig.drives[i].name, driven.cause == Cause::claim
                                             ? driven.claim
                                             : 1000 + static_cast<uint64_t>(driven.cause)});
    }
    seen.insert({together, 0});
}

} // namespace

int64_t busiest_of(const rig::Rig& rig, const std::string& trace, int64_t span) {
    constexpr size_t pieces = 10;
    const int64_t piece = std::max<int64_t>(1, span / static_cast<int64_t>(pieces));
    TraceReader reader(trace, columns_of(rig), [](uint64_t, const std::string&) {});
    rig::RunningRig running(rig);
    std::vector<Seen> seen;
    std::vector<rig::Raw> before(rig.senses.size());
    int64_t begin = 0;
    while (reader.next()) {
        const int64_t now = reader.milliseconds();
        if (seen.empty())
            begin = now;
        seen.resize(std::max(seen.size(), static_cast<size_t>((now - begin) / piece) + 1));
        running.pass(Instant(static_cast<uint32_t>(now)), reader.raws());
        look_at(rig, running, seen.back());
        for (size_t i = 0; i < before.size(); ++i)
            if (const rig::Raw& raw = reader.raws()[i]; raw.taken()) {
                if (before[i].taken() && raw.bits() != before[i].bits())
                    seen.back().insert({rig.senses[i].name + " changes", 0});
                before[i] = raw;
            }
    }
    size_t best = 0, most = 0;
    for (size_t from = 0; from + pieces <= seen.size(); ++from) {
        Seen all;
        for (size_t i = from; i < from + pieces; ++i)
            all.insert(seen[i].begin(), seen[i].end());
        if (all.size() > most) {
            most = all.size();
            best = from;
        }
    }
    return begin + static_cast<int64_t>(best) * piece;
}

} // namespace zorilla::bench
