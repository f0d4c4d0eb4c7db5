// SPDX-License-Identifier: MIT
#include "bench/moving.hpp"

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
    Planner(const ChipFacts& to, std::vector<PinUse> uses, const ChipFacts& from)
        : to_(to), from_(from), uses_(std::move(uses)), used_(to.pin_count),
          owners_(to.timer_count), found_(uses_.size()) {
        const LineFacts& line = to.lines[0];
        for (const char* pin : {line.receives, line.sends})
            if (pin != nullptr)
                used_[static_cast<size_t>(rig::pin_named(to, pin) - to.pins)] = true;
        for (size_t i = 0; i < uses_.size(); ++i)
            order_.push_back(i);
        std::stable_sort(order_.begin(), order_.end(), [this](size_t a, size_t b) {
            return scarcity(uses_[a].way) > scarcity(uses_[b].way);
        });
    }
    bool plan() { return place(0); }
    const std::vector<size_t>& pins() const { return found_; }
    /// The use that the furthest plan had no pin for.
    const PinUse& hardest() const { return uses_[order_[deepest_]]; }

  private:
    bool can_take(size_t pin, const PinUse& use) const {
        const PinFacts& facts = to_.pins[pin];
        if (used_[pin] || facts.taken != nullptr)
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
        const std::string before = name_of(from_.pins[use.pin]);
        const auto worth = [&](size_t pin) {
            const PinFacts& facts = to_.pins[pin];
            if (name_of(facts) == before)
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
        // Where it goes on without end, it does not fit in any way that a person would find.
        if (++tries_ > 20'000)
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

    const ChipFacts &to_, &from_;
    std::vector<PinUse> uses_;
    std::vector<bool> used_;
    std::vector<std::optional<PinWay>> owners_;
    std::vector<size_t> found_, order_;
    size_t deepest_ = 0;
    int tries_ = 0;
};

/// Changes of a text, by places in it.
class Edits {
  public:
    explicit Edits(std::string_view text) {
        for (size_t at = 0; at <= text.size();) {
            const size_t end = std::min(text.find('\n', at), text.size());
            lines_.emplace_back(text.substr(at, end - at));
            at = end + 1;
        }
    }
    /// What stands there, a text in quotes or a number, becomes something else.
    void replace(rig::Place place, const std::string& with) {
        changes_[{place.line, place.column}] = with;
    }
    void add_below(rig::Place place, const std::string& line) { added_[place.line] += line + "\n"; }
    void drop_line(rig::Place place) { dropped_[place.line] = true; }
    void add_above_all(const std::string& lines) { first_ = lines; }

    std::string text() {
        // From behind, so that places stay.
        for (auto change = changes_.rbegin(); change != changes_.rend(); ++change) {
            std::string& line = lines_[change->first.first - 1];
            const size_t at = change->first.second - 1;
            const bool is_text = line[at] == '"' || line[at] == '\'';
            const size_t end = is_text ? line.find(line[at], at + 1) + 1
                                       : std::min(line.find_first_of(",] #\t\r", at), line.size());
            const size_t gap = line.find('#', end);
            const auto grown =
                static_cast<ptrdiff_t>(change->second.size()) - static_cast<ptrdiff_t>(end - at);
            // A comment behind it stays in its column, where there is room.
            if (gap != std::string::npos && grown < 0)
                line.insert(gap, static_cast<size_t>(-grown), ' ');
            else if (gap != std::string::npos && grown > 0)
                for (ptrdiff_t i = 0; i < grown && line[gap - 1 - static_cast<size_t>(i)] == ' ' &&
                                      line[gap - 2 - static_cast<size_t>(i)] == ' ';
                     ++i)
                    line.erase(gap - 1 - static_cast<size_t>(i), 1);
            line.replace(at, end - at, change->second);
        }
        std::string out = first_;
        for (size_t i = 0; i < lines_.size(); ++i) {
            const auto number = static_cast<uint32_t>(i + 1);
            if (dropped_.count(number) == 0)
                out += lines_[i] + (i + 1 < lines_.size() ? "\n" : "");
            if (const auto more = added_.find(number); more != added_.end())
                out += more->second;
        }
        return out;
    }

  private:
    std::vector<std::string> lines_;
    std::map<std::pair<uint32_t, uint32_t>, std::string> changes_;
    std::map<uint32_t, std::string> added_;
    std::map<uint32_t, bool> dropped_;
    std::string first_;
};

/// "roost" of "[sense.roost]".
std::string name_of(const std::string& table) {
    const size_t dot = table.find('.');
    return dot == std::string::npos ? table : table.substr(dot + 1, table.size() - dot - 2);
}

/// What codes were measured with another converter are with this one.
class Codes {
  public:
    Codes(Edits& edits, int bits) : edits_(edits), bits_(bits) {}
    void scale(const rig::Node& node, int64_t most = INT64_MAX) {
        if (const auto code = node.as_whole()) {
            edits_.replace(node.place(),
                           fmt::format("{}", std::min(scaled(static_cast<double>(*code)), most)));
            ++count;
        }
    }
    void scale_counts(const rig::Node& node) {
        if (node.is_text() && node.measure() && node.measure()->kind == rig::Kind::counts) {
            edits_.replace(node.place(), fmt::format("\"{} counts\"",
                                                     scaled(node.measure()->thousandths / 1000.0)));
            ++count;
        }
        for (const rig::Node& inside : node.inside())
            scale_counts(inside);
    }
    size_t count = 0;

  private:
    int64_t scaled(double code) const { return std::llround(std::ldexp(code, bits_)); }
    Edits& edits_;
    int bits_;
};

void move_codes(const rig::Rig& rig, Edits& edits, const ChipFacts& from, const ChipFacts& to,
                Move& out) {
    const int bits = to.converter_bits - from.converter_bits;
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
            out.to_do.push_back(fmt::format(
                "{}: its codes were measured with {} bits at {}; they are scaled, but measure them "
                "anew",
                sense.name, from.converter_bits, rig::volts_of(from.supply)));
    }
    Codes counts(edits, bits);
    counts.scale_counts(rig.written);
    if (counts.count > 0)
        out.others.push_back(fmt::format("what is said in counts is {} times as many, since its "
                                         "converter has {} bits",
                                         1 << std::max(bits, 0), to.converter_bits));
}

/// How high a ranger's echo is at the pin, in mV.
double echo_height(const rig::Node& ranger) {
    const rig::Node *supply = ranger.get("supply"), *divider = ranger.get("echo_divider");
    const double high = supply == nullptr ? 5'000 : supply->measure()->thousandths / 1000.0;
    if (divider == nullptr)
        return high;
    const double first = (*divider)[0].measure()->thousandths,
                 second = (*divider)[1].measure()->thousandths;
    return high * second / (first + second);
}

void move_voltages(const rig::Rig& rig, Edits& edits, const ChipFacts& from, const ChipFacts& to,
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
                edits.replace(table.get(key)->place(),
                              fmt::format("\"{}\"", rig::volts_of(to.supply)));
                out.to_do.push_back(fmt::format("{}: its {} is {} now; see that the part works at "
                                                "that",
                                                sense.name, key, rig::volts_of(to.supply)));
            }
        if (sense.word == "ranger" && echo_height(table) > to.supply + 200) {
            if (const rig::Node* divider = table.get("echo_divider")) {
                edits.replace((*divider)[0].place(), "\"10 kohm\"");
                edits.replace((*divider)[1].place(), "\"20 kohm\"");
            } else {
                edits.add_below(table.get("pin")->place(),
                                "echo_divider = [\"10 kohm\", \"20 kohm\"]");
            }
            out.to_do.push_back(fmt::format("{}: its echo is 5 V high, and a pin bears {}: put 10 "
                                            "kohm from the echo to the pin, and 20 kohm from the "
                                            "pin to ground",
                                            sense.name, rig::volts_of(to.supply)));
        }
    }
    if (to.supply < from.supply)
        out.to_do.push_back(fmt::format("all: what gives a pin a voltage of its own must give at "
                                        "most {}; the wiring plan hangs parts on that",
                                        rig::volts_of(to.supply)));
}

