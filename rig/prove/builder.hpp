// SPDX-License-Identifier: MIT
/// \file
/// Building the circuit of one pass, part by part, in the order in which a running rig goes through
/// them. Only for rig/prove/ itself.
#pragma once

#include "rig/drive/part.hpp"

namespace zorilla::rig::prove {

class Builder : public Pass {
  public:
    Builder(const Rig& of, bool with_self_test) : Pass(of), with_self_test_(with_self_test) {}
    Model build();

  private:
    void source(size_t index);
    std::vector<int> look_of(size_t source, int32_t value) const;
    void given_facts();
    void edges_of(size_t fact);
    void decide(size_t index);
    Three last(const Decide& decide, Three truth);
    void machine(size_t index);
    void hand(size_t index);
    void shutdown();
    void self_test();
    void drive(size_t index);
    WishWires wish(size_t index);
    Much asked(size_t index, const RigClaim& claim, Three when);
    Much pattern(size_t index, const RigClaim& claim, Three when);

    bool with_self_test_;
    Wire tests_ = never;
    std::vector<Wire> turn_;
};

} // namespace zorilla::rig::prove
