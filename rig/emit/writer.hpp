// SPDX-License-Identifier: MIT
/// \file
/// What the writing of a device's C++ is made of. Only for rig/emit/ itself.
#pragma once

#include "rig/emit/cpp.hpp"
#include "rig/emit/device.hpp"
#include "rig/read/table_reader.hpp"

#include <fmt/format.h>

#include <map>
#include <optional>

namespace zorilla::rig {

/// Writes a device part by part: constants, what it remembers, and its pass.
class DeviceWriter {
  public:
    DeviceWriter(const Rig& rig, std::string_view text, Firmware& out);
    void write(const std::string& name);

    // What the firmware around it needs to know.
    struct Input {
        std::string name, role, type;
        const Sense* sense;
        std::string block;
        std::string part; ///< the constant that it is made of, if there is one
    };
    struct OutputPin {
        std::string role;
        std::string value; ///< what goes to it, of `device`
        std::string is;    ///< what the output is, before its pins are thought of
    };
    const std::vector<Input>& inputs() const { return inputs_; }
    const std::vector<OutputPin>& outputs() const { return outputs_; }

  private:
    // writer_parts.cpp
    void sense(const Sense& sense);
    /// What the climate does to a gas sensor, as a constant; its name.
    std::string climate(const Node& table, const std::string& name);
    /// What tells that a frame says the same for too long.
    void watch_frame(const Node& stuck, const std::string& name, const std::string& reading);
    void filters(const Node& table, const Sense& sense, const std::string& type,
                 std::string& reading, std::string& sample);
    void derive(const Derive& derive);
    void decide(const Decide& decide);
    void timing(const Decide& decide, const Node& table, std::string& truth);
    void machine(const RigMachine& machine);
    // writer_drive.cpp
    void hand(size_t index);
    void drive(size_t index);
    std::string claim(const Drive& drive, const RigClaim& claim, const std::string& hand);
    std::string sequence(const Drive& drive, const RigClaim& claim);
    std::string is_on(const Drive& drive) const;
    void self_test();

    std::string condition(const WrittenCondition& when) const { return of(when.condition); }
    std::string of(const Condition& condition) const;
    std::string fact(size_t index) const;
    void edges(bool of_decides, size_t decide_fact);

    /// A constant of a part: its form by keys, with every key that has one.
    std::string spec(const Node& table, const std::vector<PartKey>& keys,
                     const std::vector<std::pair<const char*, const char*>>& starts,
                     const CppForm& form, const std::string& label, Place place);
    /// Its name: `wanted`, or that of one which is the same, so that the compiler makes one block
    /// of both.
    std::string constant(const std::string& wanted, const std::string& value) {
        std::string& name = constant_names_[value];
        if (name.empty()) {
            name = names_.take(wanted);
            constants_ += fmt::format("inline constexpr auto {} = {};\n", name, value);
        }
        return name;
    }
    void member(const std::string& type, const std::string& name, const std::string& init = {}) {
        members_ += fmt::format("    {} {}{};\n", type, name,
                                init.empty() ? std::string() : "{" + init + "}");
    }
    void statement(const std::string& text) { pass_ += "        " + text + "\n"; }
    /// A local of the pass; it is left out if nobody names it.
    std::string local(const std::string& name, const std::string& value);
    void gap(Place place, std::string text) { out_.gaps.push_back({place, std::move(text)}); }
    /// The comments that stand above a table, and behind its name.
    std::string comment(Place place) const;
    const Node& table_of(const char* group, const std::string& name) const;
    void drop_unused();

    const Rig& rig_;
    std::vector<std::string> lines_; ///< of the file
    Firmware& out_;
    CppNames names_;
    std::map<std::string, std::string> constant_names_; ///< by their values
    std::string constants_, members_, inputs_text_, pass_, begin_;
    std::vector<std::string> locals_;
    std::vector<Input> inputs_;
    std::vector<OutputPin> outputs_;
    std::vector<std::string> sources_;          ///< the reading of each source
    std::map<size_t, std::string> truths_;      ///< of facts that are said in a pass
    std::map<size_t, std::string> decides_;     ///< the member of each decision
    std::map<size_t, std::string> given_;       ///< what a ladder or a curve gives
    std::map<size_t, std::string> machines_;    ///< the member of each machine
    std::map<size_t, std::string> drives_;      ///< the member of each output
    std::map<size_t, std::string> hands_;       ///< the member of each hand
    std::map<size_t, std::string> hand_claims_; ///< the claim of each hand, where it is a local
    std::string shutdown_, test_;
};

} // namespace zorilla::rig
