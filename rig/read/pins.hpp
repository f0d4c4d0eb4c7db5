// SPDX-License-Identifier: MIT
/// \file
/// The pin plan of a rig: who uses which pin how, and whether its chip can do all of that at once.
#pragma once

#include "rig/read/findings.hpp"

#include <zorilla/board/chips/chip.hpp>

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::rig {

/// A pin in use.
struct PinUse {
    Place place; ///< where the file names it; line 0: nowhere, the chip takes it by itself
    std::optional<size_t> pin; ///< among those of the chip; none if it has no such pin
    std::string table;
    PinWay way;
    std::string name;   ///< as the file has it
    bool given = false; ///< not named by the file: the chip's own line or reference is there
};

class PinPlan {
  public:
    const std::vector<PinUse>& uses() const { return uses_; }
    /// Notes a pin; complains if the chip has none of that name, or somebody else uses it.
    /// \param chip  null: one of which nothing is known  \param table  who uses it, "[drive.lamp]"
    void claim(const ChipFacts* chip, const Node& node, PinWay way, const std::string& table,
               Findings& findings);
    /// The same of a pin that the chip gives to something by itself, said at `place`.
    void give(const ChipFacts& chip, Place place, const char* pin, PinWay way,
              const std::string& table, Findings& findings);
    /// Says how outputs use the pins that they have claimed, once that is known.
    void use(const std::string& table, PinWay way);
    /// Complains about what the chip cannot do, each with a pin that would do.
    void finish(Findings& findings);

  private:
    using Use = PinUse;
    using Owners = std::vector<std::optional<Use>>; ///< of each timer
    std::string problem_of(const Use& use, const Owners& owners) const;
    /// A pin that could be used so, as a sentence goes on.
    std::string another(const Use& use);

    const ChipFacts* chip_ = nullptr;
    std::vector<Use> uses_;
    Owners owners_;
    Owners planned_;            ///< the same, once what was proposed is done
    std::vector<bool> offered_; ///< pins that were proposed to somebody
};

} // namespace zorilla::rig
