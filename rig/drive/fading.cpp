// SPDX-License-Identifier: MIT
#include "rig/drive/fading.hpp"

#include <fmt/format.h>

namespace zorilla::rig {

using namespace prove;

Much faded(const Drive& drive, Much before, Much wish, Duration swing, Wire begins, Pass& pass) {
    if (swing <= Duration{})
        return wish;
    const Much from = pass.choose(begins, Much{}, before);
    const auto is_some = [&pass](Much m) { return pass.both(m.any, opposite(m.full)); };
    const Wire alike = pass.both(pass.same(from.any, wish.any), pass.same(from.full, wish.full));
    const Wire settled = pass.both(alike, opposite(is_some(wish)));
    const Wire may_arrive = pass.input(), may_leave = pass.input();
    const Wire moves = pass.both(opposite(settled), opposite(begins));
    const Wire arrives = pass.both(moves, may_arrive);
    const Wire leaves = pass.both(pass.both(moves, opposite(may_arrive)), may_leave);
    const Wire stays = pass.both(pass.both(moves, opposite(may_arrive)), opposite(may_leave));
    // Since it last stood still. Roughly: how far it has to go is not known here.
    const size_t timer = pass.clock();
    pass.starts(timer, pass.either(begins, pass.either(settled, arrives)));
    const int64_t span = swing.thousandths();
    const std::string fade = drive.name + " fades";
    pass.model.waits.push_back(
        {timer, arrives, begins, may_arrive, span + span / 16, std::nullopt, fade});
    pass.model.waits.push_back(
        {timer, leaves, begins, may_leave, span / 100 + 1, std::nullopt, fade});
    pass.model.waits.push_back(
        {timer, stays, begins, may_leave, std::nullopt, span / 256, std::string()});
    return pass.choose(pass.either(arrives, settled), wish,
                       pass.choose(leaves, Much{always, never}, from));
}

Much much_of(const Drive& drive, AnyValue value) {
    return {value.any() ? always : never, value.any() && is_full(drive, value) ? always : never};
}

} // namespace zorilla::rig
