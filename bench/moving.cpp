// SPDX-License-Identifier: MIT
#include "bench/moving.hpp"

#include "bench/rig_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>

namespace zorilla::bench {

namespace {

using rig::PinUse;

/// How few pins can do that: those go first.
int scarcity(PinWay way) {
    switch (way) {
    case PinWay::servo: return 6;
    case PinWay::tone: return 5;
    case PinWay::analogue: return 4;
    case PinWay::duty: return 3;
    case PinWay::edges: return 2;
    case PinWay::line:
    case PinWay::input:
    case PinWay::level: break;
    }
    return 1;
}

/// Gives each use a pin of another chip.
class Planner {
  public:
    /// \param reserved  pins that the chip gives to its line or reference
    Planner(const ChipFacts& to, std::vector<PinUse> uses, const std::vector<const char*>& reserved)
        : to_(to), uses_(std::move(uses)), used_(to.pin_count), owners_(to.timer_count),
          found_(uses_.size()) {
        for (size_t pin = 0; pin < to.pin_count; ++pin)
            used_[pin] = to.pins[pin].taken != nullptr;
        for (const char* pin : reserved)
            used_[static_cast<size_t>(rig::pin_named(to, pin) - to.pins)] = true;
        taken_before_ = used_;
        for (size_t i = 0; i < uses_.size(); ++i)
            order_.push_back(i);
        std::stable_sort(order_.begin(), order_.end(), [this](size_t a, size_t b) {
            return scarcity(uses_[a].way) > scarcity(uses_[b].way);
        });
    }
    bool plan() { return place(0); }
    const std::vector<size_t>& pins() const { return found_; }
    /// Why there is none.
    std::string why() const {
        if (tries_ > most_tries)
            return fmt::format("no plan was found in {} tries, the furthest without a pin for {}; "
                               "take a chip with more timers, or leave a part out",
                               most_tries, uses_[order_[deepest_]].table);
        const auto wants = [this](bool analogue) {
            return std::count_if(uses_.begin(), uses_.end(), [analogue](const PinUse& use) {
                return !analogue || use.way == PinWay::analogue;
            });
        };
        const auto has = [this](bool analogue) {
            int out = 0;
            for (size_t pin = 0; pin < to_.pin_count; ++pin)
                out += !taken_before_[pin] && (!analogue || to_.pins[pin].channel >= 0) ? 1 : 0;
            return out;
        };
        return fmt::format(
            "there is no pin left for {}: the rig wants {} pins, {} of them of the converter, and "
            "the {} has {} and {}; leave parts out, or take a larger chip",
            uses_[order_[deepest_]].table, wants(false), wants(true), to_.name, has(false),
            has(true));
    }

  private:
    bool can_take(size_t pin, const PinUse& use) const {
        const PinFacts& facts = to_.pins[pin];
        if (used_[pin])
            return false;
        if (use.way == PinWay::analogue)
            return facts.channel >= 0;
        if (facts.name[0] == 'A' || (use.way == PinWay::edges && facts.edges < 0))
            return false;
        if (!is_made_by_timer(use.way))
            return true;
        if (facts.timer < 0 || !can(to_.timers[facts.timer], use.way))
            return false;
        const std::optional<PinWay>& owner = owners_[static_cast<size_t>(facts.timer)];
        return !owner || go_together(*owner, use.way);
    }
    /// Pins by how little else they could do; the one of the same name first of all.
    std::vector<size_t> candidates(const PinUse& use) const {
        std::vector<size_t> out;
        for (size_t pin = 0; pin < to_.pin_count; ++pin)
            if (can_take(pin, use))
                out.push_back(pin);
        const auto name_of = [&use](const PinFacts& pin) {
            return use.way == PinWay::analogue ? rig::one_name_of(pin) : std::string(pin.name);
        };
        const auto worth = [&](size_t pin) {
            const PinFacts& facts = to_.pins[pin];
            if (name_of(facts) == use.name)
                return -1;
            const bool takes_timer = !is_made_by_timer(use.way) && facts.timer >= 0 &&
                                     !owners_[static_cast<size_t>(facts.timer)] &&
                                     to_.timer_count < to_.pin_count / 4;
            return (use.way != PinWay::analogue && facts.channel >= 0 ? 4 : 0) +
                   (takes_timer ? 2 : 0) +
                   (use.way != PinWay::edges && facts.edges >= 0 && to_.pin_count > 40 ? 1 : 0);
        };
        std::stable_sort(out.begin(), out.end(),
                         [&](size_t a, size_t b) { return worth(a) < worth(b); });
        return out;
    }
    bool place(size_t at) {
        if (at == order_.size())
            return true;
        deepest_ = std::max(deepest_, at);
        if (++tries_ > most_tries)
            return false;
        const size_t use = order_[at];
        for (const size_t pin : candidates(uses_[use])) {
            const int timer = to_.pins[pin].timer;
            std::optional<PinWay> before;
            used_[pin] = true;
            if (is_made_by_timer(uses_[use].way)) {
                before = owners_[static_cast<size_t>(timer)];
                owners_[static_cast<size_t>(timer)] = uses_[use].way;
            }
            found_[use] = pin;
            if (place(at + 1))
                return true;
            used_[pin] = false;
            if (is_made_by_timer(uses_[use].way))
                owners_[static_cast<size_t>(timer)] = before;
        }
        return false;
    }

