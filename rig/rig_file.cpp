// SPDX-License-Identifier: MIT
#include "rig/rig_file.hpp"

#include "rig/files.hpp"
#include "rig/stray.hpp"
#include "rig/text.hpp"

#include <fmt/format.h>

#define TOML_EXCEPTIONS 0
#include <toml++/toml.h>

#include <algorithm>
#include <array>
#include <map>
#include <optional>
#include <tuple>

namespace zorilla::rig {

namespace {

using Names = std::vector<std::string>;

/// Collects mistakes, and knows who uses which name and pin.
class Findings {
  public:
    void add(toml::source_position at, std::string text) {
        mistakes_.push_back({at.line, at.column, std::move(text)});
    }
    void add(const toml::node& at, std::string text) { add(at.source().begin, std::move(text)); }
    void add(const toml::key& at, std::string text) { add(at.source().begin, std::move(text)); }

    std::vector<Mistake> sorted() {
        std::sort(mistakes_.begin(), mistakes_.end(), [](const Mistake& a, const Mistake& b) {
            return std::tie(a.line, a.column, a.text) < std::tie(b.line, b.column, b.text);
        });
        return std::move(mistakes_);
    }

    void claim_name(const toml::key& key, const std::string& table) {
        const std::string name(key.str());
        static const Names reserved = {"and", "or",   "not",     "in",  "on",
                                       "off", "lost", "unknown", "time"};
        const bool plain =
            !name.empty() && name[0] >= 'a' && name[0] <= 'z' &&
            name.find_first_not_of("abcdefghijklmnopqrstuvwxyz0123456789_") == std::string::npos;
        if (!plain)
            return add(key, fmt::format("\"{}\" cannot be a name here; use lower-case letters, "
                                        "digits and _, beginning with a letter",
                                        name));
        if (std::find(reserved.begin(), reserved.end(), name) != reserved.end())
            return add(key, fmt::format("\"{}\" is a word with a meaning of its own; choose "
                                        "another name",
                                        name));
        const auto [used, fresh] = names_.emplace(name, table);
        if (!fresh)
            add(key, fmt::format("the name \"{}\" is already used by {}; every part needs a name "
                                 "of its own",
                                 name, used->second));
    }

    void claim_pin(const toml::node& node, const std::string& pin, const std::string& table) {
        const auto line = node.source().begin.line;
        const auto [used, fresh] = pins_.emplace(pin, fmt::format("{} in line {}", table, line));
        if (!fresh)
            add(node, fmt::format("the pin {} is already used by {}; give one of them another pin",
                                  pin, used->second));
    }

  private:
    std::vector<Mistake> mistakes_;
    std::map<std::string, std::string> names_;
    std::map<std::string, std::string> pins_;
};

/// Reads the keys of one table and complains about what is missing, wrong or unknown.
class TableReader {
  public:
    TableReader(const toml::table& table, std::string label, Findings& findings)
        : table_(table), label_(std::move(label)), findings_(findings) {}

    const std::string& label() const { return label_; }
    const toml::node* find(std::string_view key) {
        if (std::find(known_.begin(), known_.end(), key) == known_.end())
            known_.emplace_back(key);
        return table_.get(key);
    }
    void complain(std::string text) { findings_.add(table_, std::move(text)); }

    /// A text, if the key is there.
    std::optional<std::string> text(std::string_view key, std::string_view example) {
        const toml::node* node = find(key);
        if (node == nullptr)
            return std::nullopt;
        if (const auto* string = node->as_string())
            return string->get();
        findings_.add(*node,
                      fmt::format("\"{}\" must be a text, such as {} = \"{}\"", key, key, example));
        return std::nullopt;
    }

    std::optional<std::string> required_text(std::string_view key, std::string_view example,
                                             std::string_view why) {
        auto out = text(key, example);
        if (!out && table_.get(key) == nullptr)
            complain(fmt::format("{} needs \"{}\", {}; for example {} = \"{}\"", label_, key, why,
                                 key, example));
        return out;
    }

