// SPDX-License-Identifier: MIT
#include "rig/read/promises.hpp"

#include "rig/read/keys.hpp"

#include <fmt/format.h>

namespace zorilla::rig {

namespace {

class PromiseReader {
  public:
    PromiseReader(Scope& scope, TableReader& keys, Promise& out)
        : scope_(scope), keys_(keys), out_(out) {}

    bool read() {
        if (keys_.find("told") != nullptr)
            return told();
        if (keys_.find("when") != nullptr)
            return answered();
        const auto name = keys_.text("of", "roost");
        if (!name) {
            if (keys_.find("of") == nullptr)
                keys_.complain(fmt::format(
                    "{} says nothing: give it \"of\", a reading or an output, or \"when\" and "
                    "\"then\", or \"told\"",
                    keys_.label()));
            return false;
        }
        Names names;
        for (const Source& source : scope_.rig.sources)
            if (source.kind != Kind::truth)
                names.push_back(source.name);
        const auto drive = scope_.output_number(*name, names);
        if (drive)
            return of_output(*drive, *name);
        for (size_t i = 0; i < scope_.rig.sources.size(); ++i)
            if (scope_.rig.sources[i].name == *name && scope_.rig.sources[i].kind != Kind::truth)
                return range(i);
        scope_.findings.add(*keys_.table().get("of"),
                            fmt::format("there is no [sense.{0}], [derive.{0}] or [drive.{0}]{1}",
                                        *name, suggestion(*name, names)));
        return false;
    }

  private:
    bool range(size_t source) {
        const Source& of = scope_.rig.sources[source];
        if (!of.kind_known) { // what is wrong with it was said
            keys_.ignore_the_rest();
            return false;
        }
        out_.is = Promise::Is::range;
        out_.of = source;
        out_.at_least = keys_.quantity("at_least", of.kind, example_of(of.kind));
        out_.at_most = keys_.quantity("at_most", of.kind, example_of(of.kind));
        out_.time = keys_.quantity("but_for", Kind::duration, "10 min").value_or(0);
        if (keys_.find("at_least") == nullptr && keys_.find("at_most") == nullptr)
            return lacks("\"at_least\" or \"at_most\"",
                         fmt::format("at_least = \"{}\"", example_of(of.kind)));
        if (out_.at_least && out_.at_most)
            keys_.expect(*out_.at_least < *out_.at_most, "at_most", "above \"at_least\"");
        out_.says = of.name;
        if (out_.at_least)
            out_.says += " at least " + to_text(*out_.at_least, of.kind);
        if (out_.at_most)
            out_.says += fmt::format("{} at most {}", out_.at_least ? " and" : "",
                                     to_text(*out_.at_most, of.kind));
        if (out_.time > 0)
            out_.says += fmt::format(", but for {} at a time", span_to_text(out_.time));
        return true;
    }

    bool of_output(size_t drive, const std::string& name) {
        out_.of = drive;
        const bool times = keys_.find("times_a_day") != nullptr;
        const bool on = keys_.find("on_a_day") != nullptr;
        if (times == on)
            return lacks("either \"times_a_day\" or \"on_a_day\"", "times_a_day = 30");
        if (times) {
            out_.is = Promise::Is::times_a_day;
            out_.most_times = keys_.whole("times_a_day", 0, 10'000).value_or(0);
            out_.says = fmt::format("{} on at most {} times in 24 h", name, out_.most_times);
            return true;
        }
        out_.is = Promise::Is::on_a_day;
        out_.time = keys_.quantity("on_a_day", Kind::duration, "8 h").value_or(0);
        keys_.expect(out_.time <= 86'400'000, "on_a_day", "at most \"24 h\"");
        out_.says = fmt::format("{} on for at most {} in 24 h", name, span_to_text(out_.time));
        return true;
    }

    bool answered() {
        out_.is = Promise::Is::answered;
        out_.when = scope_.condition(keys_, "when");
        if (!keys_.require("then", "what must be then", "\"heat_lamp\""))
            return false;
        out_.then = scope_.condition(keys_, "then");
        if (!within())
            return false;
        out_.says = fmt::format("{} within {} of {}", out_.then.text, span_to_text(out_.time),
                                out_.when.text);
        return true;
    }

    bool told() {
        out_.is = Promise::Is::told;
        out_.then = scope_.condition(keys_, "told");
        std::string whose = "any part";
        if (keys_.find("of") != nullptr && !sensors(whose))
            return false;
        if (!within())
            return false;
        out_.says = fmt::format("a fault of {} told within {}", whose, span_to_text(out_.time));
        return true;
    }

    /// Those whose faults are to be told.
    bool sensors(std::string& whose) {
        const Node* list = keys_.list("of", 1, 64, "[\"roost\", \"barrel\"]");
        if (list == nullptr)
            return false;
        whose.clear();
        Names names;
        for (const Sense& sense : scope_.rig.senses)
            names.push_back(sense.name);
        for (const Node& one : list->inside()) {
            const std::string name = one.as_text() == nullptr ? "" : *one.as_text();
            size_t i = 0;
            while (i < names.size() && names[i] != name)
                ++i;
            if (i == names.size()) {
                scope_.findings.add(
                    one, fmt::format("there is no [sense.{}]{}", name, suggestion(name, names)));
                return false;
            }
            out_.senses.push_back(i);
            whose += (whose.empty() ? "" : ", ") + name;
        }
        return true;
    }

    bool within() {
        const auto time =
            keys_.required_quantity("within", Kind::duration, "10 min", "how long that may take");
        out_.time = time.value_or(0);
        return time.has_value();
    }
    bool lacks(std::string_view what, std::string_view example) {
        keys_.complain(fmt::format("{} needs {}; for example {}", keys_.label(), what, example));
        return false;
    }

    Scope& scope_;
    TableReader& keys_;
    Promise& out_;
};

} // namespace

void read_promise(Scope& scope, const Key& key, TableReader& keys) {
    keys.allow(rig::keys::of_promise);
    Promise out;
    out.name = key.text;
    out.place = key.place;
    scope.outputs_may_be_named = true;
    if (PromiseReader(scope, keys, out).read())
        scope.rig.promises.push_back(std::move(out));
    else
        keys.ignore_the_rest();
    scope.outputs_may_be_named = false;
}

} // namespace zorilla::rig