    const ChipFacts& to_;
    std::vector<PinUse> uses_;
    static constexpr int most_tries = 20'000;
    std::vector<bool> used_, taken_before_;
    std::vector<std::optional<PinWay>> owners_;
    std::vector<size_t> found_, order_;
    size_t deepest_ = 0;
    int tries_ = 0;
};

/// "roost" of "[sense.roost]".
std::string name_of(const std::string& table) {
    const size_t dot = table.find('.');
    return dot == std::string::npos ? table : table.substr(dot + 1, table.size() - dot - 2);
}

/// What codes were measured with another converter are with this one.
class Codes {
  public:
    Codes(RigText& edits, int bits) : edits_(edits), bits_(bits) {}
    void scale(const rig::Node& node, int64_t most = INT64_MAX) {
        if (const auto code = node.as_whole()) {
            edits_.replace(node,
                           fmt::format("{}", std::min(scaled(static_cast<double>(*code)), most)));
            ++count;
        }
    }
    void scale_counts(const rig::Node& node) {
        if (node.is_text() && node.measure() && node.measure()->kind == rig::Kind::counts) {
            edits_.replace(
                node, fmt::format("\"{} counts\"", scaled(node.measure()->thousandths / 1000.0)));
            ++count;
        }
        for (const rig::Node& inside : node.inside())
            scale_counts(inside);
    }
    size_t count = 0;