    /// One word out of a few.
    std::optional<std::string> choice(std::string_view key, const Names& choices) {
        auto word = text(key, choices.front());
        if (!word || std::find(choices.begin(), choices.end(), *word) != choices.end())
            return word;
        findings_.add(*table_.get(key),
                      fmt::format("\"{}\" is not a possible value of \"{}\"; write {}", *word, key,
                                  listed(choices)));
        return std::nullopt;
    }

    std::optional<OnOff> on_off(std::string_view key) {
        const auto word = choice(key, {"off", "on"});
        return word ? std::optional(*word == "on" ? on : off) : std::nullopt;
    }

    std::optional<int32_t> quantity(std::string_view key, Kind kind, std::string_view example) {
        const toml::node* node = find(key);
        return node == nullptr ? std::nullopt : quantity_of(*node, key, kind, example);
    }

    std::optional<int32_t> quantity_of(const toml::node& node, std::string_view key, Kind kind,
                                       std::string_view example) {
        if (node.is_number()) {
            std::string number = node.is_integer()
                                     ? fmt::format("{}", node.as_integer()->get())
                                     : fmt::format("{}", node.as_floating_point()->get());
            const std::string unit(example.substr(example.find(' ') + 1));
            findings_.add(node, fmt::format("\"{}\" is the bare number {}, without a unit; write "
                                            "for example {} = \"{} {}\"",
                                            key, number, key, number, unit));
            return std::nullopt;
        }
        const auto* string = node.as_string();
        if (string == nullptr) {
            findings_.add(node, fmt::format("\"{}\" must be a text with a unit, such as {} = "
                                            "\"{}\"",
                                            key, key, example));
            return std::nullopt;
        }
        QuantityText read = parse_quantity(string->get(), kind, example);
        if (read.problem.empty())
            return read.thousandths;
        findings_.add(node, std::move(read.problem));
        return std::nullopt;
    }

    /// Complains about every key that nobody asked for.
    void finish() {
        for (const auto& [key, node] : table_) {
            const std::string word(key.str());
            if (std::find(known_.begin(), known_.end(), word) != known_.end())
                continue;
            const std::string near = suggestion(word, known_);
            findings_.add(key,
                          fmt::format("unknown key \"{}\" in {}{}", word, label_,
                                      near.empty() ? "; possible are " + listed(known_) : near));
        }
    }

    static std::string listed(const Names& words) {
        std::string out;
        for (size_t i = 0; i < words.size(); ++i)
            out += fmt::format("{}\"{}\"",
                               i == 0                  ? ""
                               : i + 1 == words.size() ? " or "
                                                       : ", ",
                               words[i]);
        return out;
    }

  private:
    const toml::table& table_;
    std::string label_;
    Findings& findings_;
    Names known_;
};

/// A pin of the ATmega328P by the names of its data sheet; ADC0 to ADC5 are PC0 to PC5.
std::optional<std::string> atmega328p_pin(std::string_view pin, bool analogue) {
    const auto bit_in = [&](std::string_view prefix, char last) {
        return pin.size() == prefix.size() + 1 && pin.substr(0, prefix.size()) == prefix &&
               pin.back() >= '0' && pin.back() <= last;
    };
    if (analogue)
        return bit_in("ADC", '7') ? std::optional(std::string(pin)) : std::nullopt;
    if (bit_in("PC", '5'))
        return fmt::format("ADC{}", pin.back());
    if (bit_in("PB", '7') || bit_in("PD", '7'))
        return std::string(pin);
    return std::nullopt;
}

class RigReader {
  public:
    RigFile read(std::string_view text) {
        if (const auto stray = find_stray(text)) {
            findings_.add({stray->line, stray->column},
                          fmt::format("\"{}\" may stand only in quotes or in a comment; names are "
                                      "lower-case letters, digits and _",
                                      stray->character));
            return {{}, findings_.sorted()};
        }
        toml::parse_result parsed = toml::parse(text);
        if (!parsed) {
            const auto at = parsed.error().source().begin;
            findings_.add(at, fmt::format("this is not TOML: {}", parsed.error().description()));
            return {{}, findings_.sorted()};
        }
        const toml::table& top = parsed.table();
        known_tables(top);
        rig_table(top);
        board_table(top);
        each_part(top, "sense",
                  [&](const toml::key& key, TableReader& table) { sense(key, table); });
        each_part(top, "decide",
                  [&](const toml::key& key, TableReader& table) { decide(key, table); });
        each_part(top, "drive",
                  [&](const toml::key& key, TableReader& table) { drive(key, table); });
        if (rig_.senses.empty() && top.get("sense") == nullptr)
            findings_.add(top, "a rig needs at least one sensor: a table [sense.NAME]");
        return {std::move(rig_), findings_.sorted()};
    }

