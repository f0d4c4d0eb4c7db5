// SPDX-License-Identifier: MIT
#include "rig/model/fact.hpp"

namespace zorilla::rig {

FactFrom from_of(Fact::Kind kind) {
    struct Row {
        Fact::Kind kind;
        FactFrom from;
    };
    constexpr Row rows[] = {
        {Fact::Kind::switched, FactFrom::source},    {Fact::Kind::decision, FactFrom::truth},
        {Fact::Kind::lost, FactFrom::source},        {Fact::Kind::rises, FactFrom::edge},
        {Fact::Kind::falls, FactFrom::edge},         {Fact::Kind::at_least, FactFrom::decision},
        {Fact::Kind::locked, FactFrom::decision},    {Fact::Kind::in_state, FactFrom::machine},
        {Fact::Kind::enters, FactFrom::machine},     {Fact::Kind::leaves, FactFrom::machine},
        {Fact::Kind::warns, FactFrom::part},         {Fact::Kind::warns_off, FactFrom::part},
        {Fact::Kind::by_hand, FactFrom::hand},       {Fact::Kind::stalled, FactFrom::part},
        {Fact::Kind::shut_down, FactFrom::shutdown}, {Fact::Kind::is_on, FactFrom::nobody},
        {Fact::Kind::at_full, FactFrom::nobody},
    };
    for (const Row& row : rows)
        if (row.kind == kind)
            return row.from;
    return FactFrom::nobody;
}

} // namespace zorilla::rig