  private:
    int64_t scaled(double code) const { return std::llround(std::ldexp(code, bits_)); }
    RigText& edits_;
    int bits_;
};

void move_codes(const rig::Rig& rig, RigText& edits, const ChipFacts& to, Move& out) {
    const int bits = to.converter_bits - rig.converter_bits;
    if (bits == 0)
        return;
    const rig::Node* senses = rig.written.get("sense");
    for (const rig::Sense& sense : rig.senses) {
        const rig::Node& table = *senses->get(sense.name);
        Codes codes(edits, bits);
        for (const char* key : {"dry", "wet", "code_at_0", "code_at_100"})
            if (const rig::Node* node = table.get(key))
                codes.scale(*node);
        if (const rig::Node* node = table.get("spread"))
            codes.scale(*node, 1'000);
        if (const rig::Node* points = table.get("points");
            points != nullptr && sense.word == "value_table")
            for (const rig::Node& pair : points->inside())
                codes.scale(pair[0]);
        if (codes.count > 0)
            out.to_do.push_back(
                {sense.name,
                 fmt::format("its codes were measured with {} bits; they are scaled, but "
                             "measure them anew",
                             rig.converter_bits)});
    }
    Codes counts(edits, bits);
    counts.scale_counts(rig.written);
    if (counts.count > 0)
        out.others.push_back(
            {"all", fmt::format("what is said in counts is {:g} times as many, since its converter "
                                "has {} bits",
                                std::ldexp(1.0, bits), to.converter_bits)});
}

/// One key more of a table, in front of another.
void add_key(RigText& edits, const rig::Node& table, std::string_view before,
             const std::string& key) {
    const std::vector<rig::Key>& keys = table.keys();
    const auto at = std::find_if(keys.begin(), keys.end(),
                                 [before](const rig::Key& one) { return one.text == before; });
    // Under a header, or in braces: { a = 1, b = 2 }.
    edits.insert(*at, key, table.place().line == at->place.line);
}

/// What a ranger runs on, and how high its echo is at the pin, in mV.
double echo_supply(const rig::Node& ranger) {
    const rig::Node* supply = ranger.get("supply");
    return supply == nullptr ? 5'000 : supply->measure()->thousandths / 1000.0;
}
double echo_height(const rig::Node& ranger) {
    const rig::Node* divider = ranger.get("echo_divider");
    const double high = echo_supply(ranger);
    if (divider == nullptr)
        return high;
    const double first = (*divider)[0].measure()->thousandths,
                 second = (*divider)[1].measure()->thousandths;
    return high * second / (first + second);
}

void move_voltages(const rig::Rig& rig, RigText& edits, const ChipFacts& from, const ChipFacts& to,
                   Move& out) {
    if (from.supply == to.supply)
        return;
    const rig::Node* senses = rig.written.get("sense");
    for (const rig::Sense& sense : rig.senses) {
        const rig::Node& table = *senses->get(sense.name);
        const auto is_old = [&](const char* key) {
            const rig::Node* node = table.get(key);
            return node != nullptr && node->measure() &&
                   node->measure()->thousandths / 1000 == from.supply;
        };
        for (const char* key : {"reference", "supply"})
            if (sense.raw == rig::RawKind::code && is_old(key)) {
                edits.replace(*table.get(key), fmt::format("\"{}\"", rig::volts_of(to.supply)));
                out.to_do.push_back(
                    {sense.name, fmt::format("its {} is {} now; see that the part works at that",
                                             key, rig::volts_of(to.supply))});
            }
        if (sense.word == "ranger" && echo_height(table) > to.supply + 200) {
            if (const rig::Node* divider = table.get("echo_divider")) {
                edits.replace((*divider)[0], "\"10 kohm\"");
                edits.replace((*divider)[1], "\"20 kohm\"");
            } else {
                add_key(edits, table, "ping_pin", "echo_divider = [\"10 kohm\", \"20 kohm\"]");
            }
            out.to_do.push_back(
                {sense.name,
                 fmt::format(
                     "its echo is {} high, and a pin bears {}: put 10 kohm from the echo to "
                     "the pin, and 20 kohm from the pin to ground",
                     rig::volts_of(static_cast<int32_t>(echo_supply(table))),
                     rig::volts_of(to.supply))});
        }
    }
    if (to.supply < from.supply)
        out.to_do.push_back(
            {"all", fmt::format("what gives a pin a voltage of its own must give at most {}; the "
                                "wiring plan hangs parts on that",
                                rig::volts_of(to.supply))});
}

void move_board(const rig::Rig& rig, RigText& edits, const ChipFacts& to, Move& out) {
    const rig::Node* board = rig.written.get("board");
    const std::string says = fmt::format("\"{}\"", to.name);
    if (board == nullptr)
        edits.insert_first(fmt::format("[board]\nchip = {}\n\n", says));
    else if (board->size() == 0)
        edits.fill(*board, "chip = " + says);
    else if (const rig::Node* chip = board->get("chip"))
        edits.replace(*chip, says);
    else
        add_key(edits, *board, board->keys().front().text, "chip = " + says);
    if (const rig::Node* line = board == nullptr ? nullptr : board->get("line")) {
        edits.replace(*line, fmt::format("\"{}\"", to.lines[0].name));
        out.others.push_back(
            {"line", fmt::format("{} becomes {}", *line->as_text(), to.lines[0].name)});
    }
    if (const rig::Node* bits = board == nullptr ? nullptr : board->get("adc_bits"))
        edits.replace(*bits, fmt::format("{}", to.converter_bits));
    if (to.lines[0].kind == LineKind::none)
        out.to_do.push_back({"all", fmt::format("it has no line unless you write line = \"{}\" in "
                                                "[board]; that takes {}",
                                                to.lines[1].name, to.lines[1].sends)});
}

/// Pins of a chip that go to its line, and to a reference from outside if the rig has one.
std::vector<const char*> reserved_of(const rig::Rig& rig, const ChipFacts& to) {
    std::vector<const char*> out;
    for (const char* pin : {to.lines[0].receives, to.lines[0].sends})
        if (pin != nullptr)
            out.push_back(pin);
    for (const rig::Sense& sense : rig.senses)
        if (to.reference_pin != nullptr &&
            to.reference_of(sense.reference) == Reference::external) {
            out.push_back(to.reference_pin);
            break;
        }
    return out;
}

} // namespace

Move move_of(const rig::RigFile& file, std::string_view text, const ChipFacts& to) {
    Move out;
    const ChipFacts* from = file.rig.chip_facts();
    std::vector<PinUse> uses;
    std::copy_if(file.pins.begin(), file.pins.end(), std::back_inserter(uses),
                 [](const PinUse& use) { return !use.given; });
    const bool hears = std::any_of(to.lines, to.lines + to.line_count,
                                   [](const LineFacts& line) { return line.hears(); });
    for (const rig::Sense& sense : file.rig.senses)
        if (sense.pin.empty() && !hears) {
            out.problem =
                fmt::format("[sense.{}] is said over the serial line, and the {} has "
                            "none that receives; take another chip, or a contact on a pin",
                            sense.name, to.name);
            return out;
        }
    Planner planner(to, uses, reserved_of(file.rig, to));
    if (!planner.plan()) {
        out.problem = planner.why();
        return out;
    }
    RigText edits(text);
    move_board(file.rig, edits, to, out);
    for (size_t i = 0; i < uses.size(); ++i) {
        const PinFacts& after = to.pins[planner.pins()[i]];
        const std::string now =
            uses[i].way == PinWay::analogue ? rig::one_name_of(after) : std::string(after.name);
        const std::string& was = uses[i].name;
        if (now == was) {
            out.pins.push_back({name_of(uses[i].table), was + " stays"});
            continue;
        }
        out.pins.push_back({name_of(uses[i].table), fmt::format("{} becomes {}", was, now)});
        edits.replace(rig::Node::text(was, uses[i].place), fmt::format("\"{}\"", now));
    }
    move_codes(file.rig, edits, to, out);
    if (from != nullptr)
        move_voltages(file.rig, edits, *from, to, out);
    else
        out.to_do.push_back({"all", fmt::format("the {} runs on {}: see that each \"supply\" and "
                                                "\"reference\" is so, and that no part gives a "
                                                "pin more",
                                                to.title, rig::volts_of(to.supply))});
    out.text = edits.text();
    return out;
}

} // namespace zorilla::bench