  private:
    void known_tables(const toml::table& top) {
        static const Names tables = {"rig", "board", "sense", "decide", "drive"};
        for (const auto& [key, node] : top) {
            const std::string word(key.str());
            if (std::find(tables.begin(), tables.end(), word) == tables.end()) {
                const std::string near = nearest(word, tables);
                findings_.add(key, fmt::format("there is no table [{}]; {}", word,
                                               near.empty()
                                                   ? "possible are [rig], [board], [sense.NAME], "
                                                     "[decide.NAME] and [drive.NAME]"
                                                   : fmt::format("did you mean [{}]?", near)));
            } else if (!node.is_table()) {
                findings_.add(
                    key, fmt::format("\"{}\" must be a table: write [{}]", word,
                                     word == "rig" || word == "board" ? word : word + ".NAME"));
            }
        }
    }

    void rig_table(const toml::table& top) {
        rig_.name = "unnamed rig";
        const auto* table = top["rig"].as_table();
        if (table == nullptr)
            return;
        TableReader keys(*table, "[rig]", findings_);
        rig_.name = keys.text("name", "Heat lamp").value_or(rig_.name);
        keys.finish();
    }

    void board_table(const toml::table& top) {
        rig_.chip = "atmega328p";
        rig_.converter_bits = 10;
        const auto* table = top["board"].as_table();
        if (table == nullptr)
            return;
        TableReader keys(*table, "[board]", findings_);
        rig_.chip = keys.choice("chip", {"atmega328p", "other"}).value_or(rig_.chip);
        const toml::node* bits = keys.find("adc_bits");
        if (bits != nullptr) {
            const int64_t value = bits->value<int64_t>().value_or(0);
            if (value < 8 || value > 16)
                findings_.add(*bits, "\"adc_bits\" must be a whole number from 8 to 16");
            else if (rig_.chip == "atmega328p" && value != 10)
                findings_.add(*bits, fmt::format("the atmega328p has a converter of 10 bits, not "
                                                 "{}; drop \"adc_bits\", or set chip = \"other\"",
                                                 value));
            else
                rig_.converter_bits = static_cast<uint8_t>(value);
        } else if (rig_.chip == "other") {
            keys.complain("[board] with chip = \"other\" needs \"adc_bits\", the width of its "
                          "converter; for example adc_bits = 12");
        }
        keys.finish();
    }

    template <class Read>
    void each_part(const toml::table& top, const std::string& group, Read read) {
        const auto* tables = top[group].as_table();
        if (tables == nullptr)
            return;
        // toml++ sorts by name; a rig keeps the order of the file, since order has a meaning.
        std::vector<std::pair<const toml::key*, const toml::node*>> parts;
        for (const auto& [key, node] : *tables)
            parts.emplace_back(&key, &node);
        std::sort(parts.begin(), parts.end(), [](const auto& a, const auto& b) {
            const auto from = a.first->source().begin, to = b.first->source().begin;
            return std::tie(from.line, from.column) < std::tie(to.line, to.column);
        });
        for (const auto& [key, node] : parts) {
            const std::string label = fmt::format("[{}.{}]", group, key->str());
            const auto* table = node->as_table();
            if (table == nullptr) {
                findings_.add(*key, fmt::format("\"{}\" must be inside a table of its own: write "
                                                "[{}.NAME] above it",
                                                key->str(), group));
                continue;
            }
            findings_.claim_name(*key, label);
            TableReader keys(*table, label, findings_);
            read(*key, keys);
            keys.finish();
        }
    }

