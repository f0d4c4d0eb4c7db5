// SPDX-License-Identifier: MIT
// From TOML to a world.
#include "bench/world/world.hpp"
#include "rig/read/toml.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <map>

namespace zorilla::bench {

using rig::Kind;
using rig::Names;
using rig::Node;
using rig::TableReader;

namespace {

const std::vector<rig::PartKey> of_world = {{"name", "\"A hen house in winter\""},
                                            {"begins", "\"06:30\""},
                                            {"date", "\"12-06\""},
                                            {"step", "\"1 s\""}};

void read_fault(rig::Findings& found, const std::string& name, const Node& table, WorldFault& out) {
    TableReader keys(table, fmt::format("[fault.{}]", name), found,
                     {{"of", "\"roost\""}, {"is", "\"open\""}});
    keys.allow(Schedule::keys());
    out.name = name;
    out.of = keys.required_text("of", "roost", "what breaks: a sensor, an output or \"supply\"")
                 .value_or("");
    Names words = fault_words();
    for (const char* more : {"stuck on", "stuck off", "lost"})
        words.emplace_back(more);
    if (keys.require("is", "what is wrong with it", "\"open\"")) {
        const auto word = keys.choice("is", words);
        out.fault = fault_of(word.value_or("")).value_or(rig::Fault::none);
        out.stuck_on = word == "stuck on";
        out.what = out.of == "supply"                  ? WorldFault::Of::supply
                   : word && word->find("stuck ") == 0 ? WorldFault::Of::output
                                                       : WorldFault::Of::sensor;
        if (word && (word == "lost") != (out.of == "supply"))
            found.add(*table.get("is"), "only of = \"supply\" is \"lost\", and it can be "
                                        "nothing else; a sensor's wire is \"open\"");
    }
    if (keys.find("at") == nullptr && keys.find("times_a_day") == nullptr)
        keys.complain(fmt::format("{} needs \"at\", when it begins, or \"times_a_day\"; for "
                                  "example at = [\"2d 02:00\"]",
                                  keys.label()));
    out.when.stream = stream_of(name);
    out.when.read(keys, "1 h");
    keys.finish();
}

class WorldReader : public WorldScope {
  public:
    WorldFile read(Node written, const std::string& in) {
        findings = &found_;
        folder = in;
        world_ = std::make_shared<World>();
        const Node& top = written;
        if (top.get("sense") != nullptr && top.get("sees") == nullptr) {
            found_.add(top, "this is a rig, not a world: a world has tables such as "
                            "[weather.outside] and [warmth.NAME]; docs/worlds.md has all");
            return {world_, found_.sorted()};
        }
        known_tables(top);
        if (const Node* table = top.get("world"); table != nullptr && table->is_table())
            world_table(*table);
        for (const ElementKind& kind : element_kinds())
            each(top, kind.word, [&](const rig::Key& key, const Node&) { make(kind, key); });
        size_t next = 0;
        double fastest = 0;
        for (const ElementKind& kind : element_kinds())
            each(top, kind.word, [&](const rig::Key& key, const Node& table) {
                TableReader keys(table, fmt::format("[{}.{}]", kind.word, key.text), found_,
                                 kind.keys);
                world_->elements[next++]->read(keys, *this);
                keys.finish();
            });
        each(top, "sees", [&](const rig::Key& key, const Node& table) { sees(key, table); });
        each(top, "parts", [&](const rig::Key& key, const Node& table) { parts(key, table); });
        each(top, "fault", [&](const rig::Key& key, const Node& table) { fault(key, table); });
        if (world_->elements.empty())
            found_.add(top, "a world needs something in it, such as [weather.outside] and "
                            "[warmth.NAME]; docs/worlds.md has all");
        WorldFile out;
        out.mistakes = found_.sorted();
        if (out.mistakes.empty())
            for (const auto& element : world_->elements)
                fastest = std::max(fastest, element->fastest());
        if (!given_step_)
            world_->step = fastest > 0 ? std::min(10.0, 1 / (20 * fastest)) : 10;
        world_->written = std::move(written);
        out.world = world_;
        return out;
    }

    std::optional<WorldRef> look(TableReader& keys, std::string_view key, Kind kind, bool must,
                                 std::string_view why) override {
        const auto name = must ? keys.required_text(key, "outside", why) : keys.text(key, "roost");
        if (!name)
            return std::nullopt;
        Names names;
        for (const WorldValue& value : world_->values)
            if (value.kind == kind)
                names.push_back(value.name);
        const auto index = world_->value(*name);
        if (index && world_->values[*index].kind == kind) {
            const Element* element = element_of(*name);
            return element != nullptr && element->first_is_state()
                       ? WorldRef{true, element->state, *index}
                       : WorldRef{false, *index, *index};
        }
        found_.add(*keys.table().get(key),
                   index ? fmt::format("\"{}\" is {}, but \"{}\" needs {}", *name,
                                       rig::name_of(world_->values[*index].kind), key,
                                       rig::name_of(kind))
                         : fmt::format("there is nothing called \"{}\" in this world{}", *name,
                                       rig::suggestion(*name, names)));
        return std::nullopt;
    }

