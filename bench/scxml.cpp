// SPDX-License-Identifier: MIT
#include "bench/scxml.hpp"

#include "rig/text/files.hpp"
#include "rig/text/names.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>
#include <pugixml.hpp>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <map>
#include <sstream>

namespace zorilla::bench {

namespace {

/// A text as a rig file holds it, in quotes.
std::string as_toml(const std::string& text) {
    std::string out = "\"";
    for (const char c : text) {
        if (c == '"' || c == '\\')
            out += '\\';
        // Conditions are plain ASCII; what is not cannot be meant.
        out += c >= ' ' && c <= '~' ? c : '?';
    }
    return out + "\"";
}

class Reader {
  public:
    Reader(const std::string& path, std::vector<std::string>& left_out)
        : path_(path), left_out_(left_out) {}

    std::string read(const std::string& text) {
        pugi::xml_document document;
        const pugi::xml_parse_result parsed = document.load_buffer(
            text.data(), text.size(), pugi::parse_default | pugi::parse_comments);
        if (!parsed) {
            const auto offset = static_cast<size_t>(parsed.offset);
            const auto line =
                1 + std::count(text.begin(),
                               text.begin() + static_cast<ptrdiff_t>(std::min(offset, text.size())),
                               '\n');
            throw rig::InputError(
                fmt::format("{}:{}: this is not XML: {}", path_, line, parsed.description()));
        }
        const pugi::xml_node root = document.child("scxml");
        if (!root)
            throw rig::InputError(
                fmt::format("{}: this is XML, but no SCXML: its root must be <scxml>", path_));
        for (const pugi::xml_node node : root.children())
            child(node);
        if (ids_.empty())
            throw rig::InputError(fmt::format("{}: has no <state> with an id", path_));
        return table(root);
    }

  private:
    void leave_out(std::string what) {
        if (std::find(left_out_.begin(), left_out_.end(), what) == left_out_.end())
            left_out_.push_back(std::move(what));
    }

    void child(pugi::xml_node node) {
        const std::string name = node.name();
        if (node.type() == pugi::node_comment)
            return comment(node.value());
        if (node.type() != pugi::node_element)
            return;
        if (name != "state" && name != "final")
            return leave_out(fmt::format("<{}>: a rig's machine has only states and moves", name));
        const std::string id = node.attribute("id").value();
        if (id.empty())
            return leave_out(fmt::format("a <{}> without an id: nothing can lead there", name));
        ids_.push_back(id);
        nodes_.push_back(node);
    }

    /// " event not_dark: not dark", as it is written by `zorilla draw`.
    void comment(const std::string& text) {
        std::istringstream words(text);
        std::string event, name;
        words >> event >> name;
        std::string condition;
        std::getline(words, condition);
        const size_t from = condition.find_first_not_of(' ');
        if (event != "event" || name.size() < 2 || name.back() != ':' || from == std::string::npos)
            return;
        name.pop_back();
        condition = condition.substr(from, condition.find_last_not_of(' ') - from + 1);
        conditions_[name] = std::move(condition);
    }

    std::string table(pugi::xml_node root) {
        constexpr size_t most = 32;
        if (ids_.size() > most)
            throw rig::InputError(fmt::format("{}: has {} states; a rig's machine has at most {}",
                                              path_, ids_.size(), most));
        names_.make("any"); // a word of its own in moves
        for (const std::string& id : ids_) {
            if (states_.count(id) != 0)
                throw rig::InputError(
                    fmt::format("{}: two states have the id \"{}\"", path_, rig::one_line(id)));
            states_[id] = names_.make(id);
            if (states_[id] != id)
                leave_out(fmt::format("the name \"{}\": here it is {}", id, states_[id]));
        }
        std::string start = root.attribute("initial").value();
        if (states_.count(start) == 0) {
            if (!start.empty())
                leave_out(fmt::format("initial=\"{}\": there is no such state; it starts in {}",
                                      start, states_[ids_.front()]));
            start = ids_.front();
        }
        std::string out = fmt::format("[machine.{}]\nstart = \"{}\"\nmoves = [\n",
                                      rig::NameMaker().make(*root.attribute("name").value() != '\0'
                                                                ? root.attribute("name").value()
                                                                : "machine"),
                                      states_[start]);
        std::string ends, moves;
        for (size_t i = 0; i < ids_.size(); ++i) {
            moves += moves_of(nodes_[i], states_[ids_[i]]);
            if (std::strcmp(nodes_[i].name(), "final") == 0)
                ends += fmt::format("{}\"{}\"", ends.empty() ? "" : ", ", states_[ids_[i]]);
        }
        if (moves.empty())
            throw rig::InputError(
                fmt::format("{}: has no transition that a rig's machine can take; it "
                            "needs an event or a delay, and a target",
                            path_));
        return out + moves + "]\n" + (ends.empty() ? "" : fmt::format("ends_in = [{}]\n", ends));
    }