    std::string pin(TableReader& keys, bool analogue) {
        const std::string example = analogue ? "ADC0" : "PB0";
        auto text = keys.required_text("pin", example, "where it is connected");
        if (!text)
            return {};
        std::optional<std::string> physical = *text;
        if (rig_.chip == "atmega328p")
            physical = atmega328p_pin(*text, analogue);
        const toml::node& node = *keys.find("pin");
        if (!physical)
            findings_.add(node, fmt::format("the atmega328p has no {} pin \"{}\"; write {}",
                                            analogue ? "analogue" : "output", *text,
                                            analogue ? "ADC0 to ADC7"
                                                     : "PB0 to PB7, PC0 to PC5 or PD0 to PD7"));
        else
            findings_.claim_pin(node, *physical, keys.label());
        return *text;
    }

    void sense(const toml::key& key, TableReader& keys) {
        Sense out;
        out.name = key.str();
        if (!keys.choice("part", {"thermistor"}) && keys.find("part") == nullptr)
            keys.complain(fmt::format("{} needs \"part\", what kind of sensor it is; write part = "
                                      "\"thermistor\"",
                                      keys.label()));
        out.pin = pin(keys, true);
        bool complete = true;
        const auto need = [&](std::string_view what, Kind kind, std::string_view example,
                              std::string_view why) {
            const auto value = keys.quantity(what, kind, example);
            if (!value)
                complete = false;
            if (!value && keys.find(what) == nullptr)
                keys.complain(fmt::format("{} needs \"{}\", {}; for example {} = \"{}\"",
                                          keys.label(), what, why, what, example));
            return value.value_or(0);
        };
        const auto nominal = Resistance::from_thousandths(
            need("nominal", Kind::resistance, "10 kohm", "its resistance by the data sheet"));
        const auto beta = TemperatureDifference::from_thousandths(
            need("beta", Kind::temperature_difference, "3950 K", "its Beta by the data sheet"));
        out.spec = thermistor(nominal, beta).bits(rig_.converter_bits);
        if (const auto at = keys.quantity("nominal_at", Kind::temperature, "25 degC"))
            out.spec = out.spec.nominal_at(Temperature::from_thousandths(*at));
        divider(keys, out.spec, complete);
        range(keys, out.spec, complete);
        if (const auto within = keys.quantity("accuracy", Kind::temperature_difference, "0.05 K"))
            out.spec = out.spec.accuracy(TemperatureDifference::from_thousandths(*within));
        sound_.push_back(complete && finish_thermistor(keys, out));
        rig_.senses.push_back(std::move(out));
    }

    void divider(TableReader& keys, ThermistorSpec& spec, bool& complete) {
        const auto up = keys.quantity("pull_up", Kind::resistance, "10 kohm");
        const auto down = keys.quantity("pull_down", Kind::resistance, "10 kohm");
        const bool has_up = keys.find("pull_up") != nullptr;
        const bool has_down = keys.find("pull_down") != nullptr;
        if (has_up == has_down)
            keys.complain(fmt::format("{} needs either \"pull_up\" (resistor to the supply) or "
                                      "\"pull_down\" (resistor to ground), {}; for example pull_up "
                                      "= \"10 kohm\"",
                                      keys.label(), has_up ? "not both" : "to form the divider"));
        if (up && !has_down)
            spec = spec.pull_up(Resistance::from_thousandths(*up));
        else if (down && !has_up)
            spec = spec.pull_down(Resistance::from_thousandths(*down));
        else
            complete = false;
    }