    const Element* element(TableReader& keys, std::string_view key, std::string_view word,
                           std::string_view why) override {
        const auto name = keys.required_text(key, "house", why);
        if (!name)
            return nullptr;
        Names names;
        for (size_t i = 0; i < world_->elements.size(); ++i) {
            if (world_->words[i] != word)
                continue;
            names.push_back(world_->elements[i]->name);
            if (names.back() == *name)
                return world_->elements[i].get();
        }
        found_.add(*keys.table().get(key), fmt::format("there is no [{}.{}]{}", word, *name,
                                                       rig::suggestion(*name, names)));
        return nullptr;
    }

    const Element* element_of(const std::string& name) const override {
        for (const auto& element : world_->elements)
            if (element->name == name)
                return element.get();
        return nullptr;
    }

    Acting acting(TableReader& keys) override {
        const auto name = keys.text("by", "heat_lamp");
        Acting out;
        if (!name)
            return out;
        out.always = false;
        out.name = *name;
        if (const auto index = world_->value(*name);
            index && world_->values[*index].kind == Kind::truth) {
            out.by = *index;
            return out;
        }
        for (const World::Output& output : world_->outputs)
            if (output.name == *name) {
                out.by = output.value;
                return out;
            }
        out.by = static_cast<uint32_t>(world_->values.size());
        world_->outputs.push_back({*name, keys.table().get("by")->place(), out.by});
        world_->values.push_back({*name, Kind::truth});
        return out;
    }

  private:
    template <class Do> void each(const Node& top, const std::string& group, Do act) {
        const Node* tables = top.get(group);
        for (size_t i = 0; tables != nullptr && tables->is_table() && i < tables->size(); ++i)
            if ((*tables)[i].is_table())
                act(tables->keys()[i], (*tables)[i]);
            else
                found_.add(tables->keys()[i],
                           fmt::format("\"{}\" must be inside a table of its own: write [{}.NAME] "
                                       "above it",
                                       tables->keys()[i].text, group));
    }

    void known_tables(const Node& top) {
        Names tables = {"world", "sees", "parts", "fault"};
        std::string all = "[world]";
        for (const ElementKind& kind : element_kinds()) {
            tables.emplace_back(kind.word);
            all += fmt::format(", [{}.NAME]", kind.word);
        }
        for (size_t i = 0; i < top.size(); ++i) {
            const std::string& word = top.keys()[i].text;
            const std::string near = rig::nearest(word, tables);
            if (std::find(tables.begin(), tables.end(), word) == tables.end())
                found_.add(top.keys()[i],
                           fmt::format("there is no table [{}] in a world; {}", word,
                                       near.empty() ? fmt::format("possible are {}, [sees.SENSOR], "
                                                                  "[parts.SENSOR] and [fault.NAME]",
                                                                  all)
                                                    : fmt::format("did you mean [{}]?", near)));
            else if (!top[i].is_table())
                found_.add(top.keys()[i], fmt::format("\"{}\" must be a table", word));
        }
    }

    void world_table(const Node& table) {
        TableReader keys(table, "[world]", found_, of_world);
        world_->name = keys.text("name", "A hen house in winter").value_or(world_->name);
        world_->begins = clock_time(keys, "begins").value_or(0);
        if (const auto date = keys.text("date", "12-06")) {
            constexpr int before[] = {0, 31, 59, 90, 120, 151, 181, 212, 243, 273, 304, 334, 365};
            int month = 0, day = 0, end = 0;
            if (std::sscanf(date->c_str(), "%2d-%2d%n", &month, &day, &end) == 2 &&
                static_cast<size_t>(end) == date->size() && month >= 1 && month <= 12 && day >= 1 &&
                day <= before[month] - before[month - 1])
                world_->day_of_year = before[month - 1] + day;
            else
                found_.add(*table.get("date"), "\"date\" must be a month and a day, such as date = "
                                               "\"12-06\" for the sixth of December");
        }
        if (const auto step = keys.quantity("step", Kind::duration, "1 s");
            step && keys.expect(*step > 0, "step", "above 0")) {
            world_->step = std::min(*step / 1000.0, 10.0); // as often as the weather is looked at
            given_step_ = true;
        }
        keys.finish();
    }

    void make(const ElementKind& kind, const rig::Key& key) {
        auto element = kind.make();
        element->name = key.text;
        element->value = static_cast<uint32_t>(world_->values.size());
        element->state = world_->states;
        found_.claim_name(key, fmt::format("[{}.{}]", kind.word, key.text));
        for (WorldValue& value : element->values())
            world_->values.push_back(std::move(value));
        world_->states += element->states();
        if (element->has_bounds())
            world_->bounded.push_back(element.get());
        world_->elements.push_back(std::move(element));
        world_->words.emplace_back(kind.word);
    }

