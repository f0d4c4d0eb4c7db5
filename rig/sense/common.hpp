// SPDX-License-Identifier: MIT
/// \file
/// What the readers of all kinds of sensors share.
#pragma once

#include "rig/sense/filters.hpp"
#include "rig/sense/part.hpp"

#include <zorilla/sense/sense.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::rig {

template <class Q> Q of(std::optional<int32_t> thousandths) {
    return Q::from_thousandths(thousandths.value_or(0));
}

/// A quantity as a double, in the unit in which a formula has it.
inline double volts(std::optional<int32_t> microvolts) { return microvolts.value_or(0) / 1e6; }
inline double thousandth_of(std::optional<int32_t> value) { return value.value_or(0) / 1e3; }

/// A block from a function of the time, the raw input and the readings so far.
template <class Pass> class FunctionBlock : public Block {
  public:
    explicit FunctionBlock(Pass pass) : pass_(std::move(pass)) {}
    void pass(Instant now, Raw raw, const AnyReading* sources, AnyReading* out) override {
        pass_(now, raw, sources, out);
    }
    std::unique_ptr<Block> copy() const override { return std::make_unique<FunctionBlock>(*this); }

  private:
    Pass pass_;
};
/// Each start gets its own copy of `pass`, and so its own state.
template <class Pass> StartBlock starts(Pass pass) {
    return [pass] { return std::make_unique<FunctionBlock<Pass>>(pass); };
}

/// A list of pairs, each of two quantities, or of a number and a quantity.
/// \param take  takes both nodes of a pair; false if they cannot be understood
template <class Take>
bool read_pairs(TableReader& keys, std::string_view key, size_t least, size_t most,
                std::string_view example, Take take) {
    const auto* list = keys.list(key, least, most, example);
    if (list == nullptr)
        return false;
    for (const Node& node : list->inside()) {
        const Node* pair = node.as_list();
        if (pair == nullptr || pair->size() != 2) {
            keys.findings().add(node,
                                fmt::format("each of \"{}\" must be a pair; for example {} = {}",
                                            key, key, example));
            return false;
        }
        if (!take((*pair)[0], (*pair)[1]))
            return false;
    }
    return true;
}

/// For a part of which the rest cannot be looked at: its other keys are not called unknown.
inline ReadPart unread(TableReader& keys) {
    keys.ignore_the_rest();
    return {};
}

} // namespace zorilla::rig
