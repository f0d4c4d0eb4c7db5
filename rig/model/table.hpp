// SPDX-License-Identifier: MIT
/// \file
/// What a rig file says, as plain data: texts, numbers, lists and tables, each with its place, and
/// each text that is a quantity with what it was understood to be. All else of a rig is made from
/// it. It knows nothing of how it was written down.
#pragma once

#include "rig/text/text.hpp"

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::rig {

/// Where something stands in a file; both count from 1.
struct Place {
    uint32_t line = 0;
    uint32_t column = 0;
};

/// The name of a table or of a value in it, as it is written.
struct Key {
    std::string text;
    Place place;
};

/// A quantity, of whatever kind.
struct Measure {
    int32_t thousandths = 0;
    Kind kind = Kind::temperature;
};

/// A value, a list or a table.
class Node {
  public:
    enum class Type : uint8_t { text, whole, number, yes_no, other, list, table };

    static Node text(std::string value, Place place = {}) {
        Node out(Type::text, place);
        out.text_ = std::move(value);
        return out;
    }
    static Node whole(int64_t value, Place place = {}) {
        Node out(Type::whole, place);
        out.whole_ = value;
        return out;
    }
    static Node number(double value, Place place = {}) {
        Node out(Type::number, place);
        out.number_ = value;
        return out;
    }
    static Node yes_no(bool value, Place place = {}) {
        Node out(Type::yes_no, place);
        out.whole_ = value ? 1 : 0;
        return out;
    }
    static Node other(Place place) { return Node(Type::other, place); } ///< a date or a time
    static Node list(Place place = {}) { return Node(Type::list, place); }
    static Node table(Place place = {}) { return Node(Type::table, place); }

    Type type() const { return type_; }
    Place place() const { return place_; }
    bool is_table() const { return type_ == Type::table; }
    bool is_list() const { return type_ == Type::list; }
    bool is_text() const { return type_ == Type::text; }
    bool is_number() const { return type_ == Type::whole || type_ == Type::number; }

    /// Null where it is something else.
    const std::string* as_text() const { return is_text() ? &text_ : nullptr; }
    const Node* as_list() const { return is_list() ? this : nullptr; }
    const Node* as_table() const { return is_table() ? this : nullptr; }
    std::optional<int64_t> as_whole() const {
        return type_ == Type::whole ? std::optional(whole_) : std::nullopt;
    }
    std::optional<bool> as_yes_no() const {
        return type_ == Type::yes_no ? std::optional(whole_ != 0) : std::nullopt;
    }
    std::optional<double> as_number() const {
        return type_ == Type::number  ? std::optional(number_)
               : type_ == Type::whole ? std::optional(static_cast<double>(whole_))
                                      : std::nullopt;
    }

    /// Of a list or a table: what is in it, in the order of the file.
    const std::vector<Node>& inside() const { return inside_; }
    std::vector<Node>& inside() { return inside_; }
    size_t size() const { return inside_.size(); }
    const Node& operator[](size_t i) const { return inside_[i]; }
    void add(Node node) { inside_.push_back(std::move(node)); }
    /// Of a table: the name of each of those.
    const std::vector<Key>& keys() const { return keys_; }
    void add(Key key, Node node) {
        keys_.push_back(std::move(key));
        inside_.push_back(std::move(node));
    }
    /// Takes out what stands under a key.
    void drop(std::string_view key) {
        for (size_t i = keys_.size(); i-- > 0;)
            if (keys_[i].text == key) {
                keys_.erase(keys_.begin() + static_cast<ptrdiff_t>(i));
                inside_.erase(inside_.begin() + static_cast<ptrdiff_t>(i));
            }
    }
    Node* get(std::string_view key) {
        return const_cast<Node*>(static_cast<const Node&>(*this).get(key));
    }
    /// What stands under a key; null if nothing does, or this is no table.
    const Node* get(std::string_view key) const {
        for (size_t i = 0; i < keys_.size(); ++i)
            if (keys_[i].text == key)
                return &inside_[i];
        return nullptr;
    }

    /// What a text was understood to be; whoever reads a part says so, once it is known what its
    /// keys hold.
    const std::optional<Measure>& measure() const { return measure_; }
    void understood(Measure measure) const { measure_ = measure; }

    /// Whether both say the same, wherever it stands and whatever units it is written in. Tables
    /// within a table have an order, that of the parts of a rig; other values have none.
    friend bool operator==(const Node& a, const Node& b) {
        if (a.is_number() && b.is_number())
            return a.as_number() == b.as_number();
        if (a.type_ != b.type_ || a.size() != b.size())
            return false;
        if (a.is_table())
            return a.has_all_of(b);
        if (a.measure_ && b.measure_)
            return a.measure_->kind == b.measure_->kind &&
                   a.measure_->thousandths == b.measure_->thousandths;
        return a.text_ == b.text_ && a.whole_ == b.whole_ && a.inside_ == b.inside_;
    }
    friend bool operator!=(const Node& a, const Node& b) { return !(a == b); }

  private:
    Node(Type type, Place place) : type_(type), place_(place) {}

    bool has_all_of(const Node& other) const {
        std::vector<std::string_view> order, other_order;
        for (size_t i = 0; i < size(); ++i) {
            const Node* same = other.get(keys_[i].text);
            if (same == nullptr || *same != inside_[i])
                return false;
            if (inside_[i].is_table())
                order.push_back(keys_[i].text);
            if (other.inside_[i].is_table())
                other_order.push_back(other.keys_[i].text);
        }
        return order == other_order;
    }

    Type type_;
    Place place_;
    std::string text_;
    int64_t whole_ = 0;
    double number_ = 0;
    std::vector<Key> keys_;
    std::vector<Node> inside_;
    mutable std::optional<Measure> measure_; ///< found out while it is read
};

} // namespace zorilla::rig
