// SPDX-License-Identifier: MIT
/// \file
/// Reading the keys of one table of a rig file.
#pragma once

#include "rig/model/rig.hpp"
#include "rig/read/findings.hpp"

#include <optional>

namespace zorilla::rig {

/// A key that a part may have, with a value as it is written: what docs/rig-file.md tells about.
struct PartKey {
    const char* name;
    const char* example;
    /// What it adds to the part's spec in C++, as a form (rig/emit/cpp.hpp); with "off=" before it
    /// only where it says so. Empty where something else says it; null where nothing can yet.
    const char* cpp = nullptr;
};

/// What a person solders to a pin of a part; of several the first that fits.
struct Wired {
    const char* pin_key; ///< which of its pins
    /// A key that it must have, or "active=low"; empty: always.
    const char* when;
    /// `{board}` is what the chip runs on; `{key}` what the file says, `{key|5 V}` with what stands
    /// for one that is not there;
    /// `{supply}` what a divider hangs on; `{series:2}` the resistor of an LED of 2 V, `{base:70}`
    /// that of a transistor's base for a coil of 70 ohm, as they are sized.
    const char* text;
};

/// What stands for a sensor that could not be read, and so may have any quantity: what is wrong
/// with it was said, and "air.humidity" of it is not wrong too.
std::optional<size_t> unknown_source(const Rig& rig, std::string_view name);

/// Reads the keys of one table and complains about what is missing, wrong or unknown.
class TableReader {
  public:
    /// \param keys  all that it may have, whatever of it is asked for; more of them by `allow`
    TableReader(const Node& table, std::string label, Findings& findings,
                const std::vector<PartKey>& keys)
        : table_(table), label_(std::move(label)), findings_(findings), found_(findings.count()) {
        allow(keys);
    }
    void allow(const std::vector<PartKey>& keys) {
        for (const PartKey& key : keys)
            allowed_.emplace_back(key.name);
    }

    const std::string& label() const { return label_; }
    const Node& table() const { return table_; }
    /// What stands under a key; null if nothing does.
    const Node* find(std::string_view key);
    void complain(std::string text) { findings_.add(table_, std::move(text)); }

    /// A text, if the key is there.
    std::optional<std::string> text(std::string_view key, std::string_view example);

    std::optional<std::string> required_text(std::string_view key, std::string_view example,
                                             std::string_view why);

    /// One word out of a few.
    std::optional<std::string> choice(std::string_view key, const Names& choices);

    std::optional<OnOff> on_off(std::string_view key);

    std::optional<int32_t> quantity(std::string_view key, Kind kind, std::string_view example);

    std::optional<int32_t> quantity_of(const Node& node, std::string_view key, Kind kind,
                                       std::string_view example);

    /// A quantity that must be there.
    std::optional<int32_t> required_quantity(std::string_view key, Kind kind,
                                             std::string_view example, std::string_view why);

    /// Complains if a key is not there. \param example  a value as it is written in TOML
    bool require(std::string_view key, std::string_view why, std::string_view example);

    /// A whole number within bounds.
    std::optional<int64_t> whole(std::string_view key, int64_t least, int64_t most);

    /// A plain number without a unit, in thousandths.
    std::optional<int32_t> ratio_of(const Node& node, std::string_view key);
    /// The same in millionths, up to 2,000.
    std::optional<int32_t> millionths_of(const Node& node, std::string_view key);
    std::optional<int32_t> ratio(std::string_view key);

    /// A list of at least `least` and at most `most` entries; complains, with an example, if not.
    const Node* list(std::string_view key, size_t least, size_t most, std::string_view example);

    /// A list of one quantity each. Empty if one of them is wrong, or the key is not there.
    std::vector<int32_t> quantities(std::string_view key, Kind kind, size_t least, size_t most,
                                    std::string_view example);

    /// The source of a name that a key holds, if it is of the right kind. \param wanted  may be
    /// null
    std::optional<size_t> source(std::string_view key, const Rig& rig, const Kind* wanted,
                                 std::string_view why);
    std::optional<size_t> source_of(const Node& node, std::string_view key, const Rig& rig,
                                    const Kind* wanted);

    /// Complains that the value of a key does not lie where it must, unless it does.
    bool expect(bool fine, std::string_view key, std::string_view must);

    Findings& findings() { return findings_; }

    /// Says that it is not known which keys there may be.
    void ignore_the_rest() { ignores_ = true; }

    /// Complains about every key that nobody asked for.
    void finish();

    static std::string listed(const Names& words);
    void unknown_keys();
    static std::string meant_by(const std::string& word, const Names& lacking, bool alone);

  private:
    static bool has(const Rig& rig, Kind kind);
    /// A name for an example: that of a source of the kind, if there is one.
    static std::string likely(const Rig& rig, const Kind* kind);

    const Node& table_;
    std::string label_;
    Findings& findings_;
    Names allowed_;
    Names known_;  ///< those that were asked for
    size_t found_; ///< how many mistakes there were before
    bool ignores_ = false;
};

} // namespace zorilla::rig
