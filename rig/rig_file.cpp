// SPDX-License-Identifier: MIT
#include "rig/rig_file.hpp"

#include "rig/files.hpp"
#include "rig/machines.hpp"
#include "rig/outputs.hpp"
#include "rig/table_reader.hpp"
#include "rig/text.hpp"
#include "rig/toml_text.hpp"

namespace zorilla::rig {

namespace {

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
        const auto parsed = parse_toml(text, findings_);
        if (!parsed)
            return {{}, findings_.sorted(), {}};
        const toml::table& top = *parsed;
        known_tables(top);
        rig_table(top);
        board_table(top);
        each_part(top, "sense",
                  [&](const toml::key& key, TableReader& table) { sense(key, table); });
        each_part(top, "derive",
                  [&](const toml::key& key, TableReader& table) { derive(key, table); });
        name_outputs(top);
        each_part(top, "pattern",
                  [&](const toml::key& key, TableReader& table) { outputs_.pattern(key, table); });
        // A decision may name a machine's states, and a machine's moves name decisions.
        each_part(top, "machine",
                  [&](const toml::key& key, TableReader& table) { machines_.machine(key, table); });
        each_part(top, "decide",
                  [&](const toml::key& key, TableReader& table) { decides_.decide(key, table); });
        machines_.finish();
        each_part(top, "drive",
                  [&](const toml::key& key, TableReader& table) { outputs_.drive(key, table); });
        if (const auto* table = top["rig"]["shutdown"].as_table()) {
            TableReader keys(*table, "[rig.shutdown]", findings_);
            outputs_.shutdown(keys);
            keys.finish();
        }
        if (const auto* table = top["rig"]["self_test"].as_table()) {
            TableReader keys(*table, "[rig.self_test]", findings_);
            outputs_.self_test(keys);
            keys.finish();
        }
        outputs_.finish();
        nevers(top);
        if (rig_.senses.empty() && top.get("sense") == nullptr)
            findings_.add(top, "a rig needs at least one sensor: a table [sense.NAME]");
        return {std::move(rig_), findings_.sorted(), findings_.sorted_warnings()};
    }