    void range(TableReader& keys, ThermistorSpec& spec, bool& complete) {
        const toml::node* node = keys.find("range");
        if (node == nullptr)
            return;
        const auto* ends = node->as_array();
        if (ends == nullptr || ends->size() != 2) {
            complete = false;
            findings_.add(*node, "\"range\" must be the lowest and the highest temperature, such "
                                 "as range = [\"-30 degC\", \"60 degC\"]");
            return;
        }
        const auto lowest = keys.quantity_of(*ends->get(0), "range", Kind::temperature, "-30 degC");
        const auto highest = keys.quantity_of(*ends->get(1), "range", Kind::temperature, "60 degC");
        if (lowest && highest)
            spec = spec.range(Temperature::from_thousandths(*lowest),
                              Temperature::from_thousandths(*highest));
        else
            complete = false;
    }

    /// Whether the numbers make a thermistor that can be read; builds its table.
    bool finish_thermistor(TableReader& keys, Sense& out) {
        const struct {
            bool fine;
            std::string_view key;
            std::string_view must;
        } checks[] = {
            {out.spec.nominal_is_possible(), "nominal", "between 1 ohm and 10 Mohm"},
            {out.spec.nominal_at_is_possible(), "nominal_at", "between -50 and 150 degC"},
            {out.spec.beta_is_possible(), "beta",
             "between 500 K and 10,000 K; data sheets mostly say 3,000 to 4,500 K"},
            {out.spec.divider_is_possible(), keys.find("pull_up") ? "pull_up" : "pull_down",
             "between 1 ohm and 10 Mohm"},
            {out.spec.range_is_possible(), "range",
             "between -100 and 300 degC, the lower end first, and span at least 10 K"},
            {out.spec.accuracy_is_possible(), "accuracy", "between 0.001 K and 10 K"},
        };
        for (const auto& check : checks)
            if (!check.fine)
                findings_.add(*keys.find(check.key),
                              fmt::format("\"{}\" must lie {}", check.key, check.must));
        if (!out.spec.is_possible())
            return false;
        if (!out.spec.wires_can_be_told()) {
            keys.complain(fmt::format(
                "{}: from {} to {} the codes run from {} to {}; those within {} of an end cannot "
                "be told from a broken or shorted wire. Narrow \"range\", or choose a resistor "
                "nearer to the thermistor's resistance",
                keys.label(), to_text(out.spec.lowest(), 0), to_text(out.spec.highest(), 0),
                out.spec.first_code(), out.spec.last_code(), out.spec.wire_ends().margin));
            return false;
        }
        out.plan = out.spec.plan();
        if (!out.plan.close_enough) {
            keys.complain(fmt::format(
                "{}: no table of {} entries is within {} of the model (the "
                "best has {}); ask for less \"accuracy\" or a smaller "
                "\"range\"",
                keys.label(), most_table_entries, to_text(out.spec.accuracy()),
                to_text(TemperatureDifference::from_thousandths(out.plan.largest_error))));
            return false;
        }
        out.table.resize(out.plan.entries);
        fill_table(out.spec.curve(), out.plan, out.table.data());
        return true;
    }

    void decide(const toml::key& key, TableReader& keys) {
        Decide out;
        out.name = key.str();
        Names senses;
        for (const Sense& sense : rig_.senses)
            senses.push_back(sense.name);
        bool known = false;
        if (const auto of = keys.required_text("of", senses.empty() ? "roost" : senses.front(),
                                               "the sensor that it judges")) {
            const auto found = std::find(senses.begin(), senses.end(), *of);
            known = found != senses.end();
            out.of = known ? static_cast<size_t>(found - senses.begin()) : 0;
            if (!known)
                findings_.add(*keys.find("of"), fmt::format("there is no [sense.{}]{}", *of,
                                                            suggestion(*of, senses)));
        }
        const auto below = keys.quantity("below", Kind::temperature, "4 degC");
        const auto above = keys.quantity("above", Kind::temperature, "30 degC");
        const bool has_below = keys.find("below") != nullptr;
        const bool has_above = keys.find("above") != nullptr;
        if (has_below == has_above)
            keys.complain(fmt::format("{} needs either \"below\" or \"above\"{}; for example below "
                                      "= \"4 degC\"",
                                      keys.label(), has_below ? ", not both" : ""));
        const auto release =
            keys.quantity("release", Kind::temperature, has_above ? "28 degC" : "6 degC");
        if (keys.find("release") == nullptr)
            keys.complain(fmt::format(
                "{} needs \"release\", the point where it lets go again, {} the threshold; without "
                "that gap the output would chatter. For example release = \"{}\"",
                keys.label(), has_above ? "below" : "above", has_above ? "28 degC" : "6 degC"));
        if (release && (below || above) && has_below != has_above) {
            out.spec = {has_below ? Side::below : Side::above,
                        Temperature::from_thousandths(below ? *below : *above),
                        Temperature::from_thousandths(*release)};
            placed(keys, out, known && sound_[out.of]);
        }
        rig_.decides.push_back(std::move(out));
    }