void move_board(const rig::Rig& rig, Edits& edits, const ChipFacts& to, Move& out) {
    const rig::Node* board = rig.written.get("board");
    const rig::Node* chip = board == nullptr ? nullptr : board->get("chip");
    if (chip != nullptr)
        edits.replace(chip->place(), fmt::format("\"{}\"", to.name));
    else
        edits.add_above_all(fmt::format("[board]\nchip = \"{}\"\n\n", to.name));
    for (const char* key : {"line", "adc_bits"})
        if (const rig::Node* node = board == nullptr ? nullptr : board->get(key)) {
            edits.drop_line(node->place());
            out.others.push_back(fmt::format("{} goes: what it says is of the old chip", key));
        }
    if (to.lines[0].kind == LineKind::none)
        out.to_do.push_back(fmt::format("all: it has no line unless you write line = \"{}\" in "
                                        "[board]; that takes {}",
                                        to.lines[1].name, to.lines[1].sends));
}

} // namespace

Move move_of(const rig::RigFile& file, std::string_view text, const ChipFacts& to) {
    Move out;
    const ChipFacts& from = *file.rig.chip_facts();
    std::vector<PinUse> uses;
    std::copy_if(file.pins.begin(), file.pins.end(), std::back_inserter(uses),
                 [](const PinUse& use) {
                     return use.table != "[board] line" && use.table != "the converter's reference";
                 });
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
    Planner planner(to, uses, from);
    if (!planner.plan()) {
        const PinUse& hardest = planner.hardest();
        const auto wants = [&](bool analogue) {
            return std::count_if(uses.begin(), uses.end(), [analogue](const PinUse& use) {
                return !analogue || use.way == PinWay::analogue;
            });
        };
        const auto has = [&](bool analogue) {
            return std::count_if(to.pins, to.pins + to.pin_count, [analogue](const PinFacts& pin) {
                return pin.taken == nullptr && (!analogue || pin.channel >= 0);
            });
        };
        out.problem = fmt::format(
            "there is no pin left for {}: the rig wants {} pins, {} of them of the converter, and "
            "the {} has {} and {}; leave parts out, or take a larger chip",
            hardest.table, wants(false), wants(true), to.name, has(false), has(true));
        return out;
    }
    Edits edits(text);
    move_board(file.rig, edits, to, out);
    for (size_t i = 0; i < uses.size(); ++i) {
        const PinFacts& before = from.pins[uses[i].pin];
        const PinFacts& after = to.pins[planner.pins()[i]];
        const bool analogue = uses[i].way == PinWay::analogue;
        const std::string now = analogue ? rig::one_name_of(after) : std::string(after.name);
        const std::string was = analogue ? rig::one_name_of(before) : std::string(before.name);
        if (now == was) {
            out.pins.push_back(fmt::format("{}: {} stays", name_of(uses[i].table), was));
            continue;
        }
        out.pins.push_back(fmt::format("{}: {} becomes {}", name_of(uses[i].table), was, now));
        edits.replace(uses[i].place, fmt::format("\"{}\"", now));
    }
    move_codes(file.rig, edits, from, to, out);
    move_voltages(file.rig, edits, from, to, out);
    out.text = edits.text();
    return out;
}

} // namespace zorilla::bench