    std::optional<rig::Measure> measure(TableReader& keys, const char* key, const char* example) {
        const auto text = keys.text(key, example);
        Kind kind = Kind::truth;
        if (!text)
            return std::nullopt;
        if (!rig::kind_of(*text, kind)) {
            found_.add(*keys.table().get(key),
                       fmt::format("\"{}\" is no quantity with a unit; write for example {} = "
                                   "\"{}\"",
                                   *text, key, example));
            return std::nullopt;
        }
        const auto value = keys.quantity(key, kind, example);
        return value ? std::optional(rig::Measure{*value, kind}) : std::nullopt;
    }

    void sees(const rig::Key& key, const Node& table) {
        TableReader keys(table, fmt::format("[sees.{}]", key.text), found_,
                         {{"of", "\"roost\""},
                          {"value", "\"50 %\""},
                          {"at", "\"roost\""},
                          {"from", "\"900 mm\""},
                          {"above", "\"40 mm\""},
                          {"lag", "\"40 s\""},
                          {"noise", "0.7"}});
        Sees out;
        out.sensor = key.text;
        out.place = key.place;
        out.of = keys.text("of", "roost").value_or("");
        out.fixed = measure(keys, "value", "50 %");
        if (table.get("of") != nullptr && table.get("value") != nullptr)
            keys.complain(
                fmt::format("{} sees \"of\" something, or a \"value\" that never changes; "
                            "not both",
                            keys.label()));
        if (!out.of.empty() && !world_->value(out.of)) {
            Names names;
            for (const WorldValue& value : world_->values)
                names.push_back(value.name);
            found_.add(*table.get("of"),
                       fmt::format("there is nothing called \"{}\" in this world{}", out.of,
                                   rig::suggestion(out.of, names)));
        }
        if (look(keys, "at", Kind::temperature, false, ""))
            out.at = *table.get("at")->as_text();
        if (const auto from = keys.quantity("from", Kind::length, "900 mm"))
            out.from = rig::in_formulas(*from, Kind::length);
        out.above = measure(keys, "above", "40 mm");
        out.lag = keys.quantity("lag", Kind::duration, "40 s").value_or(0) / 1000.0;
        if (const auto noise = keys.ratio("noise");
            noise && keys.expect(*noise >= 0, "noise", "0 or above"))
            out.noise = *noise / 1000.0;
        keys.finish();
        world_->sees.push_back(std::move(out));
    }

    void parts(const rig::Key& key, const Node& table) {
        World::Parts out{key.text, key.place, {}};
        for (size_t i = 0; i < table.size(); ++i) {
            const std::string& name = table.keys()[i].text;
            const std::string* text = table[i].as_text();
            Kind kind = Kind::percentage;
            if (text != nullptr && name == "offset" && rig::kind_of(*text, kind))
                kind = rig::difference_of(kind);
            const rig::QuantityText read =
                rig::parse_quantity(text == nullptr ? "" : *text, kind, "1 %");
            if (text == nullptr || !read.problem.empty() || read.thousandths < 0 ||
                (name != "offset" && read.thousandths > 90'000))
                found_.add(table[i], fmt::format("how much \"{}\" may stray is a percentage up to "
                                                 "90 %, or of \"offset\" a quantity; for example "
                                                 "{} = \"{}\"",
                                                 name, name, name == "offset" ? "0.5 K" : "1 %"));
            else
                out.tolerances.emplace_back(name,
                                            read.thousandths / (name == "offset" ? 1e3 : 1e5));
        }
        world_->parts.push_back(std::move(out));
    }

    void fault(const rig::Key& key, const Node& table) {
        WorldFault out;
        out.place = key.place;
        read_fault(found_, key.text, table, out);
        world_->faults.push_back(std::move(out));
    }

    rig::Findings found_;
    std::shared_ptr<World> world_;
    bool given_step_ = false;
};

} // namespace

WorldFile parse_world(std::string_view text, const std::string& folder) {
    rig::Findings findings;
    std::optional<Node> written = rig::parse_toml(text, findings);
    if (!written)
        return {std::make_shared<World>(), findings.sorted()};
    return make_world(std::move(*written), folder);
}

std::vector<rig::Mistake> read_fault(const std::string& name, const Node& table, WorldFault& out) {
    rig::Findings found;
    read_fault(found, name, table, out);
    return found.sorted();
}

WorldFile make_world(Node written, const std::string& folder) {
    return WorldReader().read(std::move(written), folder);
}

WorldFile load_world(const std::string& path) {
    const size_t slash = path.rfind('/');
    return parse_world(rig::read_file(path),
                       slash == std::string::npos ? "" : path.substr(0, slash + 1));
}

} // namespace zorilla::bench