    /// Complains about a release point on the wrong side, and about points out of reach.
    void placed(TableReader& keys, const Decide& decide, bool sensor_is_sound) {
        const bool is_below = decide.spec.side == Side::below;
        const toml::node& threshold = *keys.find(is_below ? "below" : "above");
        const toml::node& release = *keys.find("release");
        if (!decide.spec.release_is_beyond()) {
            const auto gap = is_below ? 2_K : -2_K;
            findings_.add(release,
                          fmt::format("the release point {} must lie {} the threshold {}, or it "
                                      "could never let go; for example release = \"{}\"",
                                      to_text(decide.spec.release, 0), is_below ? "above" : "below",
                                      to_text(decide.spec.threshold, 0),
                                      to_text(decide.spec.threshold + gap, 0)));
            return;
        }
        if (!sensor_is_sound)
            return;
        const Sense& sense = rig_.senses[decide.of];
        const bool reaches_threshold = reachable(threshold, sense, decide.spec.threshold);
        const bool reaches_release = reachable(release, sense, decide.spec.release);
        const int32_t counts = hysteresis_counts(sense.spec, decide.spec);
        if (reaches_threshold && reaches_release && counts < least_hysteresis_counts)
            findings_.add(release,
                          fmt::format("from {} to {} is {} of the converter, so that its "
                                      "noise alone would make the output chatter; move the "
                                      "release point further {}",
                                      to_text(decide.spec.threshold, 0),
                                      to_text(decide.spec.release, 0),
                                      counts == 0 ? "less than one count" : "only one count",
                                      is_below ? "up" : "down"));
    }

    /// Whether the sensor reaches the point; complains if not.
    bool reachable(const toml::node& node, const Sense& sense, Temperature point) {
        const int32_t inside = sense.spec.counts_inside(point);
        if (point < sense.spec.lowest() || point > sense.spec.highest() || inside < 0)
            findings_.add(node, fmt::format("{} cannot measure {}: its range goes from {} to {}; "
                                            "move this point, or widen \"range\" of [sense.{}]",
                                            sense.name, to_text(point, 0),
                                            to_text(sense.spec.lowest(), 0),
                                            to_text(sense.spec.highest(), 0), sense.name));
        else if (inside < least_counts_inside)
            findings_.add(node,
                          fmt::format("{} is only {} {} of the converter from the end of "
                                      "{}'s range ({} to {}), so that noise alone would make "
                                      "it unhealthy; keep {} counts away, or widen \"range\"",
                                      to_text(point, 0), inside, inside == 1 ? "count" : "counts",
                                      sense.name, to_text(sense.spec.lowest(), 0),
                                      to_text(sense.spec.highest(), 0), least_counts_inside));
        return inside >= least_counts_inside;
    }

