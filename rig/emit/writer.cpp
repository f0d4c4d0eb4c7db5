// SPDX-License-Identifier: MIT
#include "rig/emit/writer.hpp"

#include "rig/decide/part.hpp"

#include <algorithm>
#include <cctype>
#include <sstream>

namespace zorilla::rig {

namespace {

/// How often a name stands in a text by itself, and not within a longer one.
size_t times_in(const std::string& text, const std::string& name) {
    const auto is_of_name = [&text](size_t at) {
        return at < text.size() &&
               (std::isalnum(static_cast<unsigned char>(text[at])) != 0 || text[at] == '_');
    };
    size_t out = 0;
    for (size_t at = text.find(name); at != std::string::npos; at = text.find(name, at + 1))
        out += !is_of_name(at + name.size()) && (at == 0 || !is_of_name(at - 1)) ? 1 : 0;
    return out;
}

std::string trimmed(const std::string& line) {
    const size_t first = line.find_first_not_of(" \t\r");
    const size_t last = line.find_last_not_of(" \t\r");
    return first == std::string::npos ? std::string() : line.substr(first, last - first + 1);
}

} // namespace

DeviceWriter::DeviceWriter(const Rig& rig, std::string_view text, Firmware& out)
    : rig_(rig), out_(out), sources_(rig.sources.size()) {
    std::istringstream stream{std::string(text)};
    for (std::string line; std::getline(stream, line);)
        lines_.push_back(line);
    // What the pass of a device calls, and what it is given.
    for (const char* word : {"on_when",   "off_when",    "set_when",
                             "follow",    "follow_when", "lost",
                             "truth_of",  "at_least",    "colour",
                             "tone",      "silence",     "on",
                             "off",       "event",       "difference",
                             "mean",      "least",       "most",
                             "dew_point", "heat_index",  "absolute_humidity",
                             "air_heat",  "read_counts", "now",
                             "in",        "pass",        "per_minute",
                             "zorilla"})
        names_.take(word);
}

const Node& DeviceWriter::table_of(const char* group, const std::string& name) const {
    return *rig_.written.get(group)->get(name);
}

std::string DeviceWriter::comment(Place place) const {
    if (place.line == 0 || place.line > lines_.size())
        return {};
    std::string out;
    size_t first = place.line - 1;
    while (first > 0 && trimmed(lines_[first - 1]).rfind("#", 0) == 0)
        --first;
    // What stands above the first part of all is about the whole.
    for (size_t i = first; i + 1 < place.line; ++i)
        out += cpp_comment(trimmed(lines_[i]).substr(1));
    const std::string& header = lines_[place.line - 1];
    if (const size_t mark = header.find('#'); mark != std::string::npos)
        out += cpp_comment(trimmed(header.substr(mark)).substr(1));
    return out;
}

std::string DeviceWriter::local(const std::string& name, const std::string& value) {
    const std::string out = names_.take(name);
    locals_.push_back(out);
    statement(fmt::format("const auto {} = {};", out, value));
    return out;
}

void DeviceWriter::drop_unused() {
    // From the last, since one may be there for another alone.
    for (auto name = locals_.rbegin(); name != locals_.rend(); ++name) {
        const std::string begin = fmt::format("const auto {} = ", *name);
        if (times_in(pass_, *name) > 1)
            continue;
        const size_t at = pass_.find(begin);
        // A block must see each pass, whoever looks; what is made of nothing but readings need not.
        const size_t end = pass_.find('\n', at);
        const std::string value = pass_.substr(at + begin.size(), end - at - begin.size());
        if (value.find(".read(") != std::string::npos ||
            value.find(".pass(") != std::string::npos ||
            value.find(".decide(") != std::string::npos ||
            value.find(".claim(") != std::string::npos)
            pass_.erase(at, begin.size());
        else
            pass_.erase(pass_.rfind('\n', at) + 1, end - pass_.rfind('\n', at));
    }
}

std::string DeviceWriter::spec(const Node& table, const std::vector<PartKey>& keys,
                               const std::vector<std::pair<const char*, const char*>>& starts,
                               const CppForm& form, const std::string& label, Place place) {
    const auto text_of = [&table](const std::string& key) {
        const Node* node = table.get(key);
        return node == nullptr || !node->is_text() ? std::string() : *node->as_text();
    };
    std::string out;
    for (const auto& [sign, start] : starts) {
        const std::string key = sign;
        const size_t equals = key.find('=');
        if (key.empty() || (equals == std::string::npos
                                ? table.get(key) != nullptr
                                : text_of(key.substr(0, equals)) == key.substr(equals + 1))) {
            out = form.fill(start);
            break;
        }
    }
    for (const PartKey& key : keys) {
        const Node* node = table.get(key.name);
        if (node == nullptr)
            continue;
        if (key.cpp == nullptr) {
            gap(place, fmt::format("\"{}\" of {}", key.name, label));
            continue;
        }
        const std::string_view cpp = key.cpp;
        const size_t equals = cpp.find('=');
        if (equals != std::string_view::npos && cpp[0] != '.') {
            if (text_of(key.name) == cpp.substr(0, equals))
                out += form.fill(cpp.substr(equals + 1));
        } else {
            out += form.fill(cpp, node);
        }
    }
    return out;
}

std::string DeviceWriter::of(const Condition& condition) const {
    struct Part {
        std::string text;
        char joined; ///< '&', '|', or nothing
    };
    const auto inside = [](const Part& part, char by) {
        return part.joined != 0 && part.joined != by ? "(" + part.text + ")" : part.text;
    };
    return condition
        .fold<Part>(
            [this](size_t index) {
                return Part{fact(index), 0};
            },
            [](const Part& a) {
                return Part{a.joined != 0 ? "!(" + a.text + ")" : "!" + a.text, 0};
            },
            [&](const Part& a, const Part& b) {
                return Part{inside(a, '&') + " && " + inside(b, '&'), '&'};
            },
            [&](const Part& a, const Part& b) {
                return Part{inside(a, '|') + " || " + inside(b, '|'), '|'};
            })
        .text;
}

std::string DeviceWriter::fact(size_t index) const {
    const Fact& fact = rig_.facts[index];
    const auto said = truths_.find(index);
    const auto state = [&](const char* call) {
        const RigMachine& machine = rig_.machines[fact.of];
        return fmt::format("{}.{}({}::{})", machines_.at(fact.of), call,
                           camel(machine.name, "State"), machine.states[fact.number]);
    };
    switch (fact.kind) {
    case Fact::Kind::switched:
    case Fact::Kind::decision:
    case Fact::Kind::rises:
    case Fact::Kind::falls: return said == truths_.end() ? "Truth::unknown" : said->second;
    case Fact::Kind::lost: return "lost(" + sources_[fact.of] + ")";
    case Fact::Kind::at_least:
        return fmt::format("at_least({}, {})", given_.at(fact.of), fact.number);
    case Fact::Kind::locked: return decides_.at(fact.of) + ".is_locked()";
    case Fact::Kind::in_state: return state("in");
    case Fact::Kind::enters: return state("enters");
    case Fact::Kind::leaves: return state("leaves");
    case Fact::Kind::warns: return drives_.at(fact.of) + ".is_warning()";
    case Fact::Kind::warns_off: return drives_.at(fact.of) + ".is_warning_off()";
    case Fact::Kind::by_hand: return hands_.at(fact.of) + ".is_taken()";
    case Fact::Kind::stalled: return drives_.at(fact.of) + ".is_stalled()";
    case Fact::Kind::shut_down: return fmt::format("{}.of({})", shutdown_, fact.number);
    case Fact::Kind::is_on:
    case Fact::Kind::at_full: break; // only in what must never be
    }
    return "Truth::unknown";
}

void DeviceWriter::edges(bool of_decides, size_t decide_fact) {
    for (size_t i = 0; i < rig_.facts.size(); ++i) {
        const Fact& fact = rig_.facts[i];
        const bool falls = fact.kind == Fact::Kind::falls;
        if ((!falls && fact.kind != Fact::Kind::rises) || truths_.count(i) != 0)
            continue;
        // Those of a decision that is not among the first come right behind it.
        if (of_decides
                ? fact.of != decide_fact
                : rig_.facts[fact.of].kind == Fact::Kind::decision && truths_.count(fact.of) == 0)
            continue;
        const std::string name = plain_name(fact.name);
        const std::string edge = names_.take(name);
        member("Edge", edge);
        truths_[i] = local(name + "_now", fmt::format("{}.pass({}{})", edge, falls ? "!" : "",
                                                      this->fact(fact.of)));
    }
}

void DeviceWriter::write(const std::string& name) {
    // Names as in the file are kept wherever they can be.
    for (size_t i = 0; i < rig_.machines.size(); ++i)
        machines_[i] = names_.take(rig_.machines[i].name);
    for (size_t i = 0; i < rig_.drives.size(); ++i)
        drives_[i] = names_.take(rig_.drives[i].name);
    for (size_t i = 0; i < rig_.drives.size(); ++i)
        if (rig_.drives[i].hand)
            hands_[i] = names_.take(rig_.drives[i].name + "_hand");
    shutdown_ = names_.take("shutdown");
    const auto section = [this](const char* title, auto write) {
        const size_t constants = constants_.size(), pass = pass_.size();
        write();
        if (constants_.size() > constants)
            constants_.insert(constants, fmt::format("\n// {}\n", title));
        if (pass_.size() > pass)
            pass_.insert(pass, fmt::format("        // {}\n", title));
    };
    section("What it senses.", [this] {
        for (const Sense& one : rig_.senses)
            sense(one);
        for (const Derive& one : rig_.derives)
            derive(one);
    });
    section("What it decides.", [this] {
        // Plain thresholds are decided before all else, as on the desk.
        const auto is_plain = [](const Decide& one) {
            return one.part->plain() != nullptr && !one.lasting && one.times == 0;
        };
        for (const Decide& one : rig_.decides)
            if (is_plain(one))
                decide(one);
        edges(false, 0);
        for (const Decide& one : rig_.decides)
            if (!is_plain(one)) {
                decide(one);
                if (one.has_truth())
                    edges(true, one.fact);
            }
        for (const RigMachine& one : rig_.machines)
            machine(one);
    });
    section("What it drives.", [this] {
        for (size_t i = 0; i < rig_.drives.size(); ++i)
            hand(i);
        if (!rig_.shutdown.order.empty()) {
            member("ShutdownState", shutdown_);
            statement(fmt::format("{}.pass({}, {}, now, {});", shutdown_,
                                  cpp_quantity(rig_.shutdown.gap.thousandths(), Kind::duration),
                                  rig_.shutdown.order.size(), condition(rig_.shutdown.when)));
        }
        self_test();
        for (size_t i = 0; i < rig_.drives.size(); ++i)
            drive(i);
    });
    drop_unused();
    out_.device = wrapped(fmt::format(
        "{}#pragma once\n\n"
        "#include <zorilla/zorilla.hpp>\n\nnamespace {} {{\n\nusing namespace zorilla;\n{}\n"
        "struct Inputs {{\n{}}};\n\nstruct Device {{\n{}{}\n"
        "    ZORILLA_IN_PLACE void pass(Instant now, const Inputs& in) {{\n{}    }}\n}};\n\n}} // "
        "namespace {}\n",
        cpp_comment(rig_.name + ". Written from its rig file; change either."), name, constants_,
        inputs_text_, members_,
        begin_.empty() ? std::string() : "\n    Device() {\n" + begin_ + "    }\n", pass_, name));
}

} // namespace zorilla::rig