  private:
    void known_tables(const toml::table& top) {
        static const Names tables = {"rig",    "board",   "sense",   "derive",
                                     "decide", "machine", "pattern", "drive"};
        for (const auto& [key, node] : top) {
            const std::string word(key.str());
            if (std::find(tables.begin(), tables.end(), word) == tables.end()) {
                const std::string near = nearest(word, tables);
                findings_.add(
                    key, fmt::format("there is no table [{}]; {}", word,
                                     near.empty() ? "possible are [rig], [board], [sense.NAME], "
                                                    "[derive.NAME], [decide.NAME], [machine.NAME], "
                                                    "[pattern.NAME] and [drive.NAME]"
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
        if (const auto* list = keys.list("show", 1, 16, "[\"degF\"]"))
            for (const toml::node& one : *list) {
                const auto* unit = one.as_string();
                if (unit == nullptr || !ShownUnits::is_unit(unit->get()))
                    findings_.add(one, fmt::format("{} is no unit; write one that values are to be "
                                                   "shown in, such as \"degF\" or \"cm\"",
                                                   unit == nullptr
                                                       ? std::string("this")
                                                       : fmt::format("\"{}\"", unit->get())));
                else
                    rig_.show.push_back(unit->get());
            }
        keys.find("never"); // read once every name is known
        for (const char* key : {"shutdown", "self_test"})
            if (const toml::node* node = keys.find(key); node != nullptr && !node->is_table())
                findings_.add(*node, fmt::format("\"{0}\" must be a table: write [rig.{0}]", key));
        keys.finish();
    }

    /// What must never be, over outputs too.
    void nevers(const toml::table& top) {
        const toml::node* node =
            top["rig"].is_table() ? top["rig"].as_table()->get("never") : nullptr;
        if (node == nullptr)
            return;
        TableReader keys(*top["rig"].as_table(), "[rig]", findings_);
        const auto* list = keys.list("never", 1, 64, "[\"heat_lamp and ventilator\"]");
        if (list == nullptr)
            return;
        outputs_may_be_named_ = true;
        for (const toml::node& one : *list) {
            const auto* text = one.as_string();
            if (text == nullptr) {
                findings_.add(one, "what must never be is a condition, such as \"heat_lamp and "
                                   "ventilator\"");
                continue;
            }
            rig_.nevers.push_back(condition_of(one, text->get()));
        }
        outputs_may_be_named_ = false;
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

    enum class PinUse { analogue, input, output };

    std::string pin(TableReader& keys, PinUse use, std::string_view key = "pin",
                    std::string_view why = "where it is connected") {
        const bool analogue = use == PinUse::analogue;
        const std::string example = analogue ? "ADC0" : use == PinUse::input ? "PD2" : "PB0";
        auto text = keys.required_text(key, example, why);
        if (!text)
            return {};
        return pin_at(*keys.find(key), *text, use, keys);
    }

    std::string pin_at(const toml::node& node, const std::string& text, PinUse use,
                       const TableReader& keys) {
        const bool analogue = use == PinUse::analogue;
        std::optional<std::string> physical = text;
        if (rig_.chip == "atmega328p")
            physical = atmega328p_pin(text, analogue);
        if (!physical)
            findings_.add(node, fmt::format("the atmega328p has no {} pin \"{}\"; write {}",
                                            analogue                ? "analogue"
                                            : use == PinUse::output ? "output"
                                                                    : "digital",
                                            text,
                                            analogue ? "ADC0 to ADC7"
                                                     : "PB0 to PB7, PC0 to PC5 or PD0 to PD7"));
        else
            findings_.claim_pin(node, *physical, text, keys.label());
        return text;
    }

    void add_sources(ReadPart part) {
        for (Source& source : part.sources) {
            source.sound = part.sound;
            rig_.sources.push_back(std::move(source));
        }
    }

    void sense(const toml::key& key, TableReader& keys) {
        Sense out;
        out.name = key.str();
        const auto* part_name =
            keys.find("part") != nullptr ? keys.find("part")->as_string() : nullptr;
        const std::string kind = part_name != nullptr ? part_name->get() : "";
        out.pin = pin(keys, is_analogue_part(kind) ? PinUse::analogue : PinUse::input);
        if (kind == "ranger")
            pin(keys, PinUse::output, "ping_pin", "the output that starts a ping");
        if (kind == "moisture_probe")
            pin(keys, PinUse::output, "power_pin", "the output that powers it while it is read");
        PartReader in{keys, rig_, rig_.converter_bits};
        ReadPart part = read_sensor(in, out);
        // Something must stand for a sensor that could not be understood, so that what names it is
        // not called wrong too.
        if (part.sources.empty())
            part = unknown_part(out.name, kind);
        out.source = rig_.sources.size();
        out.sources = part.sources.size();
        if (part.sources.size() == 1 && part.sources.front().kind == Kind::truth)
            add_fact({Fact::Kind::switched, out.source, 0, out.name});
        add_sources(std::move(part));
        rig_.senses.push_back(std::move(out));
    }

    /// The sources of a part whose numbers are not known.
    static ReadPart unknown_part(const std::string& name, std::string_view part) {
        constexpr int32_t most = detail::largest_int32;
        const auto kind = part == "humidity_chip"                                ? Kind::humidity
                          : part == "photoresistor" || part == "phototransistor" ? Kind::light
                          : part == "ranger" || part == "value_table"            ? Kind::length
                          : part == "gas_sensor"                          ? Kind::concentration
                          : part == "percent" || part == "moisture_probe" ? Kind::percentage
                          : part == "analogue_level"                      ? Kind::truth
                                                                          : Kind::temperature;
        const bool known = is_known_part(part) && part != "value_table" && part != "pulse_counter";
        return {false, {{name, kind, -most, most, false, known}}};
    }

    void derive(const toml::key& key, TableReader& keys) {
        Derive out;
        out.name = key.str();
        PartReader in{keys, rig_, rig_.converter_bits};
        ReadPart part = read_derive(in, out);
        if (part.sources.empty())
            part = unknown_part(out.name, "");
        out.source = rig_.sources.size();
        add_sources(std::move(part));
        rig_.derives.push_back(std::move(out));
    }

    // --- Facts and conditions

    size_t add_fact(Fact fact) {
        rig_.facts.push_back(std::move(fact));
        return rig_.facts.size() - 1;
    }
    /// The number of a fact that may be there already.
    size_t fact_number(Fact fact) {
        for (size_t i = 0; i < rig_.facts.size(); ++i)
            if (rig_.facts[i].name == fact.name)
                return i;
        return add_fact(std::move(fact));
    }

    std::optional<size_t> find_fact(const FactText& text, std::string& problem) {
        if (text.verb == "warns" || text.verb == "warns_off" || text.verb == "by_hand" ||
            text.verb == "stalled")
            return find_of_drive(text, problem);
        if (text.verb == "at")
            return find_full(text, problem);
        if (text.verb == "rises" || text.verb == "falls") {
            const auto plain = find_plain({text.name, "edge", ""}, problem);
            const auto kind = text.verb == "rises" ? Fact::Kind::rises : Fact::Kind::falls;
            return plain ? std::optional(fact_number(
                               {kind, *plain, 0, fmt::format("{}({})", text.verb, text.name)}))
                         : std::nullopt;
        }
        if (text.verb.empty() || text.verb == "lost")
            return text.verb.empty() ? find_plain(text, problem) : find_lost(text, problem);
        return text.verb == ">=" || text.verb == "locked" ? find_of_decide(text, problem)
                                                          : find_of_machine(text, problem);
    }

    /// A name that is a truth by itself.
    std::optional<size_t> find_plain(const FactText& text, std::string& problem) {
        Names names;
        for (size_t i = 0; i < rig_.facts.size(); ++i) {
            const Fact& fact = rig_.facts[i];
            if (fact.kind != Fact::Kind::switched && fact.kind != Fact::Kind::decision)
                continue;
            if (fact.name == text.name)
                return i;
            names.push_back(fact.name);
        }
        for (size_t i = 0; i < rig_.drives.size(); ++i)
            if (rig_.drives[i].name == text.name) {
                if (outputs_may_be_named_ && text.verb.empty())
                    return fact_number({Fact::Kind::is_on, i, 0, std::string(text.name)});
                return fail_fact(
                    problem,
                    "{0} is an output; only \"never\" of [rig] may look at those. Name "
                    "what switches it",
                    text.name);
            }
        for (const Decide& decide : rig_.decides)
            if (decide.name == text.name && decide.part == Decide::Part::curve)
                return fail_fact(problem,
                                 "{0} is a curve, neither yes nor no; an output follows it with "
                                 "then = \"{0}\"",
                                 text.name);
            else if (decide.name == text.name)
                return fail_fact(problem,
                                 "{0} has stages; write {0} >= 1, with the stage from which "
                                 "on it counts",
                                 text.name);
        for (const RigMachine& machine : rig_.machines)
            if (machine.name == text.name)
                return fail_fact(problem, "{0} is a machine; write {0} in {1}", text.name,
                                 machine.states.empty() ? "STATE" : machine.states.front());
        for (const Source& source : rig_.sources)
            if (source.name == text.name)
                return fail_fact(
                    problem,
                    "{0} is a quantity, neither yes nor no; make a [decide.NAME] with of "
                    "= \"{0}\", or write lost({0})",
                    text.name);
        return fail_fact(problem, "there is no [decide.{}]{}", text.name,
                         suggestion(text.name, names));
    }
    std::optional<size_t> find_lost(const FactText& text, std::string& problem) {
        Names names;
        for (size_t i = 0; i < rig_.sources.size(); ++i) {
            if (rig_.sources[i].name == text.name)
                return fact_number({Fact::Kind::lost, i, 0, fmt::format("lost({})", text.name)});
            names.push_back(rig_.sources[i].name);
        }
        return fail_fact(problem, "there is no [sense.{}] that could be lost{}", text.name,
                         suggestion(text.name, names));
    }
    /// What an output tells of itself, after the pass before if it stands further down.
    std::optional<size_t> find_of_drive(const FactText& text, std::string& problem) {
        const struct {
            std::string_view verb;
            Fact::Kind kind;
            const char* key;
            const char* needs;
        } verbs[] = {
            {"warns", Fact::Kind::warns, "warn", "\"warn\", how long it warns"},
            {"warns_off", Fact::Kind::warns_off, "warn_off",
             "\"warn_off\", how long it warns before it switches off"},
            {"by_hand", Fact::Kind::by_hand, "by_hand", "\"by_hand\", who may take it over"},
            {"stalled", Fact::Kind::stalled, "turns", "\"turns\", what counts its turns"},
        };
        Names names;
        for (const auto& verb : verbs) {
            if (verb.verb != text.verb)
                continue;
            const auto drive = outputs_.number_of(text.name, names);
            if (!drive)
                return fail_fact(problem, "there is no [drive.{}]{}", text.name,
                                 suggestion(text.name, names));
            const toml::table* table = drives_[*drive].second;
            const bool warns = verb.kind == Fact::Kind::warns && table != nullptr &&
                               table->get("warn_off") != nullptr;
            if (table != nullptr && table->get(verb.key) == nullptr && !warns)
                return fail_fact(problem, "{0}({1}) can never be: [drive.{1}] has no {2}",
                                 text.verb, text.name, verb.needs);
            return fact_number({verb.kind, *drive, 0, fmt::format("{}({})", text.verb, text.name)});
        }
        return std::nullopt;
    }
    std::optional<size_t> find_full(const FactText& text, std::string& problem) {
        Names names;
        const auto drive = outputs_.number_of(text.name, names);
        if (!outputs_may_be_named_ || !drive)
            return fail_fact(problem,
                             drive ? "only \"never\" of [rig] may look at outputs. Name "
                                     "what sets {}"
                                   : "there is no [drive.{}]",
                             text.name);
        if (text.object != "full")
            return fail_fact(problem, "write {0} at full, or {0} alone for anything but off",
                             text.name);
        return fact_number({Fact::Kind::at_full, *drive, 0, fmt::format("{} at full", text.name)});
    }
    std::optional<size_t> find_of_decide(const FactText& text, std::string& problem) {
        const bool locked = text.verb == "locked";
        const auto wanted = locked ? Decide::Part::attempts : Decide::Part::ladder;
        Names names;
        for (size_t i = 0; i < rig_.decides.size(); ++i) {
            const Decide& decide = rig_.decides[i];
            if (decide.part == wanted)
                names.push_back(decide.name);
            if (decide.name != text.name || decide.part != wanted)
                continue;
            if (locked)
                return fact_number(
                    {Fact::Kind::locked, i, 0, fmt::format("locked({})", text.name)});
            const auto most = std::max<size_t>(decide.stages.size(), 1);
            const size_t stage = stage_number(text.object);
            if (stage < 1 || stage > most)
                return fail_fact(problem, "{} has the stages 1 to {}, not \"{}\"", text.name, most,
                                 text.object);
            return fact_number({Fact::Kind::at_least, i, static_cast<uint8_t>(stage),
                                fmt::format("{} >= {}", text.name, stage)});
        }
        return locked ? fail_fact(problem,
                                  "there is no [decide.{}] with act_for that could be locked{}",
                                  text.name, suggestion(text.name, names))
                      : fail_fact(problem, "there is no [decide.{}] with stages{}", text.name,
                                  suggestion(text.name, names));
    }
    static size_t stage_number(std::string_view text) {
        return text.size() > 2 || text.find_first_not_of("0123456789") != std::string_view::npos
                   ? 0
                   : static_cast<size_t>(std::stoi(std::string(text)));
    }
    std::optional<size_t> find_of_machine(const FactText& text, std::string& problem) {
        Names names;
        for (size_t i = 0; i < rig_.machines.size(); ++i) {
            const RigMachine& machine = rig_.machines[i];
            names.push_back(machine.name);
            if (machine.name != text.name)
                continue;
            for (size_t s = 0; s < machine.states.size(); ++s)
                if (machine.states[s] == text.object)
                    return fact_number(
                        {text.verb == "in"       ? Fact::Kind::in_state
                         : text.verb == "enters" ? Fact::Kind::enters
                                                 : Fact::Kind::leaves,
                         i, static_cast<uint8_t>(s),
                         fmt::format("{} {} {}", text.name, text.verb, text.object)});
            return fail_fact(problem, "{} has no state \"{}\"{}", text.name, text.object,
                             suggestion(text.object, machine.states));
        }
        return fail_fact(problem, "there is no [machine.{}]{}", text.name,
                         suggestion(text.name, names));
    }
    template <class... Parts>
    static std::optional<size_t> fail_fact(std::string& problem, fmt::format_string<Parts...> text,
                                           Parts&&... parts) {
        problem = fmt::format(text, std::forward<Parts>(parts)...);
        return std::nullopt;
    }

    /// A condition as a key holds it; not given if the key is missing.
    WrittenCondition condition(TableReader& keys, std::string_view key) {
        WrittenCondition out;
        const toml::node* node = keys.find(key);
        if (node == nullptr)
            return out;
        const auto text = keys.text(key, "cold and not airing");
        return text ? condition_of(*node, *text) : out;
    }
    WrittenCondition condition_of(const toml::node& node, const std::string& text) {
        WrittenCondition out;
        out.text = text;
        ConditionText read =
            parse_condition(text, [this](const FactText& fact, std::string& problem) {
                return find_fact(fact, problem);
            });
        if (!read.problem.empty()) {
            auto at = node.source().begin;
            at.column += static_cast<toml::source_index>(1 + read.offset);
            findings_.add(at, std::move(read.problem));
        }
        out.condition = std::move(read.condition);
        return out;
    }

    // --- Outputs

    /// Learns the names of all outputs, since whatever is read before them may name them.
    void name_outputs(const toml::table& top) {
        const auto* drives = top["drive"].as_table();
        if (drives == nullptr)
            return;
        for (const auto& [key, node] : *drives)
            drives_.emplace_back(&key, node.as_table());
        std::sort(drives_.begin(), drives_.end(), [](const auto& a, const auto& b) {
            const auto from = a.first->source().begin, to = b.first->source().begin;
            return std::tie(from.line, from.column) < std::tie(to.line, to.column);
        });
        std::vector<const toml::key*> keys;
        for (const auto& [key, table] : drives_)
            keys.push_back(key);
        outputs_.outputs(std::move(keys));
    }

    std::vector<std::string> pins(TableReader& keys, std::string_view key) {
        std::vector<std::string> out;
        const std::string example = "[\"PD4\", \"PD5\", \"PD6\"]";
        if (!keys.require(key, "where its LEDs are connected, the lowest first", example))
            return out;
        const auto* list = keys.list(key, 1, 16, example);
        if (list == nullptr)
            return out;
        for (const toml::node& node : *list) {
            const auto* text = node.as_string();
            if (text == nullptr)
                findings_.add(node, "a pin is a text, such as \"PD4\"");
            else
                out.push_back(pin_at(node, text->get(), PinUse::output, keys));
        }
        return out;
    }

    bool has_pwm(const std::string& name) const {
        static const Names with_pwm = {"PB1", "PB2", "PB3", "PD3", "PD5", "PD6"};
        return rig_.chip != "atmega328p" ||
               std::find(with_pwm.begin(), with_pwm.end(), name) != with_pwm.end();
    }

    Findings findings_;
    Rig rig_;
    bool outputs_may_be_named_ = false;
    std::vector<std::pair<const toml::key*, const toml::table*>> drives_; ///< in their order
    OutputReader outputs_{
        rig_,
        findings_,
        {[this](TableReader& keys, std::string_view key) { return condition(keys, key); },
         [this](TableReader& keys, std::string_view key, std::string_view why) {
             return pin(keys, PinUse::output, key, why);
         },
         [this](TableReader& keys, std::string_view key) { return pins(keys, key); },
         [this](const std::string& name) { return has_pwm(name); },
         [this](Fact fact) { return fact_number(std::move(fact)); }}};
    const ReadCondition condition_ = [this](TableReader& keys, std::string_view key) {
        return condition(keys, key);
    };
    DecideReader decides_{rig_, findings_, condition_};
    MachineReader machines_{rig_, findings_, condition_};
};

} // namespace

std::vector<DecidePoint> points_of(const Decide& decide) {
    const auto side = [](Side s) { return s == Side::below ? "below" : "above"; };
    using Q = AnyQuantity;
    const auto of_threshold = [&side](const ThresholdSpec<Q>& spec, std::string name) {
        return DecidePoint{spec.threshold, spec.release,
                           fmt::format("{} {}", std::move(name), side(spec.side)),
                           [spec](Q v) { return spec.reached_by(v); },
                           [spec](Q v) { return spec.released_by(v); }};
    };
    switch (decide.part) {
    case Decide::Part::threshold: return {of_threshold(decide.spec, decide.name)};
    case Decide::Part::window: {
        const auto& w = decide.window;
        return {{w.low, w.low_release,
                 fmt::format("{} {}", decide.name, w.is_inside ? "from" : "below"),
                 [w](Q v) { return w.is_inside ? v >= w.low : v < w.low; },
                 [w](Q v) { return w.is_inside ? v < w.low_release : v > w.low_release; }},
                {w.high, w.high_release,
                 fmt::format("{} {}", decide.name, w.is_inside ? "up to" : "above"),
                 [w](Q v) { return w.is_inside ? v <= w.high : v > w.high; },
                 [w](Q v) { return w.is_inside ? v > w.high_release : v < w.high_release; }}};
    }
    case Decide::Part::ladder: {
        std::vector<DecidePoint> out;
        for (size_t i = 0; i < decide.stages.size(); ++i)
            out.push_back(of_threshold(decide.stages[i], fmt::format("{} {}", decide.name, i + 1)));
        return out;
    }
    case Decide::Part::curve:
    case Decide::Part::condition:
    case Decide::Part::attempts: break;
    }
    return {};
}

uint16_t code_of_point(const Sense& sense, const std::function<bool(AnyQuantity)>& turned,
                       AnyQuantity at) {
    const size_t first = sense.scale.first, last = sense.scale.last;
    const auto is = [&](size_t code) {
        const AnyReading reading = sense.by_code[code];
        return reading.ok() && turned(reading.value_or({}));
    };
    if (!sense.by_code.empty() && last < sense.by_code.size() && is(first) != is(last)) {
        // From the end where it has turned, to the last code where it still has.
        const bool from_first = is(first);
        size_t code = from_first ? first : last;
        while (is(from_first ? code + 1 : code - 1))
            code = from_first ? code + 1 : code - 1;
        return static_cast<uint16_t>(code);
    }
    return sense.scale.code_at(at);
}

const Sense* Rig::sense_of(size_t source) const {
    for (const Sense& sense : senses)
        if (source >= sense.source && source < sense.source + sense.sources)
            return &sense;
    return nullptr;
}

RigFile parse_rig(std::string_view text) { return RigReader().read(text); }

RigFile load_rig(const std::string& path) { return parse_rig(read_file(path)); }

} // namespace zorilla::rig