    void drive(const toml::key& key, TableReader& keys) {
        Drive out;
        out.name = key.str();
        if (!keys.choice("part", {"relay"}) && keys.find("part") == nullptr)
            keys.complain(fmt::format("{} needs \"part\", what kind of output it is; write part = "
                                      "\"relay\"",
                                      keys.label()));
        out.pin = pin(keys, false);
        const auto active = keys.choice("active", {"low", "high"});
        if (!active && keys.find("active") == nullptr)
            keys.complain(fmt::format("{} needs \"active\", the level that switches it on, \"low\" "
                                      "or \"high\"; many relay modules are \"low\"",
                                      keys.label()));
        out.spec = RelaySpec(active == "low" ? active_low : active_high);
        const auto safe = keys.on_off("safe");
        if (!safe && keys.find("safe") == nullptr)
            keys.complain(fmt::format("{} needs \"safe\", what it does when a sensor fails, "
                                      "\"off\" or \"on\"; for a heater write safe = \"off\"",
                                      keys.label()));
        out.spec = out.spec.safe(safe.value_or(off)).rest(keys.on_off("rest").value_or(off));
        if (const auto time = keys.quantity("min_on", Kind::duration, "2 min"))
            out.spec = out.spec.min_on(Duration::from_thousandths(*time));
        if (const auto time = keys.quantity("min_off", Kind::duration, "5 min"))
            out.spec = out.spec.min_off(Duration::from_thousandths(*time));
        if (const auto time = keys.quantity("longest_on", Kind::duration, "6 h"))
            out.spec = out.spec.longest_on(Duration::from_thousandths(*time));
        if (!out.spec.times_can_be_told())
            keys.complain(fmt::format("{}: times must lie between 0 and 24 days", keys.label()));
        else if (!out.spec.longest_on_makes_sense())
            keys.complain(fmt::format("{}: \"longest_on\" must be at least \"min_on\", and needs a "
                                      "\"min_off\" to rest for afterwards; for example min_off = "
                                      "\"5 min\"",
                                      keys.label()));
        claims(keys, out);
        rig_.drives.push_back(std::move(out));
    }

    void claims(TableReader& keys, Drive& out) {
        const toml::node* node = keys.find("claims");
        const std::string example = "claims = [ { when = \"cold\", then = \"on\" } ]";
        if (node == nullptr)
            return keys.complain(fmt::format("{} needs \"claims\", when it is to be switched; for "
                                             "example {}",
                                             keys.label(), example));
        const auto* list = node->as_array();
        if (list == nullptr || list->empty() || list->size() > 255)
            return findings_.add(*node, fmt::format("\"claims\" must be a list of 1 to 255 claims; "
                                                    "for example {}",
                                                    example));
        for (const toml::node& entry : *list) {
            const auto* table = entry.as_table();
            if (table == nullptr) {
                findings_.add(entry, "a claim must look like { when = \"cold\", then = \"on\" }");
                continue;
            }
            TableReader claim_keys(*table, "a claim", findings_);
            out.claims.push_back(claim(claim_keys));
            claim_keys.finish();
        }
    }

    RigClaim claim(TableReader& keys) {
        RigClaim out;
        Names decisions;
        for (const Decide& decide : rig_.decides)
            decisions.push_back(decide.name);
        if (const auto when = keys.required_text(
                "when", decisions.empty() ? "cold" : decisions.front(), "its condition")) {
            out.text = *when;
            ConditionText read = parse_condition(*when, decisions);
            if (!read.problem.empty()) {
                auto at = keys.find("when")->source().begin;
                at.column += static_cast<toml::source_index>(1 + read.offset);
                findings_.add(at, std::move(read.problem));
            }
            out.when = std::move(read.condition);
        }
        const auto then = keys.on_off("then");
        if (!then && keys.find("then") == nullptr)
            keys.complain("a claim needs \"then\", \"on\" or \"off\"; for example then = \"on\"");
        out.then = then.value_or(off);
        return out;
    }

    Findings findings_;
    Rig rig_;
    std::vector<bool> sound_; ///< for each sensor, whether its numbers can be used
};

} // namespace

RigFile parse_rig(std::string_view text) { return RigReader().read(text); }

RigFile load_rig(const std::string& path) { return parse_rig(read_file(path)); }

} // namespace zorilla::rig
