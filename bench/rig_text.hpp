// SPDX-License-Identifier: MIT
/// \file
/// The text of a rig file, changed at places of it; all else, comments too, stays as it is to the
/// letter.
#pragma once

#include "rig/model/table.hpp"

#include <map>
#include <string>
#include <string_view>
#include <utility>

namespace zorilla::bench {

class RigText {
  public:
    explicit RigText(std::string_view text) : text_(text) {}

    /// A plain text or a whole number becomes something else.
    /// \param with  as it is written, with its quotes
    /// \throws rig::InputError  where the text does not say there what the node says
    void replace(const rig::Node& node, const std::string& with);
    /// One key more in front of another of the same table, on a line of its own or in one with it.
    /// \param key  "chip = \"rp2040\""  \param all_in_one_line  as in { a = 1, b = 2 }
    void insert(const rig::Key& before, const std::string& key, bool all_in_one_line);
    /// The first key of a table that is there and has none.
    void fill(const rig::Node& table, const std::string& key);
    /// More in front of everything.
    void insert_first(const std::string& lines) { changes_[{0, 0}] = lines; }

    std::string text() const;

  private:
    size_t offset_of(rig::Place place) const;

    std::string text_;
    std::map<std::pair<size_t, size_t>, std::string>
        changes_; ///< by where it begins and its length
};

} // namespace zorilla::bench