    std::string moves_of(pugi::xml_node state, const std::string& from) {
        std::map<std::string, std::string> timers; // by their event
        for (const pugi::xml_node part : state.children()) {
            const std::string name = part.name();
            if (part.type() != pugi::node_element || name == "transition")
                continue;
            if (name == "onentry" || name == "onexit") {
                for (const pugi::xml_node act : part.children())
                    action(act, from, name, timers);
                continue;
            }
            leave_out(fmt::format("<{}> in {}: {}", name, from,
                                  name == "state" || name == "parallel"
                                      ? "states within states; make them states of their own"
                                      : "there is no word for it"));
        }
        std::string out;
        for (const pugi::xml_node move : state.children("transition"))
            out += move_of(move, from, timers);
        return out;
    }

    void action(pugi::xml_node act, const std::string& from, const std::string& where,
                std::map<std::string, std::string>& timers) {
        if (act.type() != pugi::node_element || std::strcmp(act.name(), "cancel") == 0)
            return; // a timer ends with its state anyway
        const char* delay = act.attribute("delay").value();
        if (std::strcmp(act.name(), "send") == 0 && where == "onentry" && *delay != '\0') {
            const std::string time = time_of(delay);
            if (!time.empty()) {
                timers[act.attribute("event").value()] = time;
                return;
            }
        }
        leave_out(fmt::format("<{}> in {} of {}: what is done in a state stands in the claims of "
                              "outputs",
                              act.name(), where, from));
    }

    /// A delay as CSS writes it, "10s" or "600ms", as a rig file does.
    static std::string time_of(const char* delay) {
        char* unit = nullptr;
        const double number = std::strtod(delay, &unit);
        const double factor = std::strcmp(unit, "ms") == 0  ? 1
                              : std::strcmp(unit, "s") == 0 ? 1000
                                                            : 0;
        const double time = number * factor;
        if (!(time >= 1) || time > 24 * 86'400'000.0)
            return {};
        const int64_t milliseconds = std::llround(time);
        return milliseconds % 60'000 == 0 ? fmt::format("{} min", milliseconds / 60'000)
               : milliseconds % 1000 == 0 ? fmt::format("{} s", milliseconds / 1000)
                                          : fmt::format("{} ms", milliseconds);
    }

    std::string move_of(pugi::xml_node move, const std::string& from,
                        const std::map<std::string, std::string>& timers) {
        const std::string target = move.attribute("target").value();
        const auto to = states_.find(target);
        if (to == states_.end()) {
            leave_out(target.empty()
                          ? fmt::format("a <transition> of {} without a target: an event that acts "
                                        "within a state stands in the claims of outputs",
                                        from)
                          : fmt::format("from {} to \"{}\": there is no such state", from, target));
            return {};
        }
        if (const char* guard = move.attribute("cond").value(); *guard != '\0')
            leave_out(fmt::format("from {} to {}: cond=\"{}\"; add it to \"when\" with \"and\"",
                                  from, to->second, guard));
        if (move.first_child())
            leave_out(fmt::format("what is done from {} to {}: it stands in the claims of outputs",
                                  from, to->second));
        std::istringstream events(move.attribute("event").value());
        std::string out, event;
        while (events >> event) {
            const auto timer = timers.find(event);
            out += fmt::format("    {{ from = \"{}\", to = \"{}\", ", from, to->second);
            if (timer != timers.end())
                out += fmt::format("after = \"{}\" }},\n", timer->second);
            else
                out += fmt::format("when = {} }},{}\n", as_toml(condition_of(event)),
                                   conditions_.count(event) != 0
                                       ? ""
                                       : fmt::format(" # say when {} comes: a [decide.NAME], or a "
                                                     "condition",
                                                     as_toml(event)));
        }
        if (out.empty())
            leave_out(fmt::format("from {} to {}: it has no event, and would be taken at once",
                                  from, to->second));
        return out;
    }

    std::string condition_of(const std::string& event) {
        const auto known = conditions_.find(event);
        return known != conditions_.end() ? known->second : rig::NameMaker().make(event);
    }

    const std::string& path_;
    std::vector<std::string>& left_out_;
    rig::NameMaker names_;
    std::vector<std::string> ids_;
    std::vector<pugi::xml_node> nodes_;
    std::map<std::string, std::string> states_;     ///< ids to names
    std::map<std::string, std::string> conditions_; ///< of events that a comment explains
};

} // namespace

std::string machine_of_scxml(const std::string& text, const std::string& path,
                             std::vector<std::string>& left_out) {
    return Reader(path, left_out).read(text);
}

} // namespace zorilla::bench
