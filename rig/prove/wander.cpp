// SPDX-License-Identifier: MIT
// Where waits are not all that is left open (how far a fade has come, how often something was
// counted), chance finds what no sequence of the solver's hits.
#include "rig/prove/replay.hpp"

#include "rig/decide/part.hpp"
#include "rig/drive/part.hpp"

#include <algorithm>
#include <random>

namespace zorilla::rig::prove {

std::vector<int64_t> times_of(const Rig& rig) {
    std::vector<int64_t> out;
    const auto add = [&out](Duration time) {
        if (time > Duration{})
            out.push_back(time.thousandths());
    };
    for (const Decide& decide : rig.decides) {
        if (decide.lasting) {
            add(decide.lasting->yes_for);
            add(decide.lasting->no_for);
        }
        for (const Duration time : decide.part->times())
            add(time);
    }
    for (const RigMachine& machine : rig.machines)
        for (const MachineMove& move : machine.moves)
            add(Duration::from_thousandths(static_cast<int32_t>(move.after)));
    for (const Drive& drive : rig.drives) {
        for (const Duration time : drive.part->times())
            add(time);
        if (drive.hand)
            add(drive.hand->longest);
        for (const RigClaim& claim : drive.claims)
            for (const auto& step : claim.pattern)
                add(step.time);
    }
    add(rig.shutdown.gap);
    return out;
}

std::vector<Raw> Player::raws_of(size_t sense) {
    std::vector<Raw> out;
    for (const auto& [look, input] : inputs_of(sense))
        if (input.edges_per_second < 0)
            out.push_back(input.raw);
    return out;
}

namespace {

/// Spans of time to try: those that mean something to the rig, and parts of them.
std::vector<int64_t> spans_of(const Rig& rig) {
    std::vector<int64_t> out = {1, 20, 100, 1000};
    for (const int64_t time : times_of(rig))
        for (const int64_t part : {8, 2, 1})
            out.push_back(time / part + 1);
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

/// Whether rows come to the line; those behind that are dropped.
bool comes_to(const Rig& rig, size_t line, std::vector<Row>& rows) {
    RunningRig running(rig);
    const int64_t begin = rows.front().time;
    for (size_t i = 0; i < rows.size(); ++i) {
        running.pass(Instant(static_cast<uint32_t>(rows[i].time - begin)), rows[i].raws.data());
        if (truth_of_line(running, rig.nevers[line]) != Truth::no) {
            rows.resize(i + 1);
            return true;
        }
    }
    return false;
}

/// Leaves out rows as long as the rest still comes to the line: many at once first.
void cut(const Rig& rig, size_t line, std::vector<Row>& rows) {
    for (size_t size = rows.size() / 2; size > 0; size /= 2)
        for (size_t at = 0; at + size < rows.size();) {
            std::vector<Row> fewer = rows;
            fewer.erase(fewer.begin() + static_cast<ptrdiff_t>(at),
                        fewer.begin() + static_cast<ptrdiff_t>(at + size));
            if (comes_to(rig, line, fewer))
                rows = std::move(fewer);
            else
                at += size;
        }
}

} // namespace

std::optional<std::vector<Row>> wander(const Rig& rig, size_t line, Player& player,
                                       Deadline deadline) {
    constexpr int lives = 120, passes = 250;
    std::mt19937_64 random(20'011); // the same each time
    const std::vector<int64_t> spans = spans_of(rig);
    std::vector<std::vector<Raw>> raws;
    for (size_t i = 0; i < rig.senses.size(); ++i) {
        raws.push_back(player.raws_of(i));
        if (raws.back().empty())
            raws.back().push_back(Raw());
    }
    for (int life = 0; life < lives && std::chrono::steady_clock::now() < deadline; ++life) {
        std::vector<Row> rows;
        Row row{0, std::vector<Raw>(rig.senses.size())};
        const uint64_t calm = 2 + random() % 10;
        for (int i = 0; i < passes; ++i) {
            for (size_t s = 0; s < raws.size(); ++s)
                if (i == 0 || random() % calm == 0)
                    row.raws[s] = raws[s][random() % raws[s].size()];
            rows.push_back(row);
            row.time += spans[random() % spans.size()];
        }
        if (!comes_to(rig, line, rows))
            continue;
        cut(rig, line, rows);
        return rows;
    }
    return std::nullopt;
}

} // namespace zorilla::rig::prove
